package testkit

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// Press types keys one after another: names of keys, or text.
func Press(t testing.TB, tab *Tab, keys ...any) {
	t.Helper()
	for _, k := range keys {
		switch k := k.(type) {
		case input.Key:
			require.NoError(t, tab.KeyActions().Type(k).Do())
		case rune:
			require.NoError(t, tab.KeyActions().Type(input.Key(k)).Do())
		case string:
			require.NoError(t, tab.InsertText(k))
		}
	}
}

// Ctrl presses a key while Ctrl is held.
func Ctrl(t *testing.T, tab *Tab, k input.Key) {
	t.Helper()
	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type(k).Do())
}

// Offline cuts the connection of a tab, or mends it.
func Offline(tab *Tab, cut bool) {
	_ = proto.NetworkEmulateNetworkConditions{Offline: cut, DownloadThroughput: -1, UploadThroughput: -1}.Call(tab)
}

// RowShown is true in a page whose outline shows an entry.
func RowShown(title string) string {
	return "[...document.querySelectorAll('.o-row .t')].some((t) => t.innerText === " + Quote(title) + ")"
}

// Quote writes a string of JavaScript.
func Quote(s string) string { return "'" + strings.ReplaceAll(s, "'", "\\'") + "'" }

// Pick finds an entry with the find box of the frame, as one does.
func Pick(tab *Tab, title string) {
	tab.MustElement("#find").MustSelectAllText().MustInput(title)
	tab.Until("[...document.querySelectorAll('.suggest li')].some((l) => l.firstChild.textContent === " + Quote(title) + ")")
	wait := tab.WaitNavigation(proto.PageLifecycleEventNameLoad)
	tab.Keyboard.MustType(input.Enter)
	wait()
	tab.Until("document.querySelector('.o-row.sel .t')?.innerText === " + Quote(title))
	tab.Until("document.activeElement?.classList.contains('o-scroll')")
}

// TabTo presses Tab until the element in focus fits.
func TabTo(t *testing.T, tab *Tab, fits string) {
	t.Helper()
	for range 250 {
		if tab.MustEval("() => !!((e) => " + fits + ")(document.activeElement)").Bool() {
			return
		}
		Press(t, tab, input.Tab)
	}
	require.Fail(t, "the keyboard does not get there", fits)
}

// InText puts the caret at the beginning of the first text of the page editor.
func InText(tab *Tab) {
	tab.Until("document.querySelector('#editor')?.editor.x.view.editable")
	tab.MustEval(`() => {
		const { x } = document.getElementById("editor").editor;
		let at = -1;
		x.view.state.doc.descendants((node, pos) => { if (at < 0 && node.type.name === "b_text") at = pos; return at < 0; });
		x.select(at, false);
	}`)
}

// Insert writes words where the caret is.
func Insert(tab *Tab, words string) { tab.MustInsertText(words) }
