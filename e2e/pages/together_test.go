package pages_test

import (
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Two people see each other in the outline and on a page, one asks the other for the page, is told
// "not now" once, and gets it with every word the second time.
func TestSeeingEachOther(t *testing.T) {
	site := kit.Site(t, true)
	ines, anselm := browser.Open(t, site.URL), browser.Open(t, site.URL)
	ines.SignIn("ines")
	anselm.SignIn("anselm")
	lawns := testkit.EntryID(t, site, "/visitors/picnic-lawns")
	ines.Go("/studio/sitemap?at=" + lawns)
	anselm.Go("/studio/sitemap")
	anselm.Until(`document.querySelector("#here .here-badge")?.title.startsWith("Ines Barrow, in the sitemap since")`)
	anselm.MustElement("#o-find").MustInput("picnic")
	anselm.Until(`document.querySelector("#row-` + lawns + ` .here-badge")?.title === "Ines Barrow is here"`)

	// What one plans stands in the other's outline within two seconds.
	c := testkit.SignIn(t, site, "marta")
	began := time.Now()
	status, _ := c.Act(map[string]any{"do": "retitle", "id": lawns, "value": "Lawns for picnics", "confirmed": true})
	require.Equal(t, 200, status)
	anselm.Until(`document.querySelector("#row-` + lawns + ` .t")?.textContent === "Lawns for picnics"`)
	require.Less(t, time.Since(began), 6*time.Second, "within 2 s, on a machine that does nothing else")

	ines.Go("/studio/pages/" + lawns)
	ines.Until(`document.querySelector("#sheet .ProseMirror")`)
	anselm.Go("/studio/pages/" + lawns)
	anselm.Until(`document.getElementById("lock-note").textContent.includes("Ines Barrow has this page open since")`)
	anselm.Until(`document.querySelector("#here .here-badge")?.title.startsWith("Ines Barrow, writing since")`)
	pressPart(anselm, "#lock-note button", "Ask Ines for it")
	ines.Until(`document.getElementById("lock-note").textContent.includes("Anselm Friis would like to write")`)
	pressPart(ines, "#lock-note button", "Not now")
	anselm.Until(`document.getElementById("lock-note").textContent.includes("still writing")`)

	_, err := site.Pool.Exec(t.Context(), `UPDATE locks SET asked_at = asked_at - interval '3 minutes'`) // later
	require.NoError(t, err)
	anselm.Go("/studio/pages/" + lawns)
	pressPart(anselm, "#lock-note button", "Ask Ines for it")
	ines.Until(`document.getElementById("lock-note").textContent.includes("Anselm Friis would like to write")`)
	testkit.InText(ines)
	testkit.Insert(ines, "Blankets are lent at the gate. ")
	pressPart(ines, "#lock-note button", "Save and hand it over")
	anselm.Until(`document.getElementById("lock-note").hidden && document.getElementById("sheet").textContent.includes("Blankets are lent at the gate.")`)
	ines.Until(`document.getElementById("lock-note").textContent.includes("Anselm Friis has this page open")`)
}

// Many windows of one browser share one connection: each of them goes on working, and is told what others do.
func TestManyWindowsOfOneBrowser(t *testing.T) {
	site := kit.Site(t, true)
	first := browser.Open(t, site.URL)
	first.SignIn("ines")
	tabs := []*testkit.Tab{first}
	for range 8 {
		tabs = append(tabs, first.Another())
	}
	lawns := testkit.EntryID(t, site, "/visitors/picnic-lawns")
	for _, tab := range tabs {
		require.NoError(t, proto.EmulationSetFocusEmulationEnabled{Enabled: true}.Call(tab.Page)) // all are looked at
		tab.Go("/studio/sitemap?at=" + lawns)                                                     // a browser that has no connection left would wait here
	}
	windows := func() (n int) {
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM open_windows`).Scan(&n))
		return n
	}
	require.Eventually(t, func() bool { return windows() == len(tabs) }, 30*time.Second, 50*time.Millisecond, "each says where it is")
	require.Equal(t, 1, site.Windows(), "over one connection")
	c := testkit.SignIn(t, site, "marta")
	status, _ := c.Act(map[string]any{"do": "retitle", "id": lawns, "value": "Lawns for picnics", "confirmed": true})
	require.Equal(t, 200, status)
	for _, tab := range tabs {
		tab.Until(`document.querySelector("#row-` + lawns + ` .t")?.textContent === "Lawns for picnics"`)
		require.Empty(t, tab.Problems())
	}
}
