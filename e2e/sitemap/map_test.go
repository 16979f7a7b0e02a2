package sitemap_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image/png"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// parentOf gives the address of the entry that another stands below in Next.
func parentOf(t *testing.T, c *testkit.Client, id string) string {
	_, body := c.Get("/studio/sitemap/export?format=json&of=next")
	var out []struct{ ID, Parent, Address string }
	require.NoError(t, json.Unmarshal(body, &out))
	at, up := map[string]string{}, map[string]string{}
	for _, e := range out {
		at[e.ID], up[e.ID] = e.Address, e.Parent
	}
	return at[up[id]]
}

func mapReady(tab *testkit.Tab) {
	tab.Until("document.querySelectorAll('.m-node').length > 5 && document.querySelector('#beside [data-entry]') && document.activeElement.classList.contains('m-view')")
}

// The map is used by keyboard alone: into the tree, moved with the consequences
// beside, taken back, and the way to a page lit.
func TestMapByKeyboard(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	machines := testkit.EntryID(t, site, "/grounds/machines")
	tab.Go("/studio/sitemap/map?level=1")
	mapReady(tab)
	at := func(title string) {
		tab.Until("document.querySelector('.m-node[aria-selected=true] title, .m-node[aria-selected=true] text.m-top, .m-node[aria-selected=true] text')?.textContent.trim() === '" + title + "'")
	}
	press := func(keys ...input.Key) { require.NoError(t, tab.KeyActions().Type(keys...).Do()) }
	at("Home")
	press(input.ArrowRight)
	at("Start here")
	press(input.ArrowDown, input.ArrowDown)
	at("Grounds")
	press(input.ArrowRight)
	tab.Until("document.querySelector('.m-node[aria-selected=true]').getAttribute('aria-expanded') === 'true'")
	press(input.ArrowRight, input.ArrowDown)
	at("Machines")
	tab.Until("document.querySelector('#beside h2').innerText === 'Machines'")
	press('m')
	tab.Until("document.activeElement.id === 'move-find'")
	tab.MustElement("#move-find").MustInput("Visitors")
	tab.Until("document.querySelector('[role=option]')")
	press(input.Enter)
	tab.Until("document.querySelector('[data-confirm]')?.innerText.includes('7 addresses change')")
	require.Equal(t, "/grounds", parentOf(t, c, machines), "nothing happens before it is confirmed")
	press(input.Enter)
	tab.Until("document.querySelector('#say').innerText === 'Moved \"Machines\".'")
	require.Equal(t, "/visitors", parentOf(t, c, machines))
	tab.Until("document.querySelector('#shelf').innerText.includes('4 moved')")

	require.NoError(t, tab.KeyActions().Press(input.ControlLeft).Type('z').Do())
	tab.Until("document.querySelector('#say').innerText.startsWith('Undone: moved')")
	require.Equal(t, "/grounds", parentOf(t, c, machines))

	t.Log("beside the entry above, as the outline does it; and left again")
	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(input.ArrowLeft).Do())
	tab.Until("document.querySelector('[data-confirm]')")
	press(input.Escape)
	tab.Until("document.querySelector('#say').innerText === 'Cancelled; nothing was changed.'")
	require.Equal(t, "/grounds", parentOf(t, c, machines))

	t.Log("a page that is out of sight is found, and the address of the view restores what is shown")
	press('t')
	tab.MustElement("#m-find").MustInput("mower")
	tab.Until("document.querySelector('[role=option]')")
	press(input.Enter)
	tab.Until("document.querySelector('#say').innerText === 'Home › Grounds › Machines › Mower checks'")
	tab.Until("document.querySelectorAll('.m-node.on-way').length === 4")
	tab.Go(tab.MustEval("() => location.pathname + location.search").Str())
	mapReady(tab)
	tab.Until("document.querySelectorAll('.m-node.on-way').length === 4")
	require.Empty(t, tab.Problems())
}

func TestOthersActsComeIntoTheMap(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap/map?level=1")
	mapReady(tab)
	status, _ := testkit.SignIn(t, site, "ines").Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/visitors"), "value": "Guests"})
	require.Equal(t, 200, status)
	tab.Until("[...document.querySelectorAll('.m-node')].some((n) => n.textContent.includes('Guests'))")
	tab.Until("document.querySelector('#say').innerText.startsWith('Ines Barrow: renamed')")
	require.Empty(t, tab.Problems())
}

// Grabbing the paper moves it, the wheel does too, and with Ctrl it zooms where the
// pointer is; what is selected stays selected.
func TestTheMapIsMovedAndZoomed(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	tab.Go("/studio/sitemap/map")
	mapReady(tab)
	seen := func() (x, y, scale float64) {
		m := tab.MustEval(`() => { const m = new DOMMatrix(getComputedStyle(document.querySelector(".m-sheet")).transform); return [m.e, m.f, m.a]; }`)
		return m.Get("0").Num(), m.Get("1").Num(), m.Get("2").Num()
	}
	still := func(is func(x, y, scale float64) bool) {
		require.Eventually(t, func() bool { return is(seen()) }, 30*time.Second, 20*time.Millisecond)
	}
	paper := tab.MustEval(`() => { const r = document.querySelector(".m-view").getBoundingClientRect(); return [r.right - 60, r.top + 40]; }`)
	from := proto.NewPoint(paper.Get("0").Num(), paper.Get("1").Num())
	x0, y0, k0 := seen()
	require.NoError(t, tab.Mouse.MoveTo(from))
	require.NoError(t, tab.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, tab.Mouse.MoveLinear(proto.NewPoint(from.X-120, from.Y+80), 6))
	require.NoError(t, tab.Mouse.Up(proto.InputMouseButtonLeft, 1))
	still(func(x, y, k float64) bool { return x == x0-120 && y == y0+80 && k == k0 })
	require.NoError(t, tab.Mouse.Scroll(30, 50, 1))
	still(func(x, y, k float64) bool { return x == x0-150 && y == y0+30 && k == k0 })
	require.NoError(t, tab.Keyboard.Press(input.ControlLeft))
	require.NoError(t, tab.Mouse.Scroll(0, 200, 1))
	require.NoError(t, tab.Keyboard.Release(input.ControlLeft))
	still(func(_, _, k float64) bool { return k < k0*0.9 })
	require.NoError(t, tab.Keyboard.Type(input.Digit0))
	_, _, fit := seen()
	require.NoError(t, tab.Keyboard.Type(input.Equal, input.Equal, input.Equal, input.Equal, input.Equal))
	still(func(_, _, k float64) bool { return k > 2*fit })
	require.NoError(t, tab.Keyboard.Type(input.Home))
	tab.Until("document.querySelectorAll('.m-node[aria-selected=true]').length === 1 && document.activeElement.classList.contains('m-view')")
}

// A box that is dragged onto another goes below it, after a look at what that does.
func TestMapByDrag(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	checks, safety := testkit.EntryID(t, site, "/grounds/machines/mower-checks"), testkit.EntryID(t, site, "/grounds/tree-safety")
	tab.Go("/studio/sitemap/map?level=2&at=" + checks)
	mapReady(tab)
	middle := func(id string) proto.Point {
		var p proto.Point
		require.NoError(t, json.Unmarshal([]byte(tab.MustEval(`(id) => { const r = document.querySelector("#node-" + CSS.escape(id) + " rect").getBoundingClientRect(); return JSON.stringify({x: r.x + r.width / 2, y: r.y + r.height / 2}) }`, id).Str()), &p))
		return p
	}
	from, to := middle(checks), middle(safety)
	require.NoError(t, tab.Mouse.MoveTo(from))
	require.NoError(t, tab.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, tab.Mouse.MoveLinear(to, 8))
	tab.Until("document.querySelector('.m-node.into')")
	require.NoError(t, tab.Mouse.Up(proto.InputMouseButtonLeft, 1))
	tab.Until("document.querySelector('[data-confirm]')?.innerText.includes('1 address changes')")
	require.NoError(t, tab.KeyActions().Type(input.Enter).Do())
	tab.Until("document.querySelector('#say').innerText.startsWith('Moved')")
	require.Equal(t, "/grounds/tree-safety", parentOf(t, c, checks))
	require.Empty(t, tab.Problems())
}

// Of a large tree only what is in sight is in the page, and it comes at once.
func TestLargeMap(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "marta")
	var csv strings.Builder
	csv.WriteString("Level;Title\n")
	for i := range 10_000 {
		fmt.Fprintf(&csv, "%d;Eintrag %d\n", []int{1, 2, 3, 4, 4, 4, 3, 4, 4, 4}[i%10], i)
	}
	at := c.Upload("large.csv", csv.String())
	c.Until(at, "How to import it")
	status, _ := c.Form(at+"/accept", nil)
	require.Equal(t, 303, status)
	c.Until(at, "10000 added")
	tab := browser.Open(t, site.URL)
	_, screen := c.Get("/studio/menus/reach")
	require.Contains(t, string(screen), "Checking what is planned …", "a large site shows the screen first")
	tab.SignIn("marta")
	tab.Until(`document.querySelector("#shelf summary")?.textContent.match(/: 10,0.. new/)`)
	tab.Until(`document.querySelector("#stops .here").textContent.includes("planned changes")`)
	for _, direction := range []string{"across", "down", "indented"} {
		tab.Go("/studio/sitemap/map?level=9&direction=" + direction)
		mapReady(tab)
		require.Less(t, tab.MustEval("() => document.querySelectorAll('.m-node').length").Int(), 900, direction)
		began := time.Now()
		tab.MustElementR(".bar-acts button", "^Fit$").MustClick()
		tab.Until("document.querySelectorAll('.m-node').length < 900")
		t.Log(direction, "all in sight after", time.Since(began))
	}
	require.Empty(t, tab.Problems())
}

// The map and a branch of it go out as files.
func TestMapGoesOut(t *testing.T) {
	site := kit.Site(t, true)
	c := testkit.SignIn(t, site, "ines")
	branch := testkit.EntryID(t, site, "/grounds/machines")
	get := func(query string) []byte {
		status, body := c.Get("/studio/sitemap/map/picture?" + query)
		require.Equal(t, 200, status, query)
		return body
	}
	whole, part := get("format=svg&levels=all"), get("format=svg&levels=all&branch="+branch)
	require.Contains(t, string(whole), ">Opening hours</text>")
	require.NotContains(t, string(part), ">Opening hours</text>")
	require.Contains(t, string(part), ">Mower checks</text>")
	_, err := png.Decode(bytes.NewReader(get("format=png&by=owner&direction=down&branch=" + branch)))
	require.NoError(t, err)
	require.True(t, bytes.HasPrefix(get("format=pdf&paper=A3&by=visits&direction=indented"), []byte("%PDF-")))
	status, _ := c.Get("/studio/sitemap/map/picture?format=bmp")
	require.Equal(t, 404, status)
	status, _ = testkit.SignIn(t, site, "").Get("/studio/sitemap/map/picture?format=svg")
	require.NotEqual(t, 200, status, "for those who are signed in")
}

// A page that readers open is counted, and the map shows it; what is not a page
// of the site, or not theirs to read, is not.
func TestVisitsAreCounted(t *testing.T) {
	site := kit.Site(t, true)
	anybody, c := testkit.SignIn(t, site, ""), testkit.SignIn(t, site, "ines")
	rota := testkit.EntryID(t, site, "/grounds/tool-shed-rota")
	total := func() (n int) {
		require.NoError(t, site.Pool.QueryRow(t.Context(), "SELECT coalesce(sum(n), 0) FROM visits").Scan(&n))
		return n
	}
	before := total()
	for range 3 {
		status, _ := anybody.Get("/grounds/tool-shed-rota")
		require.Equal(t, 200, status)
	}
	anybody.Get("/grounds/no-such-page")
	tag := func() string {
		var d struct{ Nodes []struct{ ID, G string } }
		_, body := c.Get("/studio/sitemap/map/drawing?by=visits&level=9&at=" + rota)
		require.NoError(t, json.Unmarshal(body, &d))
		for _, n := range d.Nodes {
			if n.ID == rota {
				return n.G
			}
		}
		return "not drawn"
	}
	was, err := strconv.Atoi(tag())
	require.NoError(t, err)
	require.Eventually(t, func() bool { return tag() == strconv.Itoa(was+3) }, 30*time.Second, 200*time.Millisecond)
	require.Equal(t, before+3, total())
}
