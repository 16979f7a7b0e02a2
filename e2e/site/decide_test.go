package site_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// It is decided for many pages at once where their visitors go, taken back, and said to readers.
func TestDecidingForManyPages(t *testing.T) {
	site := kit.Site(t, true)
	marta := testkit.SignIn(t, site, "marta")
	status, _ := marta.Act(map[string]any{"do": "remove", "id": testkit.EntryID(t, site, "/visitors/shop"), "confirmed": true})
	require.Equal(t, 200, status)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/addresses")
	tab.MustElementR(".bar a", "Decide").MustClick()
	tab.MustElementR("h1", "Where should their visitors go")
	rows := len(tab.MustElements("tbody tr"))
	require.Greater(t, rows, 3)
	tab.MustElementR("button", "^Decide$").MustClick()
	tab.MustElementR("[role=alert]", "Tick the pages first")

	tab.MustElement("[data-tick-all]").MustClick()
	tab.MustElement("[name=how][value=above]").MustClick()
	tab.MustElementR("button", "^Decide$").MustClick()
	tab.MustElementR("[role=status]", "Decided where the visitors of . pages go")
	require.Contains(t, tab.MustElement(".chips").MustText(), "Not decided 0")
	tab.MustElementR("[role=status] button", "Undo").MustClick()
	tab.MustElementR("[role=status]", "Undone")
	require.NotContains(t, tab.MustElement(".chips").MustText(), "Not decided 0")

	t.Log("gone with a sentence for readers, then one of them to the page most like it")
	tab.MustElement("[data-tick-all]").MustClick()
	tab.MustElement("[name=how][value=gone]").MustClick()
	tab.MustElement("[name=says]").MustInput("The till program has it now.")
	tab.MustElementR("button", "^Decide$").MustClick()
	tab.MustElementR("[role=status]", "Decided where")
	tab.MustElementR("tbody", "Readers are told: The till program has it now.")
	tab.MustElement("[aria-label='Lead Seeds for sale to Seed requests']").MustClick()
	tab.MustElementR("[role=status]", "Decided where the visitors of \"Seeds for sale\" go")
	testkit.PublishOnly(t, site, "The shop has its own program", func(aspect string) bool { return aspect == "removed" })
	resp, body := testkit.AskFor(t, "GET", site.URL+"/visitors/shop/shop-deliveries", nil)
	require.Equal(t, 410, resp.StatusCode)
	require.Contains(t, body, "The till program has it now.")
	resp, _ = testkit.AskFor(t, "GET", site.URL+"/visitors/shop/seeds-for-sale", nil)
	require.Equal(t, []any{301, "/seed-vault/seed-requests"}, []any{resp.StatusCode, resp.Header.Get("Location")})
	require.Empty(t, tab.Problems())
}

// The address of a page that moves is kept on purpose, and given up again.
func TestKeepingTheAddressOfAMovedPage(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/addresses")
	tab.MustEval("() => document.querySelectorAll('details').forEach((d) => { d.open = true })")
	tab.MustElement("[aria-label='Keep /seed-vault as the address of Seed vault']").MustClick()
	tab.MustElementR("[role=status]", "Kept the address /seed-vault of \"Seed vault\"")
	require.NotContains(t, tab.MustElement("main").MustText(), "/science/seed-vault/drying-room")
	tab.MustElementR("button", "Give it up").MustClick()
	tab.MustElementR("[role=status]", "Gave up the fixed address")
	tab.MustElementR("main", "/science/seed-vault/drying-room")
	require.Empty(t, tab.Problems())
}
