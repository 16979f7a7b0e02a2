package site_test

import (
	"encoding/json"
	"fmt"
	"os"
	"testing"

	"github.com/go-rod/rod/lib/proto"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// TestScreensAreAccessible fails on any axe-core violation of a main screen,
// on any request to another host and on any console error.
func TestScreensAreAccessible(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	axe, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(t, err)
	tab.Go("/studio/sign-in")
	check(t, tab, string(axe), "sign-in")
	tab.SignIn("marta")
	page := testkit.EntryID(t, site, "/grounds/machines/book-the-wood-chipper")
	for _, s := range []struct{ path, until string }{
		{"/studio/sitemap?at=" + testkit.EntryID(t, site, "/seed-vault"), "document.querySelector('#beside [data-entry]')"},
		{"/studio/sitemap/map?at=" + testkit.EntryID(t, site, "/seed-vault"), "document.querySelector('#beside [data-entry]')"},
		{"/studio/sitemap/import", ""},
		{"/studio/sitemap/checks", ""},
		{"/studio/sitemap/compare", ""},
		{"/studio/sitemap/similar", ""},
		{"/studio/sitemap/merge?keep=" + page + "&gone=" + testkit.EntryID(t, site, "/seed-vault"), ""},
		{"/studio/sitemap?cols=kind.template.owner.topics.review.notes.listed.visits&sort=owner&only=kind:page", "document.querySelector('#beside [data-entry]')"},
		{"/studio/pages/" + testkit.EntryID(t, site, "/grounds/compost") + "/split", ""},
		{"/studio/removed", ""},
		{"/studio/menus/reach", ""},
		{"/studio/settings", ""},
		{"/studio/menus/findability", ""},
		{"/studio/menus", "document.querySelector('iframe').contentDocument?.querySelector('.site-foot')"},
		{"/studio/menus?menu=foot&width=360", "document.querySelector('iframe').contentDocument?.querySelector('.site-foot')"},
		{"/studio/menus/trails", ""},
		{"/studio/menus/trails/new", "document.querySelector('#ticks input')"},
		{"/studio/pages", ""},
		{"/studio/pages/" + page, "document.querySelector('.ProseMirror table')"},
		{"/studio/pages/" + page + "/look", ""},
		{"/studio/pages/" + page + "/template?to=place", ""},
		{"/studio/pages/new?template=procedure", ""},
		{"/studio/files", ""},
		{"/studio/menus/boards", ""},
		{"/studio/templates", ""},
		{"/studio/templates/procedure", "document.querySelector('#editor')?.editor && document.querySelector('.part-row')"},
		{"/studio/templates/procedure/check", ""},
		{"/studio/templates/procedure/versions", ""},
		{"/studio/templates/procedure/facts", ""},
		{"/studio/addresses", ""},
		{"/studio/addresses/redirects", ""},
		{"/studio/addresses/redirects?edit=%3D/cafe-menu", ""},
		{"/studio/addresses/redirects/list", ""},
		{"/studio/addresses/unanswered", ""},
		{"/studio/addresses/test?asked=/walks/night-walk%0A/cups", ""},
		{"/studio/people", ""},
		{"/studio/jobs", ""},
		{"/studio/inbox", ""},
		{"/studio/addresses/older", ""},
		{"/studio/addresses/picture", ""},
		{"/studio/addresses/decide", ""},
		{"/studio/addresses/rules", ""},
		{"/studio/edition", ""},
		{"/studio/mine", ""},
		{"/studio/edition/now?id=" + testkit.EntryID(t, site, "/seed-vault"), ""},
		{"/studio/edition/review?show=drafts&id=" + testkit.EntryID(t, site, "/visitors/opening-hours"), ""},
		{"/studio/edition/review?show=ready", ""},
		{"/studio/edition?by=branch&show=in", ""},
		{"/studio/edition/see", ""},
		{"/studio/edition/see?of=5&as=editor&width=small", ""},
		{"/studio/edition/schedule?withdraw=" + testkit.EntryID(t, site, "/visitors/picnic-lawns"), ""},
		{"/studio/edition/schedule?by=month", ""},
		{"/studio/edition/past?edition=10", ""},
		{"/studio/edition/history?id=" + testkit.EntryID(t, site, "/visitors/opening-hours"), ""},
		{"/studio/edition/past?edition=8", ""},
		{"/", ""},
		{"/grounds/machines/book-the-wood-chipper", ""},
		{"/search?q=seed", ""},
		{"/search/a-z", ""},
		{"/search/overview", ""},
		{"/search/new", ""},
		{"/visitor/openning", ""},
		{"/visitors/shop/shop-stock-list", ""},
	} {
		tab.Go(s.path)
		if s.until != "" {
			tab.Until(s.until)
		}
		check(t, tab, string(axe), s.path)
	}
	for _, path := range append(everyKind(t, site), "/start-here/first-week/keys-and-badges", "/grounds/machines", "/glasshouses/climate/tropical-house", "/start-here/how-we-work/words-we-use", "/grounds/compost-and-mulch/what-must-not-go-in") {
		tab.Go(path)
		tab.MustEval("() => document.querySelectorAll('details').forEach((d) => { d.open = true; })")
		check(t, tab, string(axe), path)
	}
	require.Empty(t, tab.Problems())
}

// The page editor is held to axe-core in each of its states: with every kind of part unfolded,
// its lists and dialogs open, as plain text, and while somebody else writes.
func TestTheEditorIsAccessible(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	axe, err := os.ReadFile("testdata/axe.min.js")
	require.NoError(t, err)
	tab.SignIn("marta")
	open := func(address string) {
		tab.Go("/studio/pages/" + testkit.EntryID(t, site, address))
		tab.Until("document.querySelector('#editor')?.editor && document.querySelector('.ProseMirror[contenteditable=true]')")
	}
	for _, address := range []string{"/", "/seed-vault", "/grounds/ponds-and-streams", "/glasshouses/climate/orchid-house"} {
		open(address)
		n := tab.MustEval("() => document.querySelectorAll('.part-row').length").Int()
		for i := range n {
			tab.MustEval("(i) => document.querySelectorAll('.part-row')[i].click()", i)
			check(t, tab, string(axe), fmt.Sprintf("part %d of %s", i, address))
		}
	}
	for _, s := range []struct{ what, act, until string }{
		{"kinds to add", "document.querySelector('.slot-foot .add-here').click()", "document.querySelector('.add-list')"},
		{"pictures of the site", "[...document.querySelectorAll('.part-row')].find((r) => r.innerText.includes('Picture')).click(); document.querySelector('.part-open .file-field button[aria-haspopup]').click()", "document.querySelector('.file-picker img')"},
		{"plain text", "[...document.querySelectorAll('button')].find((b) => b.innerText === 'Plain text').click()", "document.querySelector('#plain-text')?.value.includes(':::')"},
		{"earlier states", "[...document.querySelectorAll('button')].find((b) => b.innerText.startsWith('Earlier states')).click()", "document.querySelector('dialog[open]')"},
	} {
		open("/grounds/ponds-and-streams")
		tab.MustEval("() => { " + s.act + " }")
		tab.Until(s.until)
		check(t, tab, string(axe), s.what)
	}
	other := testkit.SignIn(t, site, "ines")
	page := testkit.EntryID(t, site, "/grounds/compost-and-mulch")
	require.Equal(t, 200, other.JSON("/studio/pages/"+page+"/lock", map[string]any{"window": uuid.NewString(), "force": true}, nil))
	tab.Go("/studio/pages/" + page)
	tab.Until("document.querySelector('.ProseMirror[contenteditable=false]')")
	check(t, tab, string(axe), "while somebody else writes")
	require.Empty(t, tab.Problems())
}

// TestReaderIsNarrow holds the reader site to 360 pixels without sideways
// scrolling.
func TestReaderIsNarrow(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	require.NoError(t, tab.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 360, Height: 740, DeviceScaleFactor: 1, Mobile: true}))
	for _, path := range append(everyKind(t, site), "/", "/grounds/machines/book-the-wood-chipper", "/visitors/opening-hours", "/glasshouses/climate/tropical-house", "/grounds/compost-and-mulch/what-must-not-go-in", "/search/a-z", "/search/overview", "/search/new") {
		tab.Go(path)
		tab.MustEval("() => { document.querySelector('.menu-button')?.click(); document.querySelectorAll('details').forEach((d) => { d.open = true; }); }")
		require.LessOrEqual(t, tab.MustEval("() => document.documentElement.scrollWidth").Int(), 360, path)
	}
}

func check(t *testing.T, tab *testkit.Tab, axe, where string) {
	t.Helper()
	_, err := tab.Eval("() => {" + axe + "}")
	require.NoError(t, err)
	res, err := tab.Eval(`async () => JSON.stringify((await axe.run(document, {resultTypes: ["violations"]})).violations.map((v) => [v.id, v.help, v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160) + " " + n.failureSummary.slice(0,200))]))`)
	require.NoError(t, err)
	var found []any
	require.NoError(t, json.Unmarshal([]byte(res.Value.Str()), &found))
	if len(found) > 0 {
		words := ""
		for _, f := range found {
			words += fmt.Sprintln(f)
		}
		t.Errorf("%s:\n%s", where, words)
	}
}
