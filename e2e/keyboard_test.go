package e2e_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/demo"
	"candlepath/internal/testkit"
)

// tabTo presses Tab until the element in focus fits.
func tabTo(t *testing.T, tab *testkit.Tab, fits string) {
	t.Helper()
	for range 250 {
		if tab.MustEval("() => !!((e) => " + fits + ")(document.activeElement)").Bool() {
			return
		}
		press(t, tab, input.Tab)
	}
	require.Fail(t, "the keyboard does not get there", fits)
}

// From signing in to a published edition without a mouse: add, write cells,
// choose several, indent, merge, write a text, publish.
func TestKeyboardOnly(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.Go("/studio/sign-in")
	tabTo(t, tab, "e.id === 'name'")
	press(t, tab, "marta")
	tabTo(t, tab, "e.name === 'password'")
	press(t, tab, demo.Password, input.Enter)
	tab.Until("document.activeElement?.classList.contains('o-scroll') && document.querySelector('#beside [data-entry]')")

	t.Log("three entries, the last two below the first, with owners and a topic")
	press(t, tab, input.Home, input.Key('n'))
	tab.Until("document.activeElement.classList.contains('o-edit')")
	for _, title := range []string{"Night garden", "Moths", "Moths and bats"} {
		press(t, tab, title, input.Enter)
		tab.Until("document.activeElement.classList.contains('o-edit') && document.activeElement.value === ''")
	}
	press(t, tab, input.Escape)
	tab.Until(cellAt("title") + "?.includes('Moths and bats')")
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowUp).Do())
	tab.Until("document.querySelector('#beside h2')?.innerText === '2 entries selected'")
	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(input.ArrowRight).Do())
	tab.Until("[...document.querySelectorAll('.o-row.sel .o-addr')].every((e) => e.innerText.startsWith('/night-garden/'))")
	press(t, tab, input.Escape, input.ArrowUp)
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown, input.ArrowDown).Do())
	press(t, tab, input.ArrowRight, input.ArrowRight, input.Enter)
	tab.Until("document.activeElement.classList.contains('o-edit')")
	press(t, tab, "Gwen Hale", input.Enter)
	tab.Until("[...document.querySelectorAll('.o-row.sel [data-col=owner]')].filter((e) => e.innerText === 'Gwen Hale').length === 3")

	t.Log("two of them become one, on the screen for merging")
	press(t, tab, input.Escape, input.Escape)
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Moths and bats'")
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowUp).Do())
	tab.Until("document.querySelectorAll('.pair-of').length === 2")
	tabTo(t, tab, "e.matches('.pair-of a') && e.closest('.pair-of').innerText.includes('Moths and bats')")
	press(t, tab, input.Enter)
	tab.Until("document.querySelector('.merge h1')")
	tabTo(t, tab, "e.innerText === 'Merge them'")
	press(t, tab, input.Enter)
	tab.Until("document.activeElement?.classList.contains('o-scroll') && document.querySelector('#beside h2')?.innerText === 'Moths and bats'")

	t.Log("both get a text")
	for _, title := range []string{"Moths and bats", "Night garden"} {
		press(t, tab, input.Key('t'))
		tab.Until("document.activeElement.id === 'o-find'")
		press(t, tab, title, input.Enter)
		tab.Until("document.activeElement.classList.contains('o-scroll') && document.querySelector('#beside h2')?.innerText === " + quote(title))
		press(t, tab, input.Key('o'))
		tab.Until("document.querySelector('#editor [data-field]') && document.querySelector('.ProseMirror, .add-block')")
		tabTo(t, tab, "e.dataset.field === 'summary'")
		press(t, tab, "About the night.")
		tabTo(t, tab, "e.matches('.ProseMirror') || e.closest('.add-block')")
		if !tab.MustEval("() => document.activeElement.matches('.ProseMirror')").Bool() {
			press(t, tab, input.Enter)
			tab.Until("document.activeElement.matches('.ProseMirror')")
		}
		press(t, tab, "They come at dusk.")
		tabTo(t, tab, "e.innerText === 'Show in outline'")
		press(t, tab, input.Enter)
		tab.Until("document.activeElement?.classList.contains('o-scroll')")
	}

	t.Log("only that goes out")
	tabTo(t, tab, "e.matches('#shelf a.btn')")
	press(t, tab, input.Enter)
	tab.Until("document.querySelector('#publish')")
	night, bats := "Night garden", "Moths and bats"
	for range tab.MustEval("() => document.querySelectorAll('[name=in]').length").Int() {
		press(t, tab, input.Tab)
		tabTo(t, tab, "e.name === 'in'")
		if tab.MustEval("(...keep) => { const e = document.activeElement; return e.name === 'in' && e.checked && !keep.some((k) => e.closest('li').innerText.startsWith(k)); }", night, bats).Bool() {
			at := tab.MustEval("() => { document.querySelector('#edition-body').dataset.old = '1'; return document.activeElement.id }").String()
			press(t, tab, input.Space)
			tab.Until("!document.querySelector('#edition-body').dataset.old && document.activeElement.id === " + quote(at))
		}
	}
	tab.Until("document.querySelector('[value=publish]') && !document.querySelector('[value=publish]').disabled")
	tabTo(t, tab, "e.id === 'why'")
	press(t, tab, "The night garden opens")
	tabTo(t, tab, "e.value === 'publish'")
	press(t, tab, input.Enter)
	tab.Until("document.body.innerText.includes('Edition 12 is out')")
	tab.Go("/night-garden/moths-and-bats")
	require.Contains(t, tab.MustElement("main").MustText(), "They come at dusk.")
	require.Empty(t, tab.Problems())
}

func cellAt(col string) string {
	if col == "title" {
		return "document.querySelector('.o-row.at .t')?.innerText"
	}
	return "document.querySelector('.o-row.at [data-col=" + col + "]')?.innerText"
}
