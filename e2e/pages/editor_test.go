package pages_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

const borrowed = "/glasshouses/watering-rounds/summer-rounds" // a page of the demo without a draft

// openPage opens the page editor on a page and waits until it can be written.
func openPage(t *testing.T, tab *testkit.Tab, site *testkit.Site, addr string) {
	tab.Go("/studio/pages/" + testkit.EntryID(t, site, addr))
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]')")
}

// write puts a sentence at the beginning of the first text.
func write(tab *testkit.Tab, sentence string) {
	testkit.InText(tab)
	testkit.Insert(tab, sentence+" ")
}

// pressPart clicks what has words among the parts, which are drawn anew whenever the page changes.
func pressPart(tab *testkit.Tab, selector, words string) {
	tab.Until(fmt.Sprintf(`(() => {
		const at = [...document.querySelectorAll(%s)].find((e) => e.innerText.includes(%s) && !e.disabled);
		at?.click();
		return !!at;
	})()`, testkit.Quote(selector), testkit.Quote(words)))
}

func allSaved(tab *testkit.Tab) {
	tab.Until("document.querySelector('#saved').innerText === 'Saved'")
}

func hasText(tab *testkit.Tab, sentence string) {
	tab.Until("[...document.querySelectorAll('.ProseMirror')].some((e) => e.innerText.includes(" + testkit.Quote(sentence) + "))")
}

// draftHolds waits until the server's draft holds a sentence.
func draftHolds(t *testing.T, site *testkit.Site, entry, sentence string) {
	t.Helper()
	require.Eventually(t, func() bool {
		var n int
		err := site.Pool.QueryRow(t.Context(), `SELECT count(*) FROM page_versions v JOIN page_spans s ON s.version_id = v.id
			WHERE s.from_edition IS NULL AND s.entry_id = $1 AND v.content::text LIKE '%' || $2 || '%'`, entry, sentence).Scan(&n)
		return err == nil && n == 1
	}, 30*time.Second, 50*time.Millisecond, "the draft holds %q", sentence)
}

func TestTheEditorLosesNothing(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	entry := testkit.EntryID(t, site, borrowed)

	t.Log("a tab closed at once after typing")
	openPage(t, tab, site, borrowed)
	write(tab, "Closed too early.")
	second := tab.Another()
	require.NoError(t, tab.Close())
	draftHolds(t, site, entry, "Closed too early.")
	tab = second

	t.Log("a reload gives the lock on by itself")
	openPage(t, tab, site, borrowed)
	hasText(tab, "Closed too early.")
	require.NoError(t, tab.Reload())
	tab.Until("document.querySelector('.ProseMirror[contenteditable=true]')")
	require.True(t, tab.MustEval("() => document.getElementById('lock-note').hidden").Bool())

	t.Log("a cut connection is said, and the text saved when it is back")
	testkit.Offline(tab, true)
	write(tab, "Written in the tunnel.")
	tab.Until("document.querySelector('#saved').innerText.startsWith('Not connected')")
	testkit.Offline(tab, false)
	draftHolds(t, site, entry, "Written in the tunnel.")
	allSaved(tab)

	t.Log("a tab that crashes without a connection")
	testkit.Offline(tab, true)
	write(tab, "Before the crash.")
	tab.Until("document.querySelector('#saved').innerText.startsWith('Not connected')")
	second = tab.Another()
	go func() { _ = proto.PageCrash{}.Call(tab) }()
	second.Go("/studio/pages/" + entry)
	second.MustElementR("#lock-note button", "Write here instead").MustClick()
	hasText(second, "Before the crash.")
	draftHolds(t, site, entry, "Before the crash.")
	tab = second

	t.Log("an answer that was lost on the way")
	_, err := site.Pool.Exec(t.Context(), `UPDATE page_versions v SET version = version + 1
		FROM page_spans s WHERE s.version_id = v.id AND s.from_edition IS NULL AND v.entry_id = $1`, entry)
	require.NoError(t, err)
	write(tab, "Answer lost.")
	draftHolds(t, site, entry, "Answer lost.")
	allSaved(tab)

	t.Log("an edition that goes out while the page is open")
	testkit.PublishOnly(t, site, "Edits go out", func(aspect string) bool { return aspect == "content" })
	write(tab, "After the edition.")
	draftHolds(t, site, entry, "After the edition.")
	allSaved(tab)

	t.Log("somebody takes the page over")
	other := browser.Open(t, site.URL)
	other.SignIn("marta")
	other.Go("/studio/pages/" + entry)
	require.False(t, other.MustElement(".ProseMirror").MustEval("() => this.isContentEditable").Bool(), "a second window reads")
	other.MustElementR("#lock-note button", "Take over").MustClick()
	testkit.InText(tab)
	testkit.Insert(tab, "Overtaken in the middle.")
	tab.Until("!document.querySelector('#compare').hidden")
	tab.MustElementR("#compare pre", "Overtaken in the middle")
	other.Until("document.querySelector('.ProseMirror[contenteditable=true]')")
	write(other, "By Marta.")
	draftHolds(t, site, entry, "By Marta.")

	t.Log("the kept text is there after all windows were closed, and can be taken")
	require.NoError(t, tab.Reload())
	tab.MustElementR("#kept button", "Yours of").MustClick()
	tab.MustElementR("#compare button", "Go on with yours").MustEval("() => this.click()") // it may still be scrolled into sight
	draftHolds(t, site, entry, "Overtaken in the middle.")
	require.Empty(t, tab.Problems())
	require.Empty(t, other.Problems())
}

// The day on which a page goes out as news is undone and redone like its text, each by itself.
func TestTheDayOfNewsIsUndone(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	entry := testkit.EntryID(t, site, borrowed)
	openPage(t, tab, site, borrowed)
	write(tab, "Before the day.")
	tab.MustEval(`() => document.querySelector("#parts .part-row").click()`)
	tab.Until(`document.getElementById("news-day") !== null`)
	tab.MustEval(`(day) => {
		const input = document.getElementById("news-day");
		for (const typed of ["0002-12-01", "0020-12-01", "0202-12-01", day]) { // as by keyboard
			input.value = typed;
			input.dispatchEvent(new Event("change"));
		}
	}`, "2026-12-01")
	write(tab, "After the day.")
	draftHolds(t, site, entry, "2026-12-01")
	stands := func(day string, before, after bool) {
		t.Helper()
		tab.Until(fmt.Sprintf(`document.getElementById("editor").editor.x.view.state.doc.attrs.news === %q && document.querySelector(".ProseMirror").innerText.includes("Before the day.") === %v &&
			document.querySelector(".ProseMirror").innerText.includes("After the day.") === %v`, day, before, after))
	}
	stands("2026-12-01", true, true)
	for _, then := range []func(){
		func() { stands("2026-12-01", true, false) }, func() { stands("", true, false) }, func() { stands("", false, false) },
	} {
		tab.MustElement("#undo").MustClick()
		then()
	}
	tab.MustElement("#redo").MustClick()
	tab.MustElement("#redo").MustClick()
	stands("2026-12-01", true, false)
	allSaved(tab)
	draftHolds(t, site, entry, "2026-12-01")
	tab.MustReload()
	tab.Until(`document.getElementById("news-day")?.value === "2026-12-01"`) // beside, where the page itself is unfolded
}
