package pages_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// sheetText is what the texts of the page in the editor say.
const sheetText = "((doc) => doc.textBetween(0, doc.content.size, '|', ' '))(document.getElementById('editor').editor.x.view.state.doc)"

// A text that was deleted and saved comes back by undo, also in a window that was opened since: through earlier
// versions, as far as there are any, and redo goes the same way back.
func TestUndoGoesOnAfterAReload(t *testing.T) {
	site := kit.Site(t, true)
	entry := testkit.EntryID(t, site, borrowed)
	_, err := site.Pool.Exec(t.Context(), `DELETE FROM draft_states WHERE entry_id = $1`, entry)
	require.NoError(t, err)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	live := tab.MustEval("() => " + sheetText).String()
	write(tab, "Water early, never at noon.")
	allSaved(tab)
	long := tab.MustEval("() => " + sheetText).String()
	require.NotEqual(t, live, long)

	t.Log("delete all, saved, reload")
	testkit.InText(tab)
	testkit.Ctrl(t, tab, 'a')
	testkit.Ctrl(t, tab, 'a')
	testkit.Press(t, tab, input.Backspace)
	tab.Until("!" + sheetText + ".includes('noon')")
	tab.Until("document.querySelector('#saved').innerText === 'Saving …'")
	allSaved(tab)
	require.NoError(t, tab.Reload())
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]')")
	shows := func(what string) {
		t.Helper()
		require.Eventually(t, func() bool { return tab.MustEval("() => "+sheetText).String() == what }, waitFor, tick, what)
	}
	says := func(words string) {
		t.Helper()
		tab.Until("document.querySelector('#say.on')?.innerText.startsWith(" + testkit.Quote(words) + ")")
	}
	empty := tab.MustEval("() => " + sheetText).String()
	testkit.InText(tab)
	testkit.Ctrl(t, tab, 'z')
	says("This is the version of")
	shows(long)
	testkit.Ctrl(t, tab, 'z')
	shows(live)
	testkit.Ctrl(t, tab, 'z')
	says("There is nothing more to undo.")
	shows(live)
	tab.MustElement("#redo").MustClick()
	shows(long)
	testkit.Ctrl(t, tab, 'y')
	shows(empty)
	testkit.Ctrl(t, tab, 'y')
	says("There is nothing to redo.")

	t.Log("what is typed in between is undone first, and is redone too")
	tab.MustElement("#undo").MustClick()
	shows(long)
	write(tab, "Mind the frost.")
	typed := tab.MustEval("() => " + sheetText).String()
	testkit.Ctrl(t, tab, 'z')
	shows(long)
	testkit.Ctrl(t, tab, 'z')
	shows(live)
	testkit.Ctrl(t, tab, 'y')
	shows(long)
	testkit.Ctrl(t, tab, 'y')
	shows(typed)
	allSaved(tab)
	draftHolds(t, site, entry, "Mind the frost.")

	t.Log("what undo brought is saved, and somebody else's version is told by name")
	testkit.Ctrl(t, tab, 'z')
	testkit.Ctrl(t, tab, 'z')
	require.Empty(t, tab.Problems())
}
