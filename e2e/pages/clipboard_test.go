package pages_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// copied gives what the clipboard gets of the first block of a kind.
func copied(tab *testkit.Tab, kind string) string {
	return tab.MustEval(`(kind) => {
		const { x } = document.getElementById("editor").editor;
		let at = -1;
		x.view.state.doc.descendants((n, pos) => { if (at < 0 && n.type.name === "b_" + kind) at = pos; });
		x.select(at, true);
		return x.view.serializeForClipboard(x.view.state.selection.content()).dom.innerHTML;
	}`, kind).Str()
}

func kinds(tab *testkit.Tab, slot string) string {
	return tab.MustEval(`(slot) => document.getElementById("editor").editor.x.page().slots[slot].map((b) => b.type).join()`, slot).Str()
}

// Blocks go from page to page by the clipboard, with all that is set of them; what a slot does
// not take is told, and a copy within a page is another block.
func TestBlocksOnTheClipboard(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/start-here/first-week")
	tab.Until("document.querySelector('#editor')?.editor")
	steps, tiles := copied(tab, "steps"), copied(tab, "tiles")
	before := tab.MustEval(`() => JSON.stringify(document.getElementById("editor").editor.x.page().slots.main.find((b) => b.type === "steps").items)`).Str()

	openPage(t, tab, site, borrowed)
	testkit.InText(tab)
	pasteHTML(tab, steps)
	tab.Until("document.querySelectorAll('#sheet .step').length === 4")
	require.Equal(t, "text,steps", kinds(tab, "main"))
	require.JSONEq(t, before, tab.MustEval(`() => JSON.stringify(document.getElementById("editor").editor.x.page().slots.main[1].items)`).Str())
	testkit.InText(tab)
	pasteHTML(tab, tiles)
	tab.Until("document.querySelector('#say').innerText.includes('Tile board')")
	require.Equal(t, "text,steps", kinds(tab, "main"), "the slot takes no tiles")
	testkit.InText(tab)
	pasteHTML(tab, steps)
	tab.Until("document.querySelectorAll('#sheet .step').length === 8")
	allSaved(tab)
	ids := tab.MustEval(`() => { const b = document.getElementById("editor").editor.x.page().slots.main.map((b) => b.id); return new Set(b).size === b.length; }`)
	require.True(t, ids.Bool(), "a copy is a block of its own")

	t.Log("a block moves by keyboard from its row among the parts, and past the end of its slot to the next that takes it")
	tab.MustEval(`() => document.querySelector(".part-list [data-part] .part-row:focus, .part-list > li.is-open .part-row")?.focus()`)
	tab.MustEval(`() => { const rows = [...document.querySelectorAll(".part-row")].filter((r) => r.innerText.startsWith("Text")); rows[0].click(); rows[0].focus(); }`)
	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(input.ArrowDown).Do())
	tab.Until("document.getElementById('editor').editor.x.page().slots.main[1].type === 'text'")

	t.Log("a copy goes to another page")
	tab.MustEval(`() => [...document.querySelectorAll(".part-open .btn")].find((b) => b.innerText === "Copy to another page…").click()`)
	tab.MustElement(".ask-page input").MustInput("Winter rounds")
	tab.Until("document.querySelector('.suggest li')")
	tab.Keyboard.MustType(input.Enter)
	tab.Until("document.querySelector('#say').innerText.includes('Winter rounds')")
	draftHolds(t, site, testkit.EntryID(t, site, "/glasshouses/watering-rounds/winter-rounds"), "Begin at seven, on the side")
	require.Empty(t, tab.Problems())
}

// Nobody has to change the rest of the page to get the text of a word processor, and nothing
// that could run comes in.
func TestForeignHTMLIsPasted(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	for _, c := range []struct{ html, want string }{
		{`<p>One<br>Two</p><ul><li>a<ul><li>b</li></ul></li></ul>`, "One\\\nTwo\n\n- a\n  - b"},
		{`<p><span style="font-weight:700">Bold</span> and <span style="font-style:italic">slanted</span></p>`, "**Bold** and *slanted*"},
		{`<b style="font-weight:normal"><p>A document of a browser</p></b>`, "A document of a browser"},
		{`<h1>Top</h1><h5>Deep</h5>`, "## Top\n\n#### Deep"},
		{`<table><tr><th>Day</th><th style="text-align:right">From</th></tr><tr><td>Monday</td><td style="text-align:right">10</td></tr></table>`, "| Day | From |\n| --- | --: |\n| Monday | 10 |"},
		{`<ul><li><input type="checkbox" checked>done</li><li><input type="checkbox">not</li></ul>`, "- [x] done\n- [ ] not"},
		{`<p onclick="alert(1)">Safe<script>alert(1)</script> <a href="javascript:alert(1)">words</a><iframe src="https://quillmere.example"></iframe></p>`, "Safe words"},
		{`<del>old</del> <code>x * y</code>`, "~~old~~ `x * y`"},
	} {
		testkit.InText(tab)
		testkit.Ctrl(t, tab, 'a')
		pasteHTML(tab, c.html)
		got := ""
		tab.Until("document.querySelector('#sheet .b-text').innerText.trim() !== ''")
		got = tab.MustEval(`() => document.getElementById("editor").editor.x.page().slots.main[0].text`).Str()
		require.Equal(t, c.want, got, c.html)
	}
	require.Empty(t, tab.Problems())
}
