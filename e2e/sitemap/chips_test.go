package sitemap_test

import (
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// factOf gives what stands in a field of an entry of Next.
func factOf(t *testing.T, site *testkit.Site, id string, get func(topics, readership string) string) string {
	t.Helper()
	o, err := site.App.Outline(t.Context())
	require.NoError(t, err)
	e := o.Trees.Next.Ref(o.Trees.Next.Find(id))
	return get(e.Topics, e.Readership)
}

// Several names stand as chips: typed, taken out with Backspace or their button, and
// one that nobody has stays in sight, refused.
func TestNamesAreChips(t *testing.T) {
	site := kit.Site(t, true)
	id := testkit.EntryID(t, site, "/grounds/compost")
	topics := func() string { return factOf(t, site, id, func(topics, _ string) string { return topics }) }
	readers := func() string { return factOf(t, site, id, func(_, readers string) string { return readers }) }
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap?at=" + id)
	chips := func(field, want string) {
		t.Helper()
		tab.Until(`[...(document.querySelector("#f-` + field + `")?.closest(".chips-in")?.querySelectorAll(".chip-of") ?? [])].map((c) => c.firstChild.textContent).join("|") === ` + testkit.Quote(want))
	}
	focus := func(field string) { // the facts may be drawn again at any moment
		tab.Until(`(() => { const f = document.querySelector(".chips-typed#f-` + field + `"); f?.focus(); return !!f && document.activeElement === f; })()`)
	}
	focused := func(field string) { tab.Until(`document.activeElement.id === "f-` + field + `"`) }

	focus("topics")
	tab.MustEval(`() => { document.getElementById("f-topics").dataset.before = "1" }`)
	testkit.Press(t, tab, "soil", input.Enter)
	chips("topics", "soil")
	tab.Until(`document.getElementById("f-topics").dataset.before === undefined`) // the facts are drawn again, and one writes on
	focused("topics")
	testkit.Press(t, tab, "worms;")
	chips("topics", "soil|worms")
	require.Eventually(t, func() bool { return topics() == "soil; worms" }, 30*time.Second, 50*time.Millisecond)
	focused("topics")
	testkit.Press(t, tab, input.Backspace)
	chips("topics", "soil")
	require.Eventually(t, func() bool { return topics() == "soil" }, 30*time.Second, 50*time.Millisecond)

	focus("readership")
	testkit.Press(t, tab, "Gwen Hale", input.Enter)
	chips("readership", "Gwen Hale")
	require.Eventually(t, func() bool { return readers() == "Gwen Hale" }, 30*time.Second, 50*time.Millisecond)
	testkit.Press(t, tab, "Nobody Here", input.Enter)
	chips("readership", "Gwen Hale|Nobody Here")
	tab.Until(`document.querySelector("#say").innerText.includes("Nobody Here")`)
	require.Equal(t, "Gwen Hale", readers(), "what is refused changes nothing")
	tab.MustEval(`() => document.querySelector('.chip-of button[aria-label="Remove Nobody Here"]').click()`)
	chips("readership", "Gwen Hale")
	focused("readership")
	require.Empty(t, tab.Problems())
}
