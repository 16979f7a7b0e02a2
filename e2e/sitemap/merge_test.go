package sitemap_test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Two pages chosen in the outline are merged by keyboard and mouse, published,
// and both addresses answer.
func TestMergeInTheBrowser(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	_, before := c.Get("/studio/edition")
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap?level=4&at=" + testkit.EntryID(t, site, "/grounds/compost/turning-the-heaps"))
	tab.Until("document.querySelector('#beside [data-entry]')")
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown).Do())
	tab.Until("document.querySelectorAll('.pair-of').length === 2")
	other := tab.MustEval("() => document.querySelectorAll('.o-row[aria-selected=true] .t')[1].innerText").Str()
	address := tab.MustEval("() => document.querySelectorAll('.o-row[aria-selected=true] .o-addr')[1].innerText").Str()
	tab.MustElementR(".pair-of a", "merge the other").MustClick()
	tab.Until("document.querySelector('.merge h1')?.innerText === 'Merge two pages'")
	tab.Until("document.querySelector('#side-gone').innerText.includes(" + testkit.Quote(other) + ")")
	tab.MustElement("[name=take]").MustClick() // not the text of the other
	tab.MustElement("[name=fact-title][value=gone]").MustClick()
	tab.MustElementR("button", "Merge them").MustClick()
	tab.Until("document.querySelector('#beside h2')?.innerText === " + testkit.Quote(other))
	tab.Until("document.querySelector('#beside').innerText.includes('/grounds/compost/turning-the-heaps')")

	testkit.PublishChosen(t, c, func(key string) bool { return !strings.Contains(string(before), key) })
	status, _ := c.Get(address)
	require.Equal(t, 301, status)
	_, body := c.Get("/grounds/compost/turning-the-heaps")
	require.Contains(t, string(body), "<h1>"+other+"</h1>")
	require.Empty(t, tab.Problems())
}

// A page is split at its headings, and what cannot be is said with the choice
// kept.
func TestSplitInTheBrowser(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	compost := testkit.EntryID(t, site, "/grounds/compost")
	tab.Go("/studio/pages/" + compost)
	tab.MustElementR("a", "^Split it…$").MustClick()
	tab.Until("document.querySelectorAll('[name=piece]').length > 2")
	tab.MustElement("[name=piece]").MustClick()
	tab.MustElement("[value=beside]").MustClick()
	tab.MustElementR("button", "^Split page$").MustClick()
	tab.Until("document.querySelector('[role=alert]')?.innerText === 'Give the new page a title.'")
	tab.Until("document.querySelector('[name=piece]').checked && document.querySelector('[value=beside]').checked")
	tab.MustElement("[name=piece]").MustClick()
	tab.MustElementR(".pieces label", "Worth knowing").MustClick()
	tab.MustElementR("button", "^Split page$").MustClick()
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Worth knowing'")
	tab.Until("document.querySelector('#beside').innerText.includes('/grounds/worth-knowing')")
	tab.Go("/studio/pages/" + testkit.EntryID(t, site, "/grounds/compost"))
	tab.Until("document.querySelector('#editor')")
	require.NotContains(t, tab.MustElement("#editor").MustText(), "Worth knowing")
	require.Empty(t, tab.Problems())
}

// The list of pages that are alike is worked through.
func TestAlikeInTheBrowser(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap/checks")
	tab.MustElementR("a", "similar pages").MustClick()
	tab.Until("location.pathname === '/studio/sitemap/similar' && !document.querySelector('.hint')") // the list is made anew until then
	first := tab.MustElement("tbody tr").MustText()
	tab.MustElementR("tbody tr button", "Mark as different").MustClick()
	tab.Until("document.querySelector('tbody tr').innerText !== " + "`" + first + "`")
	tab.MustElementR("tbody tr a", "Merge").MustClick()
	tab.Until("document.querySelector('.merge h1')")
	require.Empty(t, tab.Problems())
}
