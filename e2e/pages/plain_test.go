package pages_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// The page as plain text can be written on, and switched back; a line that cannot be read is
// told and nothing is lost. Undo takes it all back, and earlier states bring it again.
func TestPlainTextAndEarlierStates(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, "/start-here/first-week")
	tab.Until("document.querySelector('#editor')?.editor")
	blocks := "() => JSON.stringify(document.getElementById('editor').editor.x.page())"
	before := tab.MustEval(blocks).Str()

	tab.MustElement("#plain").MustClick()
	tab.Until("document.querySelector('#plain-view textarea')?.value.includes('to: /start-here/first-week/day-one-hour-by-hour')")
	tab.MustElement("#plain").MustClick()
	tab.Until("document.querySelector('#plain-view').hidden")
	require.JSONEq(t, before, tab.MustEval(blocks).Str(), "looking at the plain text changes nothing")

	tab.MustElement("#plain").MustClick()
	tab.Until("!document.querySelector('#plain-view').hidden && document.querySelector('#plain-view textarea').value.includes('Wear boots')")
	edit := `(from, to) => { const a = document.querySelector("#plain-view textarea"); a.value = a.value.replace(from, to); a.dispatchEvent(new Event("input")); }`
	tab.MustEval(edit, "::: note", "::: banner")
	tab.MustElement("#plain").MustClick()
	tab.Until("document.querySelector('#plain-view .to-mend').innerText.includes('There is no kind of block called \"banner\".')")
	require.False(t, tab.MustEval("() => document.querySelector('#plain-view').hidden").Bool(), "what cannot be read stays to be mended")
	tab.MustEval(edit, "::: banner\ntone: tip", "::: note\ntone: danger")
	tab.MustEval(edit, "Wear boots", "Wear long boots")
	tab.MustElement("#plain").MustClick()
	tab.Until("document.querySelector('#plain-view').hidden && document.querySelector('.note-danger')?.innerText.includes('Wear long boots')")
	allSaved(tab)
	draftHolds(t, site, testkit.EntryID(t, site, "/start-here/first-week"), "Wear long boots")

	tab.MustElement("#undo").MustClick()
	tab.Until("document.querySelector('.note-tip')?.innerText.includes('Wear boots')")
	allSaved(tab)
	// The next state begins after two minutes; here the one that is kept is made older.
	_, err := site.Pool.Exec(t.Context(), `UPDATE draft_states SET at = at - interval '1 hour', begun_at = begun_at - interval '1 hour',
		content = replace(content::text, 'Wear boots', 'Wear green boots')::jsonb WHERE entry_id = $1`, testkit.EntryID(t, site, "/start-here/first-week"))
	require.NoError(t, err)
	tab.MustElement("#states").MustClick()
	tab.MustElement(".state-list button").MustClick()
	tab.Until("document.querySelector('.state-change')?.innerText.includes('green')")
	tab.MustElementR(".state-change button", "Bring this block back").MustClick()
	tab.MustElementR(".states header button", "Close").MustClick()
	tab.Until("document.querySelector('.note-tip')?.innerText.includes('Wear green boots')")
	allSaved(tab)
	draftHolds(t, site, testkit.EntryID(t, site, "/start-here/first-week"), "Wear green boots")
	require.Empty(t, tab.Problems())
}

// Opening pages and saving them changes nothing, whatever stands on them.
func TestOpeningAndSavingChangesNothing(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	for _, at := range []string{"/", "/start-here/first-week", "/seed-vault", "/glasshouses", "/visitors/first-aid", "/volunteers", "/grounds/machines/book-the-wood-chipper"} {
		openPage(t, tab, site, at)
		tab.Until("document.querySelector('#editor')?.editor")
		require.Empty(t, tab.MustEval(`() => {
			const { x } = document.getElementById("editor").editor, was = JSON.parse(document.getElementById("page-data").textContent);
			const sorted = (v) => Array.isArray(v) ? v.map(sorted) : v && typeof v === "object" ? Object.fromEntries(Object.entries(v).filter(([, w]) => w?.length !== 0).sort().map(([k, w]) => [k, sorted(w)])) : v;
			const [a, b] = [x.page().slots, was.slots].map((v) => JSON.stringify(sorted(v)));
			return a === b ? "" : a + "\n" + b;
		}`).Str(), at)
	}
	require.Empty(t, tab.Problems())
}
