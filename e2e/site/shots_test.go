package site_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/testkit"
)

// planMinutes has something in the calendar: a page that is withdrawn, and a freeze.
func planMinutes(t *testing.T, site *testkit.Site) {
	t.Helper()
	marta := testkit.PersonOf(t, site, "marta")
	day := func(n int, clock string) string {
		return time.Now().UTC().AddDate(0, 0, n).Format(time.DateOnly) + "T" + clock
	}
	minute := func(at string) editions.TimeAsk { return editions.TimeAsk{At: at, Zone: "Europe/London"} }
	require.NoError(t, site.App.Freeze(t.Context(), marta, minute(day(2, "08:00")), minute(day(3, "18:00")), "Plant fair: everyone is outside"))
	for n, at := range map[int]string{1: "/visitors/picnic-lawns", 4: "/visitors/opening-hours/lantern-evenings"} {
		_, err := site.App.WithdrawAt(t.Context(), marta, editions.WithdrawAsk{Entry: testkit.EntryID(t, site, at), At: day(n, "17:00"), Zone: "Europe/London"})
		require.NoError(t, err)
	}
}

// TestShots makes docs/screenshots from the demo data: SHOTS=1, or SHOTS=a
// folder to look at first.
func TestShots(t *testing.T) {
	dir := os.Getenv("SHOTS")
	if dir == "" {
		t.Skip("run by make shots")
	}
	if dir == "1" {
		dir = testkit.Root("docs", "screenshots")
	}
	require.NoError(t, os.MkdirAll(dir, 0o755))
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("marta")
	page := testkit.EntryID(t, site, "/grounds/machines/book-the-wood-chipper")
	vault := testkit.EntryID(t, site, "/seed-vault")
	planMinutes(t, site)
	for _, s := range []struct{ name, path, until string }{
		{"outline", "/studio/sitemap?level=3&at=" + vault, "document.querySelector('#beside [data-entry]')"},
		{"map", "/studio/sitemap/map?at=" + vault, "document.querySelectorAll('.m-node').length > 5 && document.querySelector('#beside [data-entry]')"},
		{"checks", "/studio/sitemap/checks", "true"},
		{"reach", "/studio/menus/reach?sort=clicks", "true"},
		{"redirects", "/studio/addresses/redirects", "true"},
		{"see-next", "/studio/edition/see", "document.querySelector('iframe').contentDocument?.querySelector('.site-foot')"},
		{"template", "/studio/templates/procedure", "document.querySelector('#editor')?.editor && document.querySelector('.part-row')"},
		{"import", "/studio/sitemap/import", "true"},
		{"menus", "/studio/menus?menu=side:" + testkit.EntryID(t, site, "/visitors") + "&item=" + testkit.EntryID(t, site, "/visitors/first-aid"), "document.querySelector('iframe').contentDocument?.querySelector('.site-foot')"},
		{"review", "/studio/edition/review?show=all&id=" + testkit.EntryID(t, site, "/seed-vault/germination-tests"), "document.querySelector('.review-block')"},
		{"inventory", "/studio/pages", "true"},
		{"page-editor", "/studio/pages/" + page, "document.querySelector('.ProseMirror table')"},
		{"moves", "/studio/addresses", "true"},
		{"next-edition", "/studio/edition", "true"},
		{"past-editions", "/studio/edition/past?edition=8", "true"},
		{"reader-home", "/", "true"},
		{"reader-page", "/grounds/machines/book-the-wood-chipper", "true"},
		{"older-site", "/studio/addresses/older?show=open", "true"},
		{"schedule", "/studio/edition/schedule?zone=Europe/London&by=month", "document.querySelector('.cal-item')"},
	} {
		if only := os.Getenv("ONLY"); only != "" && !strings.Contains(only, s.name) {
			continue
		}
		tab.Go(s.path)
		tab.Until(s.until)
		if s.name == "page-editor" { // with something that differs from Live
			testkit.InText(tab)
			tab.Keyboard.MustType(input.ArrowDown)
			testkit.Insert(tab, "Ask Gwen. ")
			tab.Until("document.querySelector('.b-since')")
		}
		tab.Until("document.fonts.status === 'loaded'")
		tab.Shot(filepath.Join(dir, s.name+".png"))
	}
	require.Empty(t, tab.Problems())
}
