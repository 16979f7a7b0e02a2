package pages_test

import (
	"net/url"
	"strings"
	"testing"

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
	tab.Until("document.querySelectorAll('.block').length >= 1")
	require.Zero(t, tab.MustEval("() => document.querySelectorAll('.is-changed').length").Int(), "nothing was changed yet")

	write(tab, "Closed on Mondays.")
	allSaved(tab)
	first := "document.querySelector('.block')"
	tab.Until(first + ".classList.contains('is-changed') && " + first + ".querySelector('.since summary').innerText === 'Changed since Live'")
	tab.MustElement(".block .since summary").MustClick()
	tab.Until("document.querySelector('.block .since ins').innerText.trim() === 'Closed on Mondays.'")
	write(tab, "Always.")
	allSaved(tab)
	tab.Until("document.querySelector('.block .since[open] ins').innerText.trim() === 'Always. Closed on Mondays.'")
	id := tab.MustEval("() => document.querySelector('.block').dataset.block").Str()
	require.NotEmpty(t, id)

	require.NoError(t, tab.Reload())
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]') && " + first + ".classList.contains('is-changed')")
	require.Equal(t, id, tab.MustEval("() => document.querySelector('.block').dataset.block").Str(), "a block keeps its id")

	tab.MustElementR(".add-block button", "Note box").MustClick()
	allSaved(tab)
	tab.Until("[...document.querySelectorAll('.since summary')].some((s) => s.innerText === 'New since Live')")
	tab.MustElement("[aria-label='Remove Text']").MustClick()
	tab.Until("document.querySelector('.since-gone summary')?.innerText === '1 block removed since Live'")
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
