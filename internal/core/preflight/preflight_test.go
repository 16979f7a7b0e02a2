package preflight_test

import (
	"strings"
	"testing"

	"candlepath/internal/core/preflight"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

var topic = content.Template{Key: "topic", Parts: []content.Part{
	{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary", Type: content.FieldText, Required: true}, {Key: "when", Label: "When", Type: content.FieldDate}}},
	{Kind: content.Slot, Key: "main", Required: true},
}}

func tree(t *testing.T, entries ...sitemap.Entry) *sitemap.Tree {
	list := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}}
	for _, e := range entries {
		if e.Template = "topic"; e.Kind == "" {
			e.Kind = sitemap.Page
		}
		list = append(list, e)
	}
	tr, err := sitemap.New(list)
	require.NoError(t, err)
	return tr
}

func reported(t content.Template, p content.Page, has func(string) bool) *content.Report {
	r := content.NewReport(t, p, has)
	return &r
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
	set := shape.Set{
		shape.MenuID(menu.Foot):  {Menu: &menu.Overrides{Of: "nowhere", Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "gone"}, "+2": {Kind: menu.AnEntry, Entry: "b"}}}},
		shape.TemplateID("page"): {Template: &content.Template{Key: "page", Name: "Page", Parts: []content.Part{{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: "[Gone](page:gone)"}}}}}},
		shape.TrailID("1"):       {Trail: &shape.Trail{Title: "Rounds", Pages: []string{"a", "gone"}}},
	}
	long := menu.Overrides{Items: map[string]menu.ItemOverride{}}
	for i := range 12 {
		long.Items[strings.Repeat("+", i+1)] = menu.ItemOverride{Kind: menu.AnEntry, Entry: "b"}
	}
	set[shape.MenuID(menu.Top)] = shape.Item{Menu: &long}
	picture := content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Picture, Set: content.Values{"picture": "/files/x.png"}}}}}
	aside := content.Page{Slots: map[string][]content.Block{"elsewhere": {{Type: content.Text, Text: "kept"}}}}
	for _, pages := range [][]preflight.Page{
		{{ID: "n", Report: reported(topic, picture, nobody)}},
		{{ID: "n", Report: reported(topic, aside, nobody), Follows: true}},
	} {
		for _, f := range preflight.Check(preflight.Edition{Live: live, Tree: next, Pages: pages}) {
			found[f.Rule] += f.Message
		}
	}
	for _, template := range []content.Template{topic, {Key: "bare"}} {
		for _, f := range preflight.Check(preflight.Edition{
			Live: live, Tree: next, Plan: plan, Shapes: set, Proof: redirect.Proof{Asked: 200, Lost: []string{"/tea/menu"}, LostMore: 99}, FilesStop: []string{"a", "b", "c", "d", "e", "f"},
			Unapproved: []preflight.Unapproved{{ID: "n", Title: "N"}, {ID: "n", Title: "N"}, {ID: "a", Title: "Same", Sent: true}},
			Pages:      []preflight.Page{{ID: "n", Report: reported(template, content.Page{}, nobody), Links: []content.FoundLink{{To: "page:gone", Text: "old"}, {To: "page:e", Text: "hidden"}, {To: "page:b", Text: "fine"}}}},
		}) {
			found[f.Rule] += f.Message
			row, _ := preflight.Rules().Row(f.Rule)
			require.Equal(t, row.Severity, f.Severity)
		}
	}
	for _, r := range preflight.Rules() {
		require.NotEmpty(t, found[r.Rule], "no case for %s", r.Rule)
	}
	require.Equal(t, strings.Repeat(`"N" needs approval before it is published. Send it for review."Same" is in review. It can be published once it is approved.`, 2), found[preflight.ReviewMissing])
	require.Contains(t, found[preflight.UnfinishedBlock], `On "N", Picture does not say`)
	require.Contains(t, found[preflight.TemplateLink], `Template Page leads to "Gone", which is removed`)
	require.Contains(t, found[preflight.TemplateAsks], `"N" stays as it is and follows its template, but the field "Summary" is empty`)
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
		return preflight.Check(preflight.Edition{Live: live, Tree: next, Pages: []preflight.Page{{ID: "n", Report: reported(topic, page, nil)}}})
	}
	require.Empty(t, check())
	page.Fields["when"] = "tomorrow"
	require.Len(t, check(), 1)
}

// A page that does not change is held against the edition, too: what it links to may go,
// be withdrawn or give up its address.
func TestLinksOfPagesThatStay(t *testing.T) {
	live := tree(t, sitemap.Entry{ID: "a", Title: "A", Slug: "a"}, sitemap.Entry{ID: "b", Title: "B", Slug: "b"}, sitemap.Entry{ID: "c", Title: "C", Slug: "c"}, sitemap.Entry{ID: "d", Title: "D", Slug: "d"})
	stay := link.New(live, []link.Page{
		{ID: "a", Links: []content.FoundLink{{To: "page:b", Text: "b"}, {To: "page:c#part", Text: "c"}, {To: "page:d", Text: "d"}}},
		{ID: "b", Links: []content.FoundLink{{To: "/c", Text: "c"}, {To: "/nowhere", Text: "lost"}, {To: "https://quillmere.example/x", Text: "out"}}},
		{ID: "c", Links: []content.FoundLink{{To: "page:later", Text: "later"}}},
		{ID: "d", Links: []content.FoundLink{{To: "page:b", Text: "b"}}},
	}, nil)
	found := func(next *sitemap.Tree, pages ...preflight.Page) (out []string) {
		for _, f := range preflight.Check(preflight.Edition{Live: live, Tree: next, Next: next, Pages: pages, Stay: stay, Shapes: shape.Set{}}) {
			if f.Rule == preflight.LinkToNothing {
				out = append(out, f.ID+" "+f.To+": "+f.Message)
			}
		}
		return out
	}
	require.Equal(t, []string{
		`b /nowhere: "B" links to /nowhere, where there is no page. Point "lost" somewhere else, or leave it out.`,
		`c later: "C" links to a page that is not there. Point "later" somewhere else, or leave it out.`,
	}, found(live), "what was broken before")
	next := tree(t, sitemap.Entry{ID: "a", Title: "A", Slug: "a"}, sitemap.Entry{ID: "b", Title: "B", Slug: "b", Withdrawn: true}, sitemap.Entry{ID: "later", Title: "Later", Slug: "later"}, sitemap.Entry{ID: "d", Title: "D", Kind: sitemap.Group})
	require.Equal(t, []string{
		`a b: "A" links to "B", which is withdrawn. Point "b" somewhere else, or leave it out.`,
		`a c: "A" links to "C", which is removed. Point "c" somewhere else, or leave it out.`,
		`a d: "A" links to "D", which is a group without a page. Point "d" somewhere else, or leave it out.`,
	}, found(next), "b and d have no page any more, so nobody reads their links")
	require.Empty(t, found(next, preflight.Page{ID: "a", Report: &content.Report{}}), "the text that goes out has no links")
}
