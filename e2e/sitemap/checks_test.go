package sitemap_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// What the checks find is seen beside the tree and mended there, or on the
// screen of checks, one by one or all of a kind; what a mend does is told first.
func TestChecksAreMended(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	grounds := testkit.EntryID(t, site, "/grounds")
	status, _ := c.Act(map[string]any{"do": "paste", "parent": grounds, "value": "Mowers\nMowers too"})
	require.Equal(t, 200, status)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?show=found")
	tab.Until("document.querySelector('.chip[aria-pressed=true]')?.innerText.startsWith('Findings')")
	tab.Until("[...document.querySelectorAll('.o-row .t')].some((e) => e.innerText === 'Mowers')")
	tab.MustElementR(".o-row .t", "^Mowers$").MustClick()
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Mowers'")
	tab.MustElementR("#beside [data-do=mend]", "as above it").MustClick()
	tab.Until(`document.querySelector('#say').innerText === '"Mowers" has the owner of what is above it.'`)
	tab.Until("![...document.querySelectorAll('.o-row .t')].some((e) => e.innerText === 'Mowers')")

	t.Log("all of one kind on the screen of checks")
	status, _ = c.Act(map[string]any{"do": "paste", "parent": grounds, "value": "Rakes\nSpades"})
	require.Equal(t, 200, status)
	tab.Go("/studio/sitemap/checks")
	tab.MustElementR(".chip", "No owner").MustClick()
	tab.Until("location.search === '?rule=no-owner'")
	tab.MustElementR("button", "^Fix all").MustClick()
	tab.Until("!document.querySelector('main').innerText.includes('Rakes')")
	var unowned int
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT count(*) FROM entry_rows WHERE from_edition IS NULL AND title IN ('Rakes', 'Spades') AND owner <> ''").Scan(&unowned))
	require.Equal(t, 2, unowned)

	t.Log("one that changes an address in use asks first")
	status, a := c.Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/visitors/shop"), "value": "Café"})
	require.Equal(t, 200, status, a.Error)
	tab.Go("/studio/sitemap/checks?rule=same-title")
	tab.MustElementR("tbody button", "Make it a reference").MustClick()
	tab.Until("document.querySelector('.confirm h3')?.innerText === 'What this fix changes'")
	tab.MustElementR(".confirm button", "Fix it").MustClick()
	tab.Until("!document.querySelector('.confirm')")
	_, rows := c.Get("/studio/sitemap/rows")
	require.Contains(t, string(rows), `"k":"reference"`)
	require.Empty(t, tab.Problems())
}
