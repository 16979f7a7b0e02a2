package preflight_test

import (
	"strings"
	"testing"

	"candlepath/internal/core/preflight"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

var topic = content.Template{Key: "topic", Parts: []content.Part{
	{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary", Type: content.FieldText, Required: true}, {Key: "when", Label: "When", Type: content.FieldDate}}},
	{Kind: content.Slot, Key: "main", Required: true},
}}

func tree(t *testing.T, entries ...sitemap.Entry) *sitemap.Tree {
	list := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}}
	for _, e := range entries {
		e.Kind, e.Template = sitemap.Page, "topic"
		list = append(list, e)
	}
	tr, err := sitemap.New(list)
	require.NoError(t, err)
	return tr
}

// Every rule finds what it is for, says a sentence, and knows its severity.
func TestEveryRuleFindsItsFault(t *testing.T) {
	live := tree(t, sitemap.Entry{ID: "a", Title: "A", Slug: "a"}, sitemap.Entry{ID: "b", Title: "B", Slug: "b"}, sitemap.Entry{ID: "gone", Title: "Gone", Slug: "gone"})
	next := tree(t,
		sitemap.Entry{ID: "a", Title: "Same", Slug: "x"}, sitemap.Entry{ID: "b", Title: "same", Fixed: "/x"},
		sitemap.Entry{ID: "s", Title: "Search", Slug: "search"}, sitemap.Entry{ID: "n", Title: "N", Slug: "a"}, sitemap.Entry{ID: "e", Title: "E", Slug: "e", Withdrawn: true},
	)
	plan, err := redirect.Plan(redirect.Input{Live: live, Next: next})
	require.NoError(t, err)
	plan = append(plan, redirect.Row{From: "/x", To: redirect.Target{Entry: "a"}, Code: 301, Match: redirect.Exact, Status: redirect.Kept})
	nobody := func(string) bool { return false }
	found := map[check.Rule]string{}
	set := navigation.Set{
		navigation.MenuID(menu.Foot): {Menu: &menu.Overrides{Of: "nowhere", Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "gone"}, "+2": {Kind: menu.AnEntry, Entry: "b"}}}},
		navigation.TrailID("1"):      {Trail: &navigation.Trail{Title: "Rounds", Pages: []string{"a", "gone"}}},
	}
	long := menu.Overrides{Items: map[string]menu.ItemOverride{}}
	for i := range 12 {
		long.Items[strings.Repeat("+", i+1)] = menu.ItemOverride{Kind: menu.AnEntry, Entry: "b"}
	}
	set[navigation.MenuID(menu.Top)] = navigation.Item{Menu: &long}
	for _, template := range []content.Template{topic, {Key: "bare"}} {
		for _, f := range preflight.Check(preflight.Edition{
			Live: live, Tree: next, Plan: plan, Navigation: set,
			Pages: []preflight.Page{{ID: "n", Changed: true, Report: content.NewReport(template, content.Page{}, nobody), Links: []content.FoundLink{{To: "page:gone", Text: "old"}, {To: "page:e", Text: "hidden"}, {To: "page:b", Text: "fine"}}}},
		}) {
			found[f.Rule] += f.Message
			row, _ := preflight.Rules().Row(f.Rule)
			require.Equal(t, row.Severity, f.Severity)
		}
	}
	for _, r := range preflight.Rules() {
		require.NotEmpty(t, found[r.Rule], "no case for %s", r.Rule)
	}
	require.Contains(t, found[preflight.LinkToNothing], "removed")
	require.Contains(t, found[preflight.LinkToNothing], "withdrawn")
	require.Contains(t, found[preflight.ItemToNothing], `Foot menu shows what is below a page that is not there`)
	require.Contains(t, found[preflight.ItemToNothing], `Foot menu has an item to "Gone", which is removed`)
	require.Contains(t, found[preflight.StepToNothing], `Trail Rounds leads to "Gone", which is removed`)
	require.Contains(t, found[preflight.LongMenu], "17 items")
	require.Equal(t, 2, strings.Count(found[preflight.LinkToNothing], "links to")/2, "told once for each")
}

func TestAFilledPagePasses(t *testing.T) {
	live := tree(t)
	next := tree(t, sitemap.Entry{ID: "n", Title: "N", Slug: "n"})
	page := content.Page{Fields: map[string]string{"summary": "s", "when": "2026-11-24"}, Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: "x"}}}}
	check := func() []check.Finding {
		return preflight.Check(preflight.Edition{Live: live, Tree: next, Pages: []preflight.Page{{ID: "n", Changed: true, Report: content.NewReport(topic, page, nil)}}})
	}
	require.Empty(t, check())
	page.Fields["when"] = "tomorrow"
	require.Len(t, check(), 1)
}
