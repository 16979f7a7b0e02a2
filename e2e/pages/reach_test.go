package pages_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// The screen of reach tells the way to every page, takes visits in, and plans
// the tile that saves most.
func TestReachInTheBrowser(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/menus/reach?sort=clicks")
	require.Contains(t, tab.MustElement("tbody tr").MustText(), "top menu")

	file := filepath.Join(t.TempDir(), "visits.csv")
	require.NoError(t, os.WriteFile(file, []byte("address,visits\n/herbarium/mounting-guide/awkward-specimens/palms-and-giant-leaves,900\n/nowhere,2\n"), 0o600))
	tab.MustElement("#visits-file").MustSetFiles(file)
	tab.MustElementR("button", "^Import$").MustClick()
	tab.Until("document.querySelector('[role=status].fine')?.innerText.startsWith('Visits of 1 page were counted. 1 address is no live page')")
	tab.Until("document.querySelector('.savings li a')?.innerText === 'Palms and giant leaves'")
	tab.MustElementR(".savings button", "Plan this tile").MustClick()
	tab.Until("document.querySelector('.savings li a')?.innerText !== 'Palms and giant leaves'")
	tab.Go("/studio/sitemap?at=" + testkit.EntryID(t, site, "/herbarium/mounting-guide/awkward-specimens/palms-and-giant-leaves"))
	tab.Until("document.querySelector('#beside')?.innerText.includes('1 click from home')")
	tab.Until("document.querySelector('#beside .way')?.innerText.includes('tile “Palms and giant leaves”')")
	tab.MustElementR(".bar-acts button", "^Undo$").MustClick()
	tab.Until("document.querySelector('#say').innerText.startsWith('Undone: put a tile to')")
	require.Empty(t, tab.Problems())
}
