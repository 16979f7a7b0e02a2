package site_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/setting"
	"candlepath/internal/testkit"
	"candlepath/internal/web/urls"
)

// everyKind makes the demo show every kind of reader page: a top menu that opens,
// with all that can be in it, and a study. It gives the addresses that no link
// leads to.
func everyKind(t *testing.T, site *testkit.Site) []string {
	who := testkit.PersonOf(t, site, "marta")
	label := ""
	for _, act := range []appnavigation.MenuAct{
		{Do: "set", Settings: menu.Settings{Levels: 2}},
		{Do: "add", Override: menu.ItemOverride{Kind: menu.Divider}},
		{Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: testkit.EntryID(t, site, "/grounds"), Title: strings.Repeat("Oakum", 30)}},
		{Do: "add", Override: menu.ItemOverride{Kind: menu.Label, Title: "For quick hands", Symbol: "tool"}},
		{Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: testkit.EntryID(t, site, "/grounds/machines"), Levels: 1}},
		{Do: "add", Override: menu.ItemOverride{Kind: menu.Divider}},
		{Do: "add", Override: menu.ItemOverride{Kind: menu.Link, Title: "Tides", URL: "https://tides.quillmere.example/"}},
	} {
		act.Key, act.Menu, act.After = uuid.NewString(), menu.Top, menu.Last
		if label != "" {
			act.Parent = label
		}
		res, err := site.App.PlanMenu(t.Context(), who, act)
		require.NoError(t, err)
		if act.Override.Kind == menu.Label {
			label = res.ID
		}
	}
	testkit.PublishOnly(t, site, "A top menu that opens", func(a string) bool { return a == "menu" })
	study, err := site.App.BeginStudy(t.Context(), who, appnavigation.StudyAsk{Live: true, Title: "Where is it?", Ends: time.Now().AddDate(0, 0, 7), Tasks: []appnavigation.StudyTask{{Question: "Where are the ponds?", Right: []string{testkit.EntryID(t, site, "/grounds/ponds-and-streams")}}}})
	require.NoError(t, err)
	return []string{urls.Where + "/" + study.Secret, urls.Where + "/nothing", "/visitors/shop/shop-stock-list", "/visitor/openning", "/search", "/search?q=seed", "/search?q=zzzz", urls.TrailList}
}

// TestSavePages writes what a reader gets of the demo into a folder, for `make
// html`: every page, list and message once.
func TestSavePages(t *testing.T) {
	dir := os.Getenv("PAGES")
	if dir == "" {
		t.Skip("run by make html")
	}
	site := kit.Site(t, true)
	require.NoError(t, os.MkdirAll(dir, 0o755))
	for path, body := range walked(t, testkit.SignIn(t, site, ""), everyKind(t, site)...) {
		if strings.HasSuffix(path, ".atom") || strings.HasPrefix(path, setting.PicturePath) {
			continue
		}
		name := strings.Trim(strings.NewReplacer("/", "_", "?", "_").Replace(path), "_") + ".html"
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(body), 0o600))
	}
}
