package site_test

import (
	"archive/zip"
	"bytes"
	"io"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// An older site is worked through by the keyboard alone: the first page, the second, gone,
// another page, and what was done taken back; then all clear ones at once. What is planned goes
// out with the edition, and answers.
func TestOlderSiteByKeyboard(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/addresses/older?show=look")
	at := func() string { return tab.MustElement("#older-beside h2.address").MustText() }
	press := func(key input.Key, said string) {
		t.Helper()
		tab.Keyboard.MustType(key)
		tab.MustElementR("#older [role=status]", said)
	}
	require.Equal(t, "/dept/seed", at())
	press(input.Key('1'), "Redirected /dept/seed")
	require.Equal(t, "/dept/hort", at())
	tab.Keyboard.MustType(input.ArrowDown)
	tab.Until("document.querySelector('#older-beside h2.address').textContent === '/dept/glass'")
	press(input.Enter, "Redirected /dept/glass")
	next := at()
	press(input.Key('g'), "Redirected "+next)
	press(input.Key('u'), "Undone: redirected "+next)
	require.Equal(t, next, at(), "what was taken back is selected again")
	tab.Keyboard.MustType(input.Key('p'))
	tab.Until("document.activeElement.id === 'ol-else'")
	tab.MustInsertText("Lost children")
	tab.MustElementR(".suggest", "Lost children")
	tab.Keyboard.MustType(input.ArrowDown, input.Enter)
	tab.Until("document.querySelector('.decide [name=to-id]').value !== ''")
	press(input.Enter, "Redirected "+next)
	require.Contains(t, tab.MustElement("#older-beside .cover").MustText(), "65 of 227")
	require.Empty(t, tab.Problems())

	t.Log("all clear ones at once, and the edition")
	tab.MustElementR("button", "Accept .* clear ones").MustClick()
	tab.MustElementR("#older [role=status]", "Redirected 1.. addresses")
	testkit.PublishOnly(t, site, "The older site is here", func(aspect string) bool { return aspect == "redirect" })
	for old, now := range map[string]string{"/dept/seed/": "/seed-vault", "/it/password.asp": "/working-here/computers-and-phones/forgotten-password", "/hr/sick.html": "/working-here/leave/sick-leave", "/page.asp?id=118": "/volunteers/volunteer-rota"} {
		resp, _ := testkit.AskFor(t, "GET", site.URL+old, nil)
		require.Equal(t, []any{301, now}, []any{resp.StatusCode, resp.Header.Get("Location")}, old)
	}

	t.Log("the rules for the machine that still answers under the old name")
	status, body := testkit.SignIn(t, site, "ines").Get("/studio/addresses/rules/file?for=nginx&table=live&base=https://inside.quillmere.example&host=staff.quillmere.example")
	require.Equal(t, 200, status)
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	f, err := z.Open("redirects-maps.conf")
	require.NoError(t, err)
	maps, err := io.ReadAll(f)
	require.NoError(t, err)
	require.Contains(t, string(maps), `"/hr/sick.html" "301 https://inside.quillmere.example/working-here/leave/sick-leave${cp_ask}";`)
	require.Contains(t, string(maps), `"/visitors/opening-hours" "301 https://inside.quillmere.example/visitors/opening-hours${cp_ask}";`, "a page that has the same address here")
}

// A long list shows how far it is, can be left, and says in the end what became of it.
func TestALongListOfAnOlderSite(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	id := uuid.NewString()
	set := func(state string, percent int, said string) {
		_, err := site.Pool.Exec(t.Context(), `INSERT INTO older_imports (id, site_id, person_id, at, file_name, host, state, percent, said)
			SELECT $1, s.id, p.id, now(), 'access.log.gz', 'wiki.quillmere.example', $2, $3, $4 FROM sites s, people p WHERE p.login = 'ines'
			ON CONFLICT (id) DO UPDATE SET state = excluded.state, percent = excluded.percent, said = excluded.said`, id, state, percent, said)
		require.NoError(t, err)
	}
	set("reading", 43, "")
	tab.Go("/studio/addresses/older/import/" + id)
	tab.MustElementR("[role=status]", "Reading: 43 %")
	require.Equal(t, "43", *tab.MustElement("progress").MustAttribute("value"))
	set("writing", 100, "")
	tab.MustElementR("[role=status]", "being compared")
	set("done", 100, "3 addresses were read: 3 new.")
	tab.MustElementR("[role=status]", "3 addresses were read")
	tab.MustElementR("a.btn", "See the older site").MustClick()
	tab.Until("location.search.includes('host=wiki.quillmere.example')")
	set("refused", 100, "There is no usable header.")
	tab.Go("/studio/addresses/older/import/" + id)
	tab.MustElementR("[role=alert]", "no usable header")
	require.Empty(t, tab.Problems())
	status, _ := testkit.SignIn(t, site, "noor").Get("/studio/addresses/older/import/" + id)
	require.Equal(t, 403, status)
}
