package pages_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// blocksOf gives the kinds of the blocks in the first slot of the editor, texts with their words.
func blocksOf(tab *testkit.Tab) (out []string) {
	err := json.Unmarshal([]byte(tab.MustEval(`() => JSON.stringify(document.getElementById("editor").editor.x.page().slots.main.map((b) => b.type + (b.type === "text" ? " " + b.text : "")))`).String()), &out)
	if err != nil {
		panic(err)
	}
	return out
}

// openBlocks opens a page with blocks of several kinds in the editor.
func openBlocks(t *testing.T) *testkit.Tab {
	t.Helper()
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/visitors/opening-hours")
	tab.Until("document.querySelector('#editor')?.editor")
	withBlocks(t, tab)
	return tab
}

// withBlocks puts a page with blocks of several kinds into the editor.
func withBlocks(t *testing.T, tab *testkit.Tab) {
	t.Helper()
	tab.MustEval(`() => { const { x } = document.getElementById("editor").editor; x.show({ ...x.page(), slots: { main: [
		{ type: "text", id: "one", text: "First." },
		{ type: "divider", id: "two" },
		{ type: "steps", id: "three", items: [{ text: "Open the vents." }] },
		{ type: "columns", id: "four", columns: [[{ type: "text", id: "l", text: "Left." }], [{ type: "text", id: "r", text: "Right." }]] },
		{ type: "tiles", id: "five", items: [{ to: "/", title: "Start" }, { to: "/visitors", title: "Visitors" }, { to: "/grounds", title: "Grounds" }] },
	] } }); }`)
	tab.Until("[...document.querySelectorAll('.part-row')].some((r) => r.innerText.includes('Steps'))")
	// What the browser had selected is gone with what was drawn before; it tells that a frame later.
	tab.MustEval("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
}

// selectBlock selects one as a whole, as who comes from another one does.
func selectBlock(tab *testkit.Tab, id string) {
	tab.MustEval(`(id) => { const { x } = document.getElementById("editor").editor;
		for (const [to, whole] of [["one", false], [id, true]]) {
			let at = -1;
			x.view.state.doc.descendants((n, pos) => { if (n.attrs.id === to) at = pos; });
			x.select(at, whole);
		} }`, id)
	tab.Until("document.getElementById('editor').editor.x.view.state.selection.node?.attrs.id === " + testkit.Quote(id) + " && document.activeElement.classList.contains('ProseMirror')")
}

// A letter that is typed, and words that are pasted, while a block is selected that is no text begin a text below it.
// Backspace takes the block away, and one undo brings it back.
func TestWhatIsSelectedIsNotTypedOver(t *testing.T) {
	tab := openBlocks(t)
	before := blocksOf(tab)
	require.Equal(t, []string{"text First.", "divider", "steps", "columns", "tiles"}, before)
	for i, id := range []string{"two", "three", "four", "five"} {
		selectBlock(tab, id)
		testkit.Press(t, tab, "Ask Gwen")
		want := append(append(append([]string{}, before[:i+2]...), "text Ask Gwen"), before[i+2:]...)
		require.Equal(t, want, blocksOf(tab), "typed")
		withBlocks(t, tab)
		selectBlock(tab, id)
		pasteHTML(tab, "<p>Ask <b>Gwen</b></p>")
		want[i+2] = "text Ask **Gwen**"
		require.Equal(t, want, blocksOf(tab), "pasted")
		withBlocks(t, tab)
		selectBlock(tab, id)
		testkit.Press(t, tab, input.Backspace)
		require.Len(t, blocksOf(tab), 4)
		testkit.Ctrl(t, tab, 'z')
		require.Equal(t, before, blocksOf(tab), "undone at once")
	}

	t.Log("a text that is selected as a whole is typed over")
	selectBlock(tab, "one")
	testkit.Press(t, tab, "Second")
	require.Equal(t, "text Second", blocksOf(tab)[0])
	require.Empty(t, tab.Problems())
}

// A tile and a block that are moved by keys go on with the next press: the focus stays on the button.
func TestMovingByKeysGoesOn(t *testing.T) {
	tab := openBlocks(t)
	focused := func() string {
		return tab.MustEval("() => document.activeElement.getAttribute('aria-label') || document.activeElement.textContent").String()
	}
	pressPart(tab, ".part-row", "Tile board")
	tab.Until("document.querySelectorAll('.items > li').length === 3")
	titles := func() string {
		return tab.MustEval("() => document.getElementById('editor').editor.x.page().slots.main.at(-1).items.map((i) => i.title).join(' ')").String()
	}
	tab.MustElement("[aria-label='Move tile 1 down']").MustFocus()
	testkit.Press(t, tab, input.Enter, input.Enter)
	require.Equal(t, "Visitors Grounds Start", titles())
	require.Equal(t, "Move tile 3 down", focused())
	tab.MustElement("[aria-label='Remove tile 3']").MustFocus()
	testkit.Press(t, tab, input.Enter)
	require.Equal(t, "Remove tile 2", focused())
	require.Equal(t, "Visitors Grounds", titles())

	t.Log("a block")
	tab.MustElementR(".part-open .acts button", "^Up$").MustFocus()
	testkit.Press(t, tab, input.Enter, input.Enter)
	kinds := func() string {
		var out []string
		for _, b := range blocksOf(tab) {
			out = append(out, strings.Fields(b)[0])
		}
		return strings.Join(out, " ")
	}
	require.Equal(t, "text divider tiles steps columns", kinds())
	require.Equal(t, "Up", focused())
	require.Empty(t, tab.Problems())
}
