package sitemap_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Cells are written as in a spreadsheet: by typing, going on with Enter and Tab,
// filling down, copying and pasting a column, emptying; each is one step to undo.
func TestCellsAreWrittenInPlace(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	heaps := testkit.EntryID(t, site, "/grounds/compost/turning-the-heaps")
	tab.Go("/studio/sitemap?level=3&cols=topics.review.notes.owner&at=" + heaps)
	tab.Until("document.querySelector('#beside [data-entry]')")
	said := func(words string) {
		t.Helper()
		tab.Until("document.querySelector('#say').innerText === " + testkit.Quote(words))
	}
	cell := func(col string) string {
		return "document.querySelector('.o-row.at [data-col=" + col + "]')?.innerText"
	}

	t.Log("typed; Tab goes on to the right, Enter down")
	testkit.Press(t, tab, input.ArrowRight, input.F2)
	tab.Until("document.activeElement.closest('.o-edit')?.querySelector('.chips-in')") // several names are chips here, too
	testkit.Press(t, tab, input.Backspace, input.Backspace, input.Backspace, "bees;", "Compost,bees", input.Tab)
	said(`Changed the topics of "Turning the heaps".`)
	tab.Until(cell("topics") + " === 'bees; Compost'")
	testkit.Press(t, tab, input.Enter, "2027-3-1", input.Enter)
	said(`"2027-3-1" is not a date. Write it like 2026-11-24.`)
	tab.Until("document.activeElement.value === '2027-3-1'") // what was refused is not lost
	tab.MustElement(".o-edit").MustSelectAllText()
	testkit.Press(t, tab, "1 March 2027", input.Enter)
	said(`Changed the review date of "Turning the heaps".`)
	testkit.Press(t, tab, input.ArrowUp)
	tab.Until(cell("review") + " === '2027-03-01'")

	t.Log("filled down from the first of three, taken back in one step")
	require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown, input.ArrowDown).Do())
	testkit.Ctrl(t, tab, 'd')
	said("Changed the review date of 2 entries.")
	dates := "[...document.querySelectorAll('.o-row [data-col=review]')].filter((c) => c.innerText === '2027-03-01').length"
	tab.Until(dates + " === 3")
	testkit.Ctrl(t, tab, 'z')
	tab.Until(dates + " === 1")
	testkit.Press(t, tab, input.Escape, input.Escape)

	t.Log("a column copied elsewhere is pasted from the cell down, lines without an entry are told")
	tab.Go("/studio/sitemap?level=3&cols=topics.review.notes.owner&at=" + heaps)
	tab.Until("document.querySelector('#beside [data-entry]')")
	paste := func(text string) {
		tab.MustEval(`(text) => {
			const data = new DataTransfer();
			data.setData("text/plain", text);
			document.querySelector(".o-scroll").dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}));
		}`, text)
	}
	testkit.Press(t, tab, input.ArrowRight, input.ArrowRight, input.ArrowRight)
	paste("=1+2\tInes Duarte\r\n<b>two</b>\tGwen Hale\r\n")
	said("Changed the owner of 2 entries.")
	tab.Until(cell("notes") + " === '=1+2' && " + cell("owner") + " === 'Ines Duarte'")
	tab.Until("[...document.querySelectorAll('.o-row [data-col=notes]')].some((c) => c.innerText === '<b>two</b>')")
	copied := tab.MustEval(`() => {
		const data = new DataTransfer();
		document.querySelector(".o-scroll").dispatchEvent(new ClipboardEvent("copy", {clipboardData: data, bubbles: true, cancelable: true}));
		return data.getData("text/plain");
	}`).Str()
	require.Equal(t, "=1+2", copied)

	t.Log("emptied, and what cannot be empty says so")
	testkit.Press(t, tab, input.Delete)
	said(`Changed the notes of "Turning the heaps".`)
	tab.Until(cell("notes") + " === ''")
	tab.Go("/studio/sitemap?level=3&cols=kind.state&at=" + heaps)
	tab.Until("document.querySelector('#beside [data-entry]')")
	testkit.Press(t, tab, input.ArrowRight, input.Delete)
	said("Kind cannot be empty.")
	testkit.Press(t, tab, input.ArrowRight, input.Enter)
	said("State of this entry cannot be edited here.")

	t.Log("what is typed goes where it was typed, also when a click elsewhere ends it; lines of notes stay lines")
	c := testkit.SignIn(t, site, "ines")
	status, a := c.Act(map[string]any{"do": "fact", "field": "notes", "id": heaps, "value": "one\ntwo"})
	require.Equal(t, 200, status, a.Error)
	group := testkit.EntryID(t, site, "/grounds/compost")
	tab.Go("/studio/sitemap?level=3&cols=owner.notes.state&at=" + heaps)
	tab.Until("document.querySelector('#beside [data-entry]')")
	testkit.Press(t, tab, input.ArrowRight, input.ArrowRight, input.Enter)
	tab.Until("document.activeElement.tagName === 'TEXTAREA' && document.activeElement.value === 'one\\ntwo'")
	testkit.Press(t, tab, input.Enter, input.ArrowUp, input.ArrowLeft, input.Enter)
	tab.Until("document.activeElement.tagName === 'INPUT'")
	testkit.Press(t, tab, "Ines Barrow")
	// The rows are drawn anew right after the click, as when somebody else changes the plan.
	tab.MustEval(`() => document.querySelector(".o-scroll").addEventListener("click", (e) => e.currentTarget.dispatchEvent(new Event("scroll")))`)
	tab.MustElement("#row-" + group + " [data-col=state]").MustClick()
	said(`Changed the owner of "Turning the heaps".`)
	var notes, owner string
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT notes, owner FROM entry_rows WHERE entry_id = $1 AND from_edition IS NULL", heaps).Scan(&notes, &owner))
	require.Equal(t, []string{"one\ntwo", "Ines Barrow"}, []string{notes, owner})
	tab.Go("/studio/sitemap?level=3&cols=kind.state&at=" + heaps)
	tab.Until("document.querySelector('#beside [data-entry]')")
	testkit.Press(t, tab, input.ArrowRight)

	t.Log("typing is not lost while the rows are drawn anew")
	testkit.Press(t, tab, input.Escape, input.Enter)
	tab.Until("document.activeElement.classList.contains('o-edit')")
	testkit.Press(t, tab, "Heaps, turned")
	tab.MustEval(`() => document.querySelector(".o-scroll").dispatchEvent(new Event("scroll"))`)
	tab.Until("document.activeElement.value === 'Heaps, turned'")
	testkit.Press(t, tab, " over", input.Enter)
	said(`Renamed "Turning the heaps" to "Heaps, turned over".`)
	require.Empty(t, tab.Problems())
}

// The view is sorted and narrowed, kept under a name, and comes back by it.
func TestKeptViews(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?at=" + testkit.EntryID(t, site, "/grounds"))
	tab.Until("document.querySelector('#beside [data-entry]')")
	tab.MustElement(".o-head [data-col=address]").MustClick()
	tab.Until("document.querySelector('.o-head [data-col=address]').getAttribute('aria-sort') === 'ascending'")
	addresses := "[...document.querySelectorAll('.o-row .o-addr')].map((e) => e.innerText)"
	tab.Until("(() => { const a = " + addresses + "; return a.length > 5 && a.every((x, i) => !i || new Intl.Collator('en', {numeric: true, sensitivity: 'base'}).compare(a[i-1], x) <= 0) })()")
	tab.MustElement("#o-only").MustSelect("Gwen Hale ")
	tab.Until("location.search.includes('only=owner')")
	tab.Until("document.querySelector('#filters').innerText.includes('sorted by address in next')")
	tab.MustElement("#o-columns summary").MustClick()
	tab.MustElementR("#o-columns label", "Notes").MustClick()
	tab.Until("document.querySelector('.o-head [data-col=notes]')")
	testkit.Press(t, tab, input.Escape)
	kept := tab.MustEval("() => document.querySelector('#filters').innerText.replaceAll('\\n', ' ')").Str()
	tab.MustElement("#o-views summary").MustClick()
	tab.MustElement("#o-view-name").MustInput("Gwen's <pages>")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('#o-views li')?.innerText.includes(\"Gwen's <pages>\")")

	tab.Go(tab.MustEval("() => location.pathname + location.search").Str())
	tab.Until("document.querySelector('#filters')?.innerText.replaceAll('\\n', ' ') === " + testkit.Quote(kept))

	t.Log("from a fresh page")
	tab.Go("/studio/sitemap")
	tab.Until("document.querySelector('#beside [data-entry]')")
	tab.MustElement("#o-views summary").MustClick()
	tab.MustElementR("#o-views li button", "Gwen's").MustClick()
	tab.Until("document.querySelector('#filters').innerText.replaceAll('\\n', ' ') === " + testkit.Quote(kept))
	tab.Until("document.querySelector('.o-head [data-col=notes]')")

	t.Log("chosen all, then choosing all below one")
	tab.MustElementR("#filters button", "Choose all").MustClick()
	tab.Until("document.querySelector('#beside h2')?.innerText.endsWith('entries selected')")
	tab.Go("/studio/sitemap?at=" + testkit.EntryID(t, site, "/grounds/compost"))
	tab.Until("document.querySelector('#beside [data-do=choose-below]')")
	tab.MustElement("#beside [data-do=choose-below]").MustClick()
	tab.Until("document.querySelector('#beside h2')?.innerText.endsWith('entries selected')")
	tab.Until("document.querySelectorAll('.o-row[aria-selected=true]').length > 2")

	t.Log("another person does not see it; forgotten, it is gone")
	_, rows := testkit.SignIn(t, site, "marta").Get("/studio/sitemap/rows")
	require.NotContains(t, string(rows), "Gwen's")
	tab.MustElement("#o-views summary").MustClick()
	tab.MustElement("#o-views li .tool").MustClick()
	tab.Until("!document.querySelector('#o-views li')")
	require.Empty(t, tab.Problems())
}

// A cell written while the server does not answer opens again with what was
// typed.
func TestACellKeepsWhatWasTyped(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?level=3&cols=topics&at=" + testkit.EntryID(t, site, "/grounds/compost/turning-the-heaps"))
	tab.Until("document.querySelector('#beside [data-entry]')")
	offline := func(off bool) {
		require.NoError(t, proto.NetworkEmulateNetworkConditions{Offline: off, DownloadThroughput: -1, UploadThroughput: -1}.Call(tab.Page))
	}
	offline(true)
	testkit.Press(t, tab, input.ArrowRight, input.Enter, "fungi", input.Enter)
	tab.Until("document.querySelector('#say').innerText.startsWith('The server does not answer.')")
	tab.Until("document.activeElement.closest('.o-edit') && [...document.querySelectorAll('.o-edit .chip-of')].some((c) => c.firstChild.textContent === 'fungi')")
	offline(false)
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('#say').innerText === 'Changed the topics of \"Turning the heaps\".'")
}
