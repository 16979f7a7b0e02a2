package pages_test

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// Of a page of 300 blocks the browser works out what is in sight; every other one can be gone to, by a heading, a part or a
// key, and is written at like the first.
func TestFarPlacesOfALongPage(t *testing.T) {
	site := kit.Site(t, true)
	entry := writeLong(t, site)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	tab.Until("document.querySelector('.is-long')")
	tab.Until("![...document.querySelectorAll('.slot-body > .b')].at(-1).lastElementChild.checkVisibility({ contentVisibilityAuto: true })")

	// seen waits until a heading is in sight, with its edge beside it.
	seen := func(heading string) {
		t.Helper()
		tab.Until(fmt.Sprintf(`(() => {
			const stage = document.querySelector(".stage").getBoundingClientRect(),
				at = [...document.querySelectorAll(".slot-body h2")].find((h) => h.textContent === %q).getBoundingClientRect();
			return at.height > 0 && at.top >= stage.top && at.bottom <= stage.bottom;
		})()`, heading))
	}
	t.Log("by a heading")
	tab.MustEval(`() => document.querySelector("#parts .part-row").click()`)
	pressPart(tab, "#parts .headings button", "Part 250")
	seen("Part 250")
	testkit.Insert(tab, "Far down: ")
	hasText(tab, "Far down: Part 250")

	t.Log("at its end")
	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type(input.End).Do())
	testkit.Insert(tab, "Read to the end. ")
	tab.Until(`(() => {
		const stage = document.querySelector(".stage"), at = [...document.querySelectorAll(".slot-body > .b")].at(-1);
		return at.innerText.includes("Read to the end.") && at.getBoundingClientRect().top < stage.getBoundingClientRect().bottom;
	})()`)

	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type(input.Home).Do())
	tab.Until(`document.querySelector(".stage").scrollTop < 300`)

	t.Log("by a part")
	pressPart(tab, "#parts .part-row", "Part 140")
	seen("Part 140")

	t.Log("all of it is selected and copied, out of sight or not")
	tab.MustEval(`() => getSelection().selectAllChildren(document.querySelector(".ProseMirror"))`)
	tab.Until(`getSelection().toString().length > 10000`)
	allSaved(tab)
	draftHolds(t, site, entry, "Far down: Part 250")
}
