package sitemap_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/demo"
	"candlepath/internal/testkit"
)

// From signing in to a published edition without a mouse: add, write cells,
// choose several, indent, merge, write a text, publish.
func TestKeyboardOnly(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.Go("/studio/sign-in")
	testkit.TabTo(t, tab, "e.id === 'name'")
	testkit.Press(t, tab, "marta")
	testkit.TabTo(t, tab, "e.name === 'password'")
	testkit.Press(t, tab, demo.Password, input.Enter)
	tab.Until("document.activeElement?.classList.contains('o-scroll') && document.querySelector('#beside [data-entry]')")

	t.Log("three entries, the last two below the first, with owners and a topic")
	testkit.Press(t, tab, input.Home, input.Key('n'))
	tab.Until("document.activeElement.classList.contains('o-edit')")
	for _, title := range []string{"Night garden", "Moths", "Moths and bats"} {
		testkit.Press(t, tab, title, input.Enter)
		tab.Until("document.activeElement.classList.contains('o-edit') && document.activeElement.value === ''")
	}
	testkit.Press(t, tab, input.Escape)
	tab.Until(cellAt("title") + "?.includes('Moths and bats')")
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowUp).Do())
	tab.Until("document.querySelector('#beside h2')?.innerText === '2 entries selected'")
	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(input.ArrowRight).Do())
	tab.Until("[...document.querySelectorAll('.o-row.sel .o-addr')].every((e) => e.innerText.startsWith('/night-garden/'))")
	testkit.Press(t, tab, input.Escape, input.ArrowUp)
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown, input.ArrowDown).Do())
	testkit.Press(t, tab, input.ArrowRight, input.ArrowRight, input.Enter)
	tab.Until("document.activeElement.classList.contains('o-edit')")
	testkit.Press(t, tab, "Gwen Hale", input.Enter)
	tab.Until("[...document.querySelectorAll('.o-row.sel [data-col=owner]')].filter((e) => e.innerText === 'Gwen Hale').length === 3")

	t.Log("two of them become one, on the screen for merging")
	testkit.Press(t, tab, input.Escape, input.Escape)
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Moths and bats'")
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowUp).Do())
	tab.Until("document.querySelectorAll('.pair-of').length === 2")
	testkit.TabTo(t, tab, "e.matches('.pair-of a') && e.closest('.pair-of').innerText.includes('Moths and bats')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('.merge h1')")
	testkit.TabTo(t, tab, "e.innerText === 'Merge them'")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.activeElement?.classList.contains('o-scroll') && document.querySelector('#beside h2')?.innerText === 'Moths and bats'")

	t.Log("both get a text")
	for _, title := range []string{"Moths and bats", "Night garden"} {
		testkit.Press(t, tab, input.Key('t'))
		tab.Until("document.activeElement.id === 'o-find'")
		testkit.Press(t, tab, title, input.Enter)
		tab.Until("document.activeElement.classList.contains('o-scroll') && document.querySelector('#beside h2')?.innerText === " + testkit.Quote(title))
		testkit.Press(t, tab, input.Key('o'))
		tab.Until("document.querySelector('#editor')?.editor")
		testkit.TabTo(t, tab, "e.matches('.ProseMirror')")
		testkit.Press(t, tab, "About the night.", input.Enter, "They come at dusk.")
		testkit.TabTo(t, tab, "e.matches('.part-row')")
		testkit.Press(t, tab, input.Home, input.Enter)
		testkit.TabTo(t, tab, "e.innerText === 'Show in outline'")
		testkit.Press(t, tab, input.Enter)
		tab.Until("document.activeElement?.classList.contains('o-scroll')")
	}

	t.Log("only that goes out")
	testkit.TabTo(t, tab, "e.matches('#shelf a.btn')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('#publish')")
	night, bats := "Night garden", "Moths and bats"
	for range tab.MustEval("() => document.querySelectorAll('[name=in]').length").Int() {
		testkit.Press(t, tab, input.Tab)
		testkit.TabTo(t, tab, "e.name === 'in'")
		if tab.MustEval("(...keep) => { const e = document.activeElement; return e.name === 'in' && e.checked && !keep.some((k) => e.closest('li').innerText.startsWith(k)); }", night, bats).Bool() {
			at := tab.MustEval("() => { document.querySelector('#edition-body').dataset.old = '1'; return document.activeElement.id }").String()
			testkit.Press(t, tab, input.Space)
			tab.Until("!document.querySelector('#edition-body').dataset.old && document.activeElement.id === " + testkit.Quote(at))
		}
	}
	tab.Until("document.querySelector('[value=publish]') && !document.querySelector('[value=publish]').disabled")
	testkit.TabTo(t, tab, "e.id === 'why'")
	testkit.Press(t, tab, "The night garden opens")
	testkit.TabTo(t, tab, "e.value === 'publish'")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.body.innerText.includes('Edition 12 is live')")
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
