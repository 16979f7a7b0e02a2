package pages_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// The menus of the reader site: groups open one at a time and close by Escape,
// the side menu can be put away and stays so, and a small screen has a button.
func TestReaderMenus(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.Go("/grounds/machines/book-the-wood-chipper")
	tab.Until("document.querySelector('.side-button')?.innerText === 'Hide'")
	require.Equal(t, "page", tab.MustElement(".side-menu [aria-current]").MustEval("() => this.getAttribute('aria-current')").Str())
	tab.MustElement(".top-menu summary").MustFocus()
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('.top-menu details').open")
	testkit.Press(t, tab, input.Escape)
	tab.Until("!document.querySelector('.top-menu details').open && document.activeElement.matches('summary')")
	tab.MustElement(".side-button").MustClick()
	tab.Until("document.querySelector('#side-menu-list').hidden && document.querySelector('.side-button').getAttribute('aria-expanded') === 'false'")
	tab.Go("/grounds/compost")
	tab.Until("document.querySelector('#side-menu-list').hidden")
	tab.MustElement(".side-button").MustClick()
	tab.Until("!document.querySelector('#side-menu-list').hidden")

	require.NoError(t, tab.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 360, Height: 740, DeviceScaleFactor: 1, Mobile: true}))
	tab.Go("/grounds/compost")
	tab.Until("document.querySelector('.menu-button')?.getAttribute('aria-expanded') === 'false' && document.querySelector('#top-menu-list').hidden")
	tab.MustElement(".menu-button").MustClick()
	tab.Until("document.querySelector('#top-menu-list').getBoundingClientRect().height > 200")
	testkit.Press(t, tab, input.Escape)
	tab.Until("document.querySelector('#top-menu-list').hidden || document.activeElement !== document.querySelector('.menu-button')")
	require.LessOrEqual(t, tab.MustEval("() => document.documentElement.scrollWidth").Int(), 360)

	t.Log("without scripts everything is there and open")
	require.NoError(t, proto.EmulationSetScriptExecutionDisabled{Value: true}.Call(tab.Page))
	tab.GoPlain("/grounds/compost")
	require.Empty(t, tab.MustElements(".menu-button, .side-button"))
	require.True(t, tab.MustElement(".top-menu > ul").MustVisible())
	require.True(t, tab.MustElement(".side-menu ul").MustVisible())
	require.Empty(t, tab.Problems())
}

// What a reader opened last is kept in the browser only, and fills the lists that show it.
func TestWhereTheReaderLeftOff(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.Go("/volunteers")
	tab.Until("document.querySelector('.page-list[data-opened]')?.hidden")
	for _, path := range []string{"/seed-vault", "/glasshouses", "/seed-vault", "/visitors/first-aid", "/nowhere"} {
		tab.GoPlain(path)
		tab.Until("document.readyState === 'complete'")
	}
	tab.Go("/volunteers")
	tab.Until("!document.querySelector('.page-list[data-opened]').hidden")
	require.Equal(t, "First aid|Seed vault|Glasshouses", tab.MustEval("() => [...document.querySelectorAll('[data-opened] a')].map((a) => a.textContent).join('|')").Str())
}

// As readers see it, a page of Next shows its draft.
func TestThePreviewShowsTheDraft(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	write(tab, "Only in the draft.")
	allSaved(tab)
	entry := testkit.EntryID(t, site, borrowed)
	draftHolds(t, site, entry, "Only in the draft.")
	ines := testkit.SignIn(t, site, "ines")
	require.Contains(t, testkit.Read(t, ines, "/studio/menus/preview?of=next&at="+borrowed), "Only in the draft.")
	require.NotContains(t, testkit.Read(t, ines, "/studio/menus/preview?of=live&at="+borrowed), "Only in the draft.")
	tab.Go("/studio/pages/" + entry + "/look?as=noor&width=small")
	tab.Until("document.querySelector('iframe.look-small')?.contentDocument?.body?.innerText.includes('Only in the draft.')")
}
