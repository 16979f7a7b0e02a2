package pages_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// TestAnEditorShapesAMenu takes the top menu over with the keyboard alone: order,
// words, left out, let in, a page from anywhere, a label; sees it beside as
// readers get it; publishes it, and goes back.
func TestAnEditorShapesAMenu(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/menus")
	top := func(of string) string {
		return tab.MustEval(`(of) => [...document.querySelector("iframe[data-of=" + of + "]").contentDocument.querySelectorAll(".top-menu > ul > li")].map((l) => (l.querySelector("a, summary") || l).textContent.trim()).join("|")`, of).Str()
	}
	shown := func(words string) string {
		return `document.querySelector("iframe[data-of=next]").contentDocument?.querySelector(".top-menu")?.textContent.includes(` + testkit.Quote(words) + `)`
	}
	at := func(words string) string {
		return `document.querySelector(".m-line.sel .m-title")?.textContent.trim() === ` + testkit.Quote(words)
	}
	tab.Until(shown("Grounds"))
	live := top("live")
	tab.MustEval(`() => document.getElementById("menu-tree").focus()`)
	testkit.Press(t, tab, input.ArrowDown)
	tab.Until(at("Start here"))
	testkit.Press(t, tab, input.ArrowDown)
	tab.Until(at("Glasshouses"))

	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(input.ArrowUp).Do())
	tab.Until(`document.querySelectorAll(".m-line")[1]?.textContent.includes("Glasshouses")`)
	tab.Until(at("Glasshouses"))

	testkit.Press(t, tab, input.Enter)
	tab.Until(`document.activeElement.id === "item-title"`)
	testkit.Press(t, tab, "Under glass", input.Enter)
	tab.Until(shown("Under glass"))
	require.Contains(t, top("next"), "Home|Under glass|Start here")
	require.Equal(t, live, top("live"), "Live stays")

	tab.MustEval(`() => document.getElementById("menu-tree").focus()`)
	testkit.Press(t, tab, input.ArrowDown, input.ArrowDown)
	tab.Until(at("Grounds"))
	testkit.Press(t, tab, input.Delete)
	tab.Until(`document.querySelector(".m-line.sel")?.textContent.includes("left out; the page stays")`)
	tab.Until("!" + shown("Grounds"))
	testkit.Press(t, tab, input.KeyI)
	tab.Until(shown("Grounds"))
	tab.Until(`document.querySelector(".m-line.sel:not(.unshown)")`)

	testkit.Press(t, tab, input.KeyA)
	testkit.Press(t, tab, "picnic")
	tab.Until(`document.querySelector(".suggest [aria-selected=true]")?.textContent.includes("Picnic lawns")`)
	require.True(t, tab.MustEval(`() => { const r = document.querySelector(".suggest").getBoundingClientRect(); return r.top >= 0 && r.bottom <= innerHeight; }`).Bool(), "what was found is in sight")
	testkit.Press(t, tab, input.Enter)
	tab.Until(shown("Picnic lawns"))
	tab.Until(at("Picnic lawns"))

	// An address that is typed there makes an outside link.
	testkit.Press(t, tab, "https://tides.quillmere.example/today")
	tab.Until(`document.querySelector(".suggest [aria-selected=true]")?.textContent.includes("An outside link")`)
	testkit.Press(t, tab, input.Enter)
	tab.Until(at("tides.quillmere.example/today"))
	tab.Until(`document.activeElement.id === "add-find"`)

	// A label that is too long is refused, and what was typed is still there.
	tab.MustElement("#add-own summary").MustClick()
	tab.Until(`document.activeElement.id === "add-words"`)
	testkit.Press(t, tab, strings.Repeat("very ", 60)+"long", input.Enter)
	tab.Until(`document.querySelector("#add-label .problem")?.textContent.includes("at most 200 characters")`)
	require.Equal(t, 304, tab.MustEval(`() => document.getElementById("add-words").value.length`).Int())
	tab.MustEval(`() => document.getElementById("add-words").value = "Quick"`)
	testkit.Press(t, tab, input.Enter)
	tab.Until(at("Quick"))
	tab.Until(`document.querySelector(".m-line.sel")?.textContent.includes("nothing to show is below it")`)
	tab.Until(`document.activeElement.id === "menu-tree"`)

	// Two steps back, one forth, after a reload.
	tab.MustReload()
	tab.Until(`document.getElementById("menu-edit")?.dataset.started`)
	tab.Until(at("Quick"))
	tab.MustEval(`() => document.getElementById("menu-tree").focus()`)
	testkit.Ctrl(t, tab, 'z')
	tab.Until(`![...document.querySelectorAll(".m-title")].some((l) => l.textContent === "Quick")`)
	tab.Until(`document.querySelector("#stops .here .lit")`)

	c := testkit.SignIn(t, site, "marta")
	testkit.PublishOnly(t, site, "Another menu", func(aspect string) bool { return aspect == "menu" })
	require.Contains(t, testkit.Read(t, c, "/"), ">Under glass</a>")
	require.Contains(t, testkit.Read(t, c, "/"), ">Picnic lawns</a>")
	require.Contains(t, testkit.Read(t, c, "/studio/edition/past?edition=12"), "Top menu")
	require.Contains(t, testkit.Read(t, c, "/studio/sitemap/compare?from=11&to=live"), "Top menu")
	status, _ := c.Form("/studio/edition/past/11/rollback", url.Values{"why": {"The old menu was fine"}, "key": {uuid.NewString()}})
	require.Equal(t, http.StatusSeeOther, status)
	require.NotContains(t, testkit.Read(t, c, "/"), "Under glass")
	require.Empty(t, tab.Problems())
}

// TestMenusByMouse drags an item below another, and follows a link of the
// preview.
func TestMenusByMouse(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/menus")
	tab.Until(`document.querySelector("iframe[data-of=next]")?.contentDocument?.querySelector(".top-menu")`)
	line := func(words string) *proto.Point {
		box := tab.MustEval(`(w) => { const l = [...document.querySelectorAll(".m-line")].find((l) => l.querySelector(".m-title").textContent === w).getBoundingClientRect(); return [l.x + 120, l.y + l.height / 2]; }`, words)
		return &proto.Point{X: box.Get("0").Num(), Y: box.Get("1").Num()}
	}
	require.NoError(t, tab.Mouse.MoveTo(*line("Volunteers")))
	require.NoError(t, tab.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, tab.Mouse.MoveLinear(*line("Visitors"), 8))
	require.NoError(t, tab.Mouse.Up(proto.InputMouseButtonLeft, 1))
	tab.Until(`[...document.querySelectorAll(".m-line")].some((l) => l.getAttribute("aria-level") === "2" && l.textContent.includes("Volunteers"))`)
	tab.Until(`document.querySelector("iframe[data-of=next]")?.contentDocument?.querySelector(".top-menu details a[href='/volunteers']")`)
	tab.Until(`document.querySelector("#shelf")?.textContent.includes("2 menus")`)

	tab.Until(`document.querySelector("iframe[data-of=live]")?.contentDocument?.readyState === "complete"`)
	tab.MustEval(`() => document.querySelector("iframe[data-of=live]").contentDocument.querySelector(".top-menu a[href='/grounds']").click()`)
	tab.Until(`document.querySelector("iframe[data-of=next]")?.contentDocument?.querySelector("h1")?.textContent === "Grounds"`)
	tab.MustElement(`[data-width="360"]`).MustClick()
	tab.Until(`document.querySelector("iframe")?.style.width === "360px" && location.search.includes("width=360") && location.search.includes("grounds")`)
	require.Empty(t, tab.Problems())
}

// TestATrailIsMade ticks pages, brings them in order with the keyboard, publishes
// the trail and follows it as a reader; taking it away leaves the pages.
func TestATrailIsMade(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/menus/trails/new")
	tab.Until(`document.querySelectorAll("#ticks input").length > 5`)
	for _, words := range []string{"pond weed", "frost", "tool shed"} {
		tab.MustEval(`(w) => { const f = document.getElementById("t-find"); f.value = w; f.dispatchEvent(new Event("input")); }`, words)
		tab.Until(`document.querySelectorAll("#ticks input").length === 1 && document.querySelector("#ticks label")?.textContent.toLowerCase().includes(` + testkit.Quote(words) + `)`)
		tab.MustElement("#ticks input").MustClick()
	}
	tab.Until(`document.querySelectorAll("#steps .step").length === 3`)
	tab.MustEval(`() => document.querySelector("#steps .step:last-child [aria-label^=Up]").focus()`)
	testkit.Press(t, tab, input.Enter)
	tab.Until(`document.querySelector("#steps .step:nth-child(2) b")?.textContent === "Tool shed rota"`)
	at := func(js string) proto.Point {
		p := tab.MustEval("() => { const r = " + js + ".getBoundingClientRect(); return [r.x + 40, r.y + 6]; }")
		return proto.Point{X: p.Get("0").Num(), Y: p.Get("1").Num()}
	}
	tab.MustEval(`() => { const f = document.getElementById("t-find"); f.value = "mower"; f.dispatchEvent(new Event("input")); }`)
	tab.Until(`document.querySelectorAll("#ticks input").length === 1 && document.querySelector("#ticks label")?.textContent.includes("Mower")`)
	require.NoError(t, tab.Mouse.MoveTo(at("document.querySelector('#ticks label span')")))
	require.NoError(t, tab.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, tab.Mouse.MoveLinear(at("document.querySelector('#steps .step')"), 10))
	require.NoError(t, tab.Mouse.Up(proto.InputMouseButtonLeft, 1))
	tab.Until(`document.querySelector("#steps .step b")?.textContent === "Mower checks" && document.querySelector("#ticks input")?.checked`)
	tab.MustElement("#steps .step [aria-label^='Take off']").MustClick()
	tab.Until(`document.querySelectorAll("#steps .step").length === 3`)
	tab.MustElement("#t-title").MustFocus()
	testkit.Press(t, tab, "Winter round")
	tab.Go("/studio/menus/trails") // gone and back: nothing is lost
	tab.Go("/studio/menus/trails/new")
	tab.Until(`document.getElementById("t-title")?.value === "Winter round" && document.querySelectorAll("#steps .step").length === 3`)
	tab.Until(`document.querySelector("#steps .step:nth-child(2) b")?.textContent === "Tool shed rota"`)
	loaded := tab.WaitNavigation(proto.PageLifecycleEventNameLoad)
	tab.MustElement("#trail-form button[type=submit]").MustClick()
	loaded()
	tab.Until(`document.querySelector("h1")?.textContent === "Winter round"`)
	require.Equal(t, 0, tab.MustEval(`() => Object.keys(sessionStorage).filter((k) => k.startsWith("trail")).length`).Int(), "what is saved is not kept besides")
	trail := tab.MustEval("() => location.pathname").Str()

	c := testkit.SignIn(t, site, "marta")
	testkit.PublishOnly(t, site, "Trails", func(aspect string) bool { return aspect == "trail" })
	page := testkit.Read(t, c, "/grounds/tool-shed-rota")
	require.Contains(t, page, "Step 2 of 3")
	require.Contains(t, page, `rel="next"`)
	require.Contains(t, testkit.Read(t, c, "/search/trails"), "Winter round")
	tab.Go("/grounds/ponds-and-streams/pond-weed-days")
	loaded = tab.WaitNavigation(proto.PageLifecycleEventNameLoad)
	tab.MustElement(`.trail a[rel="next"]`).MustClick()
	loaded()
	tab.Until(`document.querySelector("h1")?.textContent === "Tool shed rota"`)

	// An empty title is refused where it is, and nothing typed is lost.
	status, body := c.Form(trail, url.Values{"title": {" "}, "about": {"Kept words"}, "key": {uuid.NewString()}})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	require.Contains(t, string(body), "Give the trail a title")
	require.Contains(t, string(body), "Kept words")
	status, _ = c.Form(trail, url.Values{"do": {"remove"}, "key": {uuid.NewString()}})
	require.Equal(t, http.StatusSeeOther, status)
	testkit.PublishOnly(t, site, "Trails", func(aspect string) bool { return aspect == "trail" })
	require.NotContains(t, testkit.Read(t, c, "/grounds/tool-shed-rota"), "Winter round")
	require.Empty(t, tab.Problems())
}
