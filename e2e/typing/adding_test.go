package typing_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/testkit"
)

// slowly stands in front of a site: acts take as long as delay says, and fail
// while cut is true; what others do is not told then either.
type slowly struct {
	url   string
	delay atomic.Int64
	cut   atomic.Bool
}

func slowDown(t *testing.T, site *testkit.Site) *slowly {
	at, err := url.Parse(site.URL)
	require.NoError(t, err)
	s := &slowly{}
	proxy := httputil.NewSingleHostReverseProxy(at)
	h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost && strings.HasPrefix(r.URL.Path, "/studio/sitemap/") {
			time.Sleep(time.Duration(s.delay.Load()))
		}
		if s.cut.Load() && (r.Method == http.MethodPost || r.URL.Path == "/studio/sitemap/since") {
			panic(http.ErrAbortHandler)
		}
		r.Host = at.Host
		proxy.ServeHTTP(w, r)
	}))
	t.Cleanup(h.Close)
	s.url = h.URL
	return s
}

// typed presses keys with a pause between them, as a person does.
func typed(t testing.TB, tab *testkit.Tab, pause time.Duration, text string) {
	for _, r := range text {
		require.NoError(t, tab.Keyboard.Type(input.Key(r)))
		time.Sleep(pause)
	}
}

func altKey(t testing.TB, tab *testkit.Tab, k input.Key) {
	require.NoError(t, tab.KeyActions().Press(input.AltLeft).Type(k).Release(input.AltLeft).Do())
}

// below lists the titles below an entry of Next, indented by level.
func below(t testing.TB, site *testkit.Site, title string) []string {
	o, err := site.App.Outline(t.Context())
	require.NoError(t, err)
	next := o.Trees.Next
	for i := range next.Len() {
		if next.Ref(i).Title != title {
			continue
		}
		var out []string
		for j := i + 1; j < next.End(i); j++ {
			out = append(out, strings.Repeat(" ", next.Level(j)-next.Level(i)-1)+next.Ref(j).Title)
		}
		return out
	}
	return nil
}

// Two hundred titles, typed faster than the server answers, with indents and
// outdents between: every letter arrives, in its place.
func TestTypingFasterThanTheServer(t *testing.T) {
	site := kit.Site(t, true)
	testkit.LargeSite(t, testkit.SignIn(t, site, "marta"))
	s := slowDown(t, site)
	tab := browser.Open(t, s.url)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap")
	testkit.Pick(tab, "Glasshouses")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Glasshouses'")
	had := below(t, site, "Glasshouses")
	s.delay.Store(int64(time.Second))
	require.NoError(t, tab.Keyboard.Type('N'))
	level, want := 0, append([]string{}, had...)
	for n := range 200 {
		switch {
		case n%10 == 3 && level < 3:
			altKey(t, tab, input.ArrowRight)
			level++
		case n%10 == 8 && level > 0:
			altKey(t, tab, input.ArrowLeft)
			level--
		}
		title := fmt.Sprint("Bed ", n)
		typed(t, tab, 20*time.Millisecond, title)
		want = append(want, strings.Repeat(" ", level)+title)
		require.NoError(t, tab.Keyboard.Type(input.Enter))
	}
	require.NoError(t, tab.Keyboard.Type(input.Escape))
	require.Eventually(t, func() bool { return len(below(t, site, "Glasshouses")) == len(want) }, 60*time.Second, 200*time.Millisecond)
	require.Equal(t, want, below(t, site, "Glasshouses"))
	tab.Until("!document.querySelector('.o-row.waiting')")
	require.Empty(t, tab.Problems())
	o, err := site.App.Outline(t.Context())
	require.NoError(t, err)
	require.Equal(t, sitemap.Page, o.Trees.Next.Ref(o.Trees.Next.Find(testkit.EntryID(t, site, "/glasshouses"))).Kind)
}

// While the connection is cut, entries wait on this computer, also over a reload;
// what the server refuses is told at its row and can be tried again.
func TestEntriesWaitForTheServer(t *testing.T) {
	site := kit.Site(t, true)
	s := slowDown(t, site)
	tab := browser.Open(t, s.url)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap")
	testkit.Pick(tab, "Glasshouses")
	had := below(t, site, "Glasshouses")
	s.cut.Store(true)
	require.NoError(t, tab.Keyboard.Type('N'))
	for _, title := range []string{"Palm house", "Fern house"} {
		typed(t, tab, 2*time.Millisecond, title)
		require.NoError(t, tab.Keyboard.Type(input.Enter))
	}
	require.NoError(t, tab.Keyboard.Type(input.Escape))
	tab.Until("document.querySelector('#say').innerText.includes('2 new entries wait on this computer')")
	require.Equal(t, had, below(t, site, "Glasshouses"))
	require.NoError(t, tab.Reload())
	tab.Until("document.querySelectorAll('.o-row.waiting').length === 2")
	s.cut.Store(false)
	tab.Until("document.querySelector('.o-row') && !document.querySelector('.o-row.waiting')")
	require.Equal(t, append(had, "Palm house", "Fern house"), below(t, site, "Glasshouses"))

	t.Log("an entry below one that somebody else removed is refused, and keeps its title")
	testkit.Pick(tab, "Fern house")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Fern house'")
	s.cut.Store(true) // so that this window does not hear of it first
	require.NoError(t, tab.Keyboard.Type('N'))
	tab.Until("document.activeElement.matches('.o-edit')")
	fern := ""
	o, err := site.App.Outline(t.Context())
	require.NoError(t, err)
	for i := range o.Trees.Next.Len() {
		if o.Trees.Next.Ref(i).Title == "Fern house" {
			fern = o.Trees.Next.Ref(i).ID
		}
	}
	ines := testkit.SignIn(t, site, "ines")
	status, _ := ines.Act(map[string]any{"do": "remove", "id": fern, "confirmed": true})
	require.Equal(t, 200, status)
	typed(t, tab, 2*time.Millisecond, "Moss wall")
	require.NoError(t, tab.Keyboard.Type(input.Enter))
	tab.Until("document.querySelector('#say').innerText.includes('1 new entry waits on this computer')")
	s.cut.Store(false)
	tab.Until("document.querySelector('#say').innerText.includes('“Moss wall” was not added')")
	tab.Until("!document.querySelector('.o-row.waiting') && " + testkit.RowShown("Moss wall"))
	status, _ = ines.Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/visitors"), "value": "Guests"})
	require.Equal(t, 200, status)
	tab.Until(testkit.RowShown("Guests"))
	require.Contains(t, tab.MustElement("#say.bad").MustText(), "“Moss wall” was not added", "what others did is told after it")
	tab.Until("document.querySelector('#say').innerText.startsWith('Ines Barrow: renamed')")
	t.Log("it stands where there is room for it, and can be tried again")
	require.NoError(t, tab.Keyboard.Type(input.Escape))
	tab.Until("document.querySelector('.o-row.at .t')?.innerText === 'Moss wall'")
	require.NoError(t, tab.Keyboard.Type(input.Enter))
	tab.Until("document.activeElement.matches('.o-edit') && document.activeElement.value === 'Moss wall'")
	require.NoError(t, tab.Keyboard.Type(input.Enter))
	require.NoError(t, tab.Keyboard.Type(input.Escape))
	require.Eventually(t, func() bool { return slices.Contains(below(t, site, "Glasshouses"), "Moss wall") }, 30*time.Second, 50*time.Millisecond)
}

// Somebody else removes the page below which one is typing: the field stays with what is typed, at the nearest place that is left.
func TestTypingBelowWhatOthersRemove(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap")
	testkit.Pick(tab, "Repotting weeks")
	require.NoError(t, tab.Keyboard.Type('N'))
	tab.Until("document.activeElement.matches('.o-edit')")
	typed(t, tab, 2*time.Millisecond, "Moss")
	status, _ := testkit.SignIn(t, site, "ines").Act(map[string]any{"do": "remove", "id": testkit.EntryID(t, site, "/glasshouses/repotting-weeks"), "confirmed": true})
	require.Equal(t, 200, status)
	tab.Until("!" + testkit.RowShown("Repotting weeks"))
	require.Contains(t, tab.MustElement("#say.bad").MustText(), "“Repotting weeks” was removed by somebody else. The new entry is below “Glasshouses” now.")
	level := func(of string) string {
		return tab.MustEval("() => " + of + ".closest('.o-row').getAttribute('aria-level')").Str()
	}
	require.Equal(t, level("[...document.querySelectorAll('.o-row .t')].find((t) => t.innerText === 'Lights and shading')"), level("document.activeElement"))
	typed(t, tab, 2*time.Millisecond, " wall")
	require.NoError(t, tab.Keyboard.Type(input.Enter))
	require.NoError(t, tab.Keyboard.Type(input.Escape))
	tab.Until(testkit.RowShown("Moss wall") + " && !document.querySelector('.o-row.waiting')")
	require.Contains(t, below(t, site, "Glasshouses"), "Moss wall")
	require.Empty(t, tab.Problems())
}

// What somebody else does is there without a reload, and says who did it.
func TestOthersActsComeIn(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap")
	testkit.Pick(tab, "Glasshouses")
	ines := testkit.SignIn(t, site, "ines")
	began := time.Now()
	status, _ := ines.Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/visitors"), "value": "Guests"})
	require.Equal(t, 200, status)
	tab.Until(testkit.RowShown("Guests"))
	require.Less(t, time.Since(began), 6*time.Second, "within 2 s, on a machine that does nothing else")
	tab.Until("document.querySelector('#say').innerText.startsWith('Ines Barrow: renamed')")
	tab.Until("document.querySelector('.o-row.at .t')?.innerText === 'Glasshouses'")

	t.Log("what is being written beside, and where the focus is, stays")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Glasshouses'")
	tab.MustElement("#beside [data-field=notes]").MustFocus()
	typed(t, tab, time.Millisecond, "Ask An")
	status, _ = ines.Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/glasshouses"), "value": "Houses of glass"})
	require.Equal(t, 200, status)
	tab.Until("document.querySelector('.o-row.at .t')?.innerText === 'Houses of glass'")
	require.Never(t, func() bool { return tab.MustEval("() => document.activeElement.value").Str() != "Ask An" }, time.Second, tick)
	typed(t, tab, time.Millisecond, "selm")
	testkit.TabTo(t, tab, "e.innerText === 'Open page'")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Houses of glass' && document.querySelector('#beside [data-field=notes]').defaultValue === 'Ask Anselm'")
	tab.Until("document.activeElement.innerText === 'Open page'")
	status, _ = ines.Act(map[string]any{"do": "retitle", "id": testkit.EntryID(t, site, "/glasshouses"), "value": "Glass"})
	require.Equal(t, 200, status)
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Glass' && document.activeElement.innerText === 'Open page'")
	t.Log("what others do and publish while one decides comes with one's own act")
	testkit.Pick(tab, "Repotting weeks")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Repotting weeks'")
	tab.MustElement("#beside [data-do=remove]").MustClick()
	tab.Until("document.querySelector('#beside [data-confirm-yes]')")
	grounds := testkit.EntryID(t, site, "/grounds")
	status, _ = ines.Act(map[string]any{"do": "retitle", "id": grounds, "value": "Parkland"})
	require.Equal(t, 200, status)
	tab.MustElement("#beside [data-confirm-yes]").MustClick()
	tab.Until(testkit.RowShown("Parkland") + " && !" + testkit.RowShown("Repotting weeks"))
	require.Contains(t, tab.MustElement("#say").MustText(), "Ines Barrow: renamed")
	testkit.Pick(tab, "Compost and mulch")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Compost and mulch'")
	tab.MustElement("#beside [data-do=remove]").MustClick()
	tab.Until("document.querySelector('#beside [data-confirm-yes]')")
	marta := testkit.SignIn(t, site, "marta")
	status, _ = marta.Form("/studio/edition/publish", marta.PublishForm("Parkland", func(key string) bool { return key == "title "+grounds }))
	require.Equal(t, 303, status)
	tab.MustElement("#beside [data-confirm-yes]").MustClick()
	tab.Until("!" + testkit.RowShown("Compost and mulch"))
	tab.Until("![...document.querySelectorAll('.o-row')].find((r) => r.querySelector('.t').innerText === 'Parkland').innerText.includes('retitled')")
	require.Empty(t, tab.Problems())
}

// Finding goes to what was meant; a new entry then opens there, and nothing is
// written by a click and a letter.
func TestKeysGoWhereTheyAreMeant(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	marta := testkit.SignIn(t, site, "marta")
	for _, title := range []string{"Old opening", "Opening"} {
		status, _ := marta.Act(map[string]any{"do": "add", "value": title, "parent": testkit.EntryID(t, site, "/volunteers")})
		require.Equal(t, 200, status)
	}
	tab.Go("/studio/sitemap")
	tab.Until("document.querySelector('.o-row.at')")
	testkit.Press(t, tab, 't')
	typed(t, tab, time.Millisecond, "opening")
	tab.Until("document.querySelector('#filters').innerText.includes('found')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.querySelector('.o-row.at .t')?.innerText === 'Opening'")
	testkit.Press(t, tab, 'n')
	tab.Until("document.activeElement.matches('.o-edit') && document.activeElement.getBoundingClientRect().top > 150 && document.activeElement.getBoundingClientRect().bottom < innerHeight - 40")
	typed(t, tab, time.Millisecond, "Closing")
	testkit.Press(t, tab, input.Enter, input.Escape)
	tab.Until("document.querySelector('.o-row.at .t')?.innerText === 'Closing' && document.activeElement.matches('.o-scroll')")

	t.Log("after a move from the field beside, keys are for the outline again")
	tab.Until("document.querySelector('#beside h2')?.innerText === 'Closing'")
	testkit.Press(t, tab, 'm')
	tab.Until("document.activeElement.id === 'move-find'")
	typed(t, tab, time.Millisecond, "Visitors")
	tab.Until("document.querySelector('.suggest li')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.activeElement.matches('.o-scroll')")
	testkit.Ctrl(t, tab, 'z')
	tab.Until("document.querySelector('#say').innerText.startsWith('Undone: moved')")

	t.Log("a click into a cell and letters write nothing; Enter and a double click do")
	testkit.Pick(tab, "Visitors")
	at := "document.querySelector('.o-row.at .o-addr')"
	box := tab.MustEval("() => { const r = " + at + ".getBoundingClientRect(); return [r.left + 20, r.top + 8] }").Arr()
	tab.Mouse.MustMoveTo(box[0].Num(), box[1].Num()).MustClick("left")
	testkit.Press(t, tab, 'm')
	tab.Until("document.activeElement.id === 'move-find'")
	testkit.Press(t, tab, input.Escape)
	tab.Until("document.activeElement.matches('.o-scroll')")
	testkit.Press(t, tab, 'x', 'y')
	require.Equal(t, "/visitors", tab.MustEval("() => "+at+".innerText").String())
	tab.Until("!document.querySelector('.o-edit')")
	testkit.Press(t, tab, input.Enter)
	tab.Until("document.activeElement.matches('.o-edit') && document.activeElement.value === 'visitors'")
	testkit.Press(t, tab, input.Escape)
	tab.Mouse.MustMoveTo(box[0].Num(), box[1].Num()).MustClick("left")
	require.NoError(t, tab.Mouse.Click("left", 2))
	tab.Until("document.activeElement.matches('.o-edit') && document.activeElement.value === 'visitors'")
	testkit.Press(t, tab, input.Escape)
	require.Empty(t, tab.Problems())
}
