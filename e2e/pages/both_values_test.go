package pages_test

import (
	"net/url"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Two who write the same fact: the later one is told who was quicker, sees both values, and
// chooses. What others change beside it stands in nobody's way.
func TestTwoWhoChangeTheSame(t *testing.T) {
	site := kit.Site(t, true)
	entry := testkit.EntryID(t, site, "/visitors/shop")
	kofi := testkit.SignIn(t, site, "kofi")
	ines := browser.Open(t, site.URL)
	ines.SignIn("ines")
	ines.Go("/studio/sitemap?at=" + entry)
	ines.Until("document.getElementById('f-notes') !== null")
	notes := func() (out string) {
		require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT notes FROM entry_rows WHERE entry_id = $1 AND from_edition IS NULL`, entry).Scan(&out))
		return out
	}
	write := func(words string) {
		ines.MustElement("#f-notes").MustSelectAllText().MustInput(words)
	}
	write("Ines's team")
	status, _ := kofi.Act(map[string]any{"do": "fact", "field": "notes", "id": entry, "value": "Kofi's team"})
	require.Equal(t, 200, status)
	ines.Until("document.getElementById('say').textContent.includes('Kofi')") // the plan is the newer one now
	require.NoError(t, ines.Keyboard.Type(input.Tab))
	ines.Until("document.querySelector('.both-values')?.textContent.includes('“Kofi\\'s team”')")
	note := ines.MustElement(".both-values")
	require.Contains(t, note.MustText(), "Kofi Rand wrote “Kofi's team”, you wrote “Ines's team”.")
	require.Equal(t, "Kofi's team", notes(), "nothing is written over")
	require.Equal(t, "Ines's team", ines.MustElement("#f-notes").MustProperty("value").Str(), "nothing typed is lost")
	pressPart(ines, ".both-values button", "Keep mine")
	ines.Until("document.querySelector('.both-values') === null")
	require.Eventually(t, func() bool { return notes() == "Ines's team" }, 30*time.Second, 20*time.Millisecond)

	t.Log("what others change beside it is in nobody's way")
	ines.Until("document.getElementById('f-notes')?.defaultValue === \"Ines's team\"")
	write("The shop team")
	status, _ = kofi.Act(map[string]any{"do": "fact", "field": "short", "id": entry, "value": "Shop"})
	require.Equal(t, 200, status)
	require.NoError(t, ines.Keyboard.Type(input.Tab))
	require.Eventually(t, func() bool { return notes() == "The shop team" }, 30*time.Second, 20*time.Millisecond)

	t.Log("and theirs can stay")
	ines.Until("document.getElementById('f-notes')?.defaultValue === 'The shop team' && document.getElementById('f-short').value === 'Shop'")
	write("Somebody else")
	status, _ = kofi.Act(map[string]any{"do": "fact", "field": "notes", "id": entry, "value": "Kofi again"})
	require.Equal(t, 200, status)
	require.NoError(t, ines.Keyboard.Type(input.Tab))
	ines.MustElementR(".both-values button", "Keep theirs").MustClick()
	ines.Until("document.querySelector('.both-values') === null && document.getElementById('f-notes').value === 'Kofi again'")
	require.Equal(t, "Kofi again", notes())
}

// The same in a menu: what both say of one item is shown with both values, and what they say
// beside each other both stays. Of a trail, both are shown whole.
func TestTwoInOneMenuOrTrail(t *testing.T) {
	site := kit.Site(t, true)
	grounds := testkit.EntryID(t, site, "/grounds")
	kofi := testkit.SignIn(t, site, "kofi")
	say := func(form map[string]any) {
		t.Helper()
		form["key"], form["menu"], form["do"], form["item"] = uuid.NewString(), "top", "say", grounds
		require.Equal(t, 200, kofi.JSON("/studio/menus/act", form, nil))
	}
	ines := browser.Open(t, site.URL)
	ines.SignIn("ines")
	ines.Go("/studio/menus?item=" + grounds)
	ines.Until("document.getElementById('item-title') !== null")
	say(map[string]any{"title": "Outside", "symbol": "leaf"})
	ines.MustElement("#item-title").MustSelectAllText().MustInput("Beds and paths")
	require.NoError(t, ines.Keyboard.Type(input.Tab))
	ines.Until("document.querySelector('.both-values')?.textContent.includes('Kofi Rand wrote “Outside”, you wrote “Beds and paths”.')")
	require.Equal(t, "Outside", ines.MustElement("#item-title").MustProperty("value").Str())
	pressPart(ines, ".both-values button", "Keep mine")
	ines.Until("document.querySelector('.both-values') === null && document.getElementById('item-title')?.defaultValue === 'Beds and paths'")
	require.Equal(t, "leaf", ines.MustElement("#item-symbol").MustProperty("value").Str(), "what Kofi chose beside it stays")

	var trail string
	require.NoError(t, site.Pool.QueryRow(t.Context(), `SELECT substr(shape_id, 7) FROM shape_rows WHERE shape_id LIKE 'trail:%' AND to_edition IS NULL LIMIT 1`).Scan(&trail))
	ines.Go("/studio/menus/trails/" + trail)
	status, _ := kofi.Form("/studio/menus/trails/"+trail, url.Values{"key": {uuid.NewString()}, "title": {"The way of Kofi"}, "page": {grounds}})
	require.Equal(t, 303, status)
	ines.MustElement("#t-title").MustSelectAllText().MustInput("The way of Ines")
	ines.MustElementR("#trail-form button", "Save").MustClick()
	ines.Until("document.querySelector('.both-values')?.textContent.includes('The way of Kofi')")
	require.Contains(t, ines.MustElement(".both-values").MustText(), "The way of Ines")
	require.Equal(t, "The way of Ines", ines.MustElement("#t-title").MustProperty("value").Str(), "nothing typed is lost")
	ines.MustElementR("#trail-form button", "Save").MustClick()
	ines.Until("document.querySelector('.both-values') === null && document.querySelector('h1').textContent === 'The way of Ines'")
}
