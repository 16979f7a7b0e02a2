package sitemap_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// A list is pasted by the dialog and by the clipboard, and taken back in one step.
func TestPasteAList(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?level=3&at=" + testkit.EntryID(t, site, "/grounds/tool-shed-rota"))
	tab.Until("document.querySelector('#beside [data-entry]')")
	tab.MustElementR(".bar-acts button", "^Paste a list$").MustClick()
	tab.Until("document.querySelector('#paste-where').innerText.includes('Tool shed rota')")
	tab.MustElement("#paste-text").MustInput("Mondays\n  Keys\nTuesdays")
	tab.MustElementR("#paste button", "Add entries").MustClick()
	tab.Until("document.querySelector('#say').innerText === 'Pasted 3 entries.'")
	var n int
	require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT count(*) FROM entry_rows WHERE from_edition IS NULL AND title IN ('Mondays', 'Keys', 'Tuesdays')").Scan(&n))
	require.Equal(t, 3, n)

	t.Log("from the clipboard, with bullets; one was there already")
	tab.MustEval(`() => {
		const data = new DataTransfer();
		data.setData("text/plain", "- Mondays\n\t- Gloves\n- Wednesdays");
		document.querySelector(".o-scroll").dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}));
	}`)
	tab.Until("document.querySelector('#say').innerText === 'Pasted 2 entries; 1 was there already.'")
	tab.Until("[...document.querySelectorAll('.o-row .t')].some((e) => e.innerText === 'Wednesdays')")

	t.Log("undone in one step each, by keyboard")
	for _, left := range []int{3, 0} {
		require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type('z').Do())
		tab.Until("document.querySelector('#say').innerText.startsWith('Undone: pasted " + map[int]string{3: "2", 0: "3"}[left] + "')")
		require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT count(*) FROM entry_rows WHERE from_edition IS NULL AND title IN ('Mondays', 'Keys', 'Tuesdays', 'Gloves', 'Wednesdays')").Scan(&n))
		require.Equal(t, left, n)
	}

	t.Log("what cannot be pasted is said, and nothing is lost")
	tab.MustElementR(".bar-acts button", "^Paste a list$").MustClick()
	tab.MustEval(`() => { document.getElementById("paste-text").value = "x\n".repeat(50000); }`)
	tab.MustElementR("#paste button", "Add entries").MustClick()
	tab.Until("document.querySelector('#say').innerText.includes('at most 10000 lines')")
	require.Empty(t, tab.Problems())
}

// A branch is copied and sorted by button and key, and lands on the site.
func TestCopyAndSort(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?level=3&at=" + testkit.EntryID(t, site, "/grounds/machines"))
	tab.Until("document.querySelector('#beside [data-do=copy]')")
	tab.MustElement("#beside [data-do=copy]").MustClick()
	tab.Until("document.querySelector('#say').innerText === 'Copied “Machines”.' || document.querySelector('#say').innerText === 'Copied \"Machines\".'")
	tab.Until("document.querySelector('.o-row.sel .t').innerText === 'Copy of Machines'")
	tab.Until("document.querySelector('#beside h2').innerText === 'Copy of Machines'")
	below := `[...document.querySelectorAll('.o-row')].filter((r) => r.innerText.includes('/copy-of-machines/')).map((r) => r.querySelector('.t').innerText)`
	tab.Until(below + ".length > 1")

	require.NoError(t, tab.KeyActions().Type('s').Do())
	tab.Until("document.querySelector('#say').innerText.startsWith('Sorted what is below')")
	tab.Until("(() => { const t = " + below + "; return t.join() === t.toSorted((a, b) => a.localeCompare(b)).join() })()")
	require.Empty(t, tab.Problems())
}

// Finding narrows the tree to what fits and the way there, and the address of
// the view restores it.
func TestFindInTheTree(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?at=" + testkit.EntryID(t, site, "/visitors"))
	tab.Until("document.activeElement.classList.contains('o-scroll')")
	require.NoError(t, tab.KeyActions().Type('t').Do())
	tab.MustElement("#o-find").MustInput("CHIPPER wood")
	titles := `[...document.querySelectorAll('.o-row .t')].map((e) => e.innerText).join()`
	tab.Until(titles + ".startsWith('Grounds,Machines,Book the wood chipper')")
	tab.Until("document.querySelector('#filters').innerText.includes('found; faint rows only show the way')")
	require.NoError(t, tab.KeyActions().Press(input.Enter).Do())
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Book the wood chipper'")
	shown := tab.MustEval("() => " + titles).Str()

	tab.Go(tab.MustEval("() => location.pathname + location.search").Str())
	tab.Until(titles + " === '" + shown + "'")
	tab.Until("document.querySelector('#o-find').value === 'CHIPPER wood'")

	t.Log("accents do not matter, and nothing found is said")
	tab.MustElement("#o-find").MustSelectAllText().MustInput("cafe")
	tab.Until(titles + ".includes('Café')")
	tab.MustElement("#o-find").MustSelectAllText().MustInput("=xyzzy")
	tab.Until("document.querySelector('#filters').innerText.includes('Nothing in the tree fits')")
	tab.MustElement("#o-find").MustSelectAllText().MustInput("cafe")

	t.Log("a filter in the address is kept, too")
	tab.Go("/studio/sitemap?show=changed")
	tab.Until("document.querySelector('.chip[aria-pressed=true]').innerText.startsWith('Changed')")
	require.Empty(t, tab.Problems())
}

// Several are chosen by keyboard and mouse, get an owner, move with their
// consequences, and are taken back in one step each.
func TestChooseSeveral(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap?level=3&at=" + testkit.EntryID(t, site, "/grounds/compost/turning-the-heaps"))
	tab.Until("document.activeElement.classList.contains('o-scroll')")
	for range 2 {
		require.NoError(t, tab.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown).Do())
	}
	tab.Until("document.querySelector('#beside h2')?.innerText === '3 entries selected'")
	tab.Until("document.querySelectorAll('.o-row[aria-selected=true]').length === 3")
	owner := tab.MustEval(`() => { const o = [...document.querySelectorAll('#f-owner option')].find((o) => o.value && o.value !== 'Gwen Hale'); o.parentElement.value = o.value; o.parentElement.dispatchEvent(new Event('change')); return o.textContent; }`).Str()
	tab.Until("document.querySelector('#say').innerText === 'Changed the owner of 3 entries.'")
	tab.Until("[...document.querySelectorAll('.o-row[aria-selected=true]')].filter((r) => r.innerText.includes('" + owner + "')).length === 3")

	t.Log("moved, after a look at what that does")
	require.NoError(t, tab.KeyActions().Type('m').Do())
	tab.Until("document.activeElement.id === 'move-find'")
	tab.MustElement("#move-find").MustInput("Volunteers")
	tab.MustElementR("[role=option]", "Volunteers").MustClick()
	tab.Until("document.querySelector('[data-confirm] h2')?.innerText === '3 entries'")
	tab.Until("document.querySelector('[data-confirm]').innerText.includes('3 addresses change')")
	tab.Until("document.querySelector('[data-confirm-yes]').innerText.startsWith('Move them')")
	require.NoError(t, tab.KeyActions().Press(input.Enter).Do())
	tab.Until("document.querySelector('#say').innerText === 'Moved 3 entries.'")
	tab.Until("document.querySelector('#beside h2')?.innerText === '3 entries selected'")

	t.Log("and back, each in one step")
	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type('z').Do())
	tab.Until("document.querySelector('#say').innerText.startsWith('Undone: moved 3 entries')")
	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type('z').Do())
	tab.Until("document.querySelector('#say').innerText.startsWith('Undone: changed the owner of 3 entries')")

	t.Log("what goes out of sight is not chosen any more")
	tab.MustElement("#o-find").MustInput("heaps")
	tab.Until("document.querySelectorAll('.o-row[aria-selected=true]').length === 1")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Turning the heaps'")
	tab.MustElement("#o-find").MustSelectAllText().MustInput("compost")
	require.NoError(t, tab.KeyActions().Press(input.Enter).Do())
	tab.Until("document.activeElement.classList.contains('o-scroll')")
	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type('a').Do())
	tab.Until("document.querySelector('#beside h2')?.innerText.endsWith('entries selected')")
	require.NoError(t, tab.KeyActions().Press(input.Escape).Do())
	tab.Until("document.querySelectorAll('.o-row[aria-selected=true]').length === 1")
	require.Empty(t, tab.Problems())
}
