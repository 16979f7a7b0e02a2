package pages_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Blocks are duplicated, copied, cut and hidden from their row among the parts; readers get
// what is hidden on some screens with the class that hides it.
func TestActsOfTheParts(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/visitors/first-aid/stings-and-rashes")
	tab.Until("document.querySelector('#editor')?.editor")
	press := func(words string) { tab.MustElementR(".part-open button", "^"+words+"$").MustClick() }
	pressPart(tab, ".part-row", "Questions")
	press("Duplicate")
	tab.Until("document.querySelectorAll('#sheet .b-questions').length === 2")
	press("Cut")
	tab.Until("document.querySelectorAll('#sheet .b-questions').length === 1")
	pressPart(tab, ".part-row", "Questions")
	pressPart(tab, ".part-open label", "phones")
	allSaved(tab)
	entry := testkit.EntryID(t, site, "/visitors/first-aid/stings-and-rashes")
	draftHolds(t, site, entry, `"hide": "phones"`)
	testkit.PublishOnly(t, site, "Hidden", func(aspect string) bool { return aspect == "content" })
	require.Contains(t, testkit.Read(t, testkit.SignIn(t, site, "noor"), "/visitors/first-aid/stings-and-rashes"), `class="hide-phones"`)
	require.Empty(t, tab.Problems())
}

// A tile is dragged to another place of its board.
func TestTilesAreDragged(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/")
	tab.Until("document.querySelector('#editor')?.editor")
	pressPart(tab, ".part-row", "Tile board")
	tab.Until("document.querySelectorAll('.items > li').length === 6")
	drag := func() { // the second onto the upper half of the first, in small steps
		tab.MustEval("() => document.querySelector('.items > li').scrollIntoView({ block: 'start' })")
		at := tab.MustEval(`() => { const [a, b] = [...document.querySelectorAll(".items > li")].map((li) => li.getBoundingClientRect()); return [b.left + 12, b.top + 14, a.left + 30, a.top + a.height * 0.2]; }`).Arr()
		x, y := at[0].Num(), at[1].Num()
		tab.Mouse.MustMoveTo(x, y).MustDown(proto.InputMouseButtonLeft)
		for i := 1; i <= 8; i++ {
			tab.Mouse.MustMoveTo(x+(at[2].Num()-x)*float64(i)/8, y+(at[3].Num()-y)*float64(i)/8)
		}
		tab.Until("document.querySelector('.items > li:nth-child(1).drop-before')")
	}
	first := `document.querySelector(".items [data-setting=to] input").value`
	drag()
	require.NoError(t, tab.KeyActions().Type(input.Escape).Do())
	tab.Mouse.MustUp(proto.InputMouseButtonLeft)
	tab.Until(first + " === 'First week'")
	drag()
	tab.Mouse.MustUp(proto.InputMouseButtonLeft)
	tab.Until(first + " === 'Opening hours'")
	allSaved(tab)
	require.Empty(t, tab.Problems())
}
