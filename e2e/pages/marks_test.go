package pages_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// What differs from Live is marked at its block, also after a reload; a press shows the
// words. A block that was removed is told where it stood, and one that only moved is not
// told as another.
func TestChangesSinceLiveAreMarked(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	tab.Until("document.querySelectorAll('#sheet .b').length >= 1")
	require.Zero(t, tab.MustEval("() => document.querySelectorAll('.is-changed').length").Int(), "nothing was changed yet")

	write(tab, "Closed on Mondays.")
	allSaved(tab)
	first := "document.querySelector('#sheet .b-text')"
	tab.Until(first + ".classList.contains('is-changed') && " + first + ".querySelector('.b-since').innerText === 'changed since Live'")
	tab.MustElement("#sheet .b-text .b-since").MustClick()
	tab.Until("document.querySelector('#sheet .since-words:not([hidden]) ins').innerText.trim() === 'Closed on Mondays.'")
	write(tab, "Always.")
	allSaved(tab)
	tab.Until("document.querySelector('#sheet .since-words:not([hidden]) ins').innerText.trim() === 'Always. Closed on Mondays.'")
	tab.Until("[...document.querySelectorAll('.part-row .p-extra')].some((e) => e.innerText === 'changed')")
	id := tab.MustEval("() => document.querySelector('#sheet .b').dataset.block").Str()
	require.NotEmpty(t, id)

	require.NoError(t, tab.Reload())
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]') && " + first + ".classList.contains('is-changed')")
	require.Equal(t, id, tab.MustEval("() => document.querySelector('#sheet .b').dataset.block").Str(), "a block keeps its id")

	tab.MustEval("() => document.querySelector('[data-slot=main] > .slot-foot .add-here').click()") // what is drawn meanwhile moves it
	tab.Until("document.activeElement.closest('.add-list') !== null")
	testkit.Press(t, tab, "noti", input.Enter)
	allSaved(tab)
	tab.Until("[...document.querySelectorAll('.b-since')].some((s) => s.innerText === 'new since Live')")
	tab.MustEval("(id) => document.querySelector(`[data-part='${id}'] .part-row`).click()", id)
	tab.MustEval("(id) => [...document.querySelectorAll(`[data-part='${id}'] .btn`)].find((b) => b.innerText === 'Remove').click()", id)
	tab.Until("document.querySelector('.gone-here .b-since')?.innerText === '1 block removed since Live'")
	tab.MustElement("#undo").MustClick()
	tab.Until("!document.querySelector('.gone-here .b-since') && " + first + ".dataset.block === " + testkit.Quote(id))
	require.Empty(t, tab.Problems())
}

// Who may not plan learns nothing, and a page that is not there has no changes.
func TestChangesAreForThoseWhoWrite(t *testing.T) {
	site := kit.Site(t, true)
	entry := testkit.EntryID(t, site, borrowed)
	text := map[string]any{"content": map[string]any{"slots": map[string]any{"main": []any{map[string]any{"type": "text", "text": strings.Repeat("x ", 50), "id": "<script>"}}}}}
	var got struct {
		Changes []struct{ ID, What string }
	}
	ines := testkit.SignIn(t, site, "ines")
	require.Equal(t, 200, ines.JSON("/studio/pages/"+entry+"/changes", text, &got))
	require.NotEmpty(t, got.Changes)
	for _, c := range got.Changes {
		require.Regexp(t, "^[0-9a-z-]+$", c.ID)
	}
	require.Equal(t, 404, ines.JSON("/studio/pages/"+url.PathEscape("no such")+"/changes", text, nil))
	require.Equal(t, 403, testkit.SignIn(t, site, "noor").JSON("/studio/pages/"+entry+"/changes", text, nil))
	require.Equal(t, 403, testkit.SignIn(t, site, "noor").JSON("/studio/pages/"+entry+"/compare", map[string]any{}, nil))
}
