package pages_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// What was chosen last comes first where a page is chosen, as long as nothing is typed; a URL
// that is pasted on a selection makes a link.
func TestChoosingALink(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	ask := func() {
		testkit.InText(tab)
		testkit.Ctrl(t, tab, 'k')
		tab.Until("document.querySelector('[aria-label=Link] input')")
	}
	ask()
	tab.MustElement("[aria-label=Link] input").MustInput("Tool shed")
	tab.Until("document.querySelector('.suggest li')")
	tab.Keyboard.MustType(input.Enter)
	tab.Until("document.querySelector('#sheet a')?.innerText === 'Tool shed rota'")
	ask()
	tab.Until("document.querySelector('.suggest li')?.firstChild.textContent === 'Tool shed rota'")
	tab.Keyboard.MustType(input.Escape)
	tab.Keyboard.MustType(input.Escape)

	testkit.InText(tab)
	tab.MustEval(`() => { const { x } = document.getElementById("editor").editor, { state } = x.view, at = state.selection.from;
		x.view.dispatch(state.tr.setSelection(state.selection.constructor.create(state.doc, at, at + 5))); x.view.pasteText("https://weather.quillmere.example/now"); }`)
	tab.Until("[...document.querySelectorAll('#sheet a')].some((a) => a.getAttribute('href') === 'https://weather.quillmere.example/now')")
	require.Empty(t, tab.Problems())
}
