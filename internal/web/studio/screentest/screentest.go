// Package screentest is what the tests of all screens share: a small sitemap, and
// the execution of every template.
package screentest

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/render"
)

// Execute runs screens with the view that its handler builds,
// empty or filled: a field that is missing, and an escaping error, show here. A
// view may also be given for a block of a screen, as "screen block".
func Execute(t *testing.T, screens []string, views map[string]any) {
	set, err := render.Studio()
	require.NoError(t, err)
	given := map[string]bool{}
	for name := range views {
		screen, _, _ := strings.Cut(name, " ")
		given[screen] = true
	}
	for _, name := range screens {
		require.True(t, given[name], "a view for the screen %s", name)
	}
	for name, view := range views {
		screen, block, named := strings.Cut(name, " ")
		if !named {
			_, err := set.Bytes(screen, "screen", view)
			require.NoError(t, err, screen)
			block = "layout"
		}
		body, err := set.Bytes(screen, block, view)
		require.NoError(t, err, name)
		wellFormed(t, name, body)
	}
}

// wellFormed looks for ids given twice and for inline script or style.
func wellFormed(t *testing.T, name string, body []byte) {
	doc, err := html.Parse(bytes.NewReader(body))
	require.NoError(t, err)
	ids := map[string]bool{}
	for n := range doc.Descendants() {
		for _, a := range n.Attr {
			require.False(t, a.Key == "style" || len(a.Key) > 2 && a.Key[:2] == "on", "%s: inline %s", name, a.Key)
			if a.Key == "id" && a.Val != "" {
				require.False(t, ids[a.Val], "%s: the id %s is there twice", name, a.Val)
				ids[a.Val] = true
			}
		}
	}
}

// Trees are a small site of which a few things are planned.
func Trees(t *testing.T) plan.Trees {
	live, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Owner: "Gwen", Rank: "b"},
		{ID: "p", Parent: "g", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page, Rank: "a"},
		{ID: "c", Parent: "g", Title: "Compost", Slug: "compost", Kind: sitemap.Page, Rank: "b"},
		{ID: "r", Title: "See ponds", Kind: sitemap.Reference, Target: "p", Rank: "c"},
	})
	require.NoError(t, err)
	next, err := live.Retitle("g", "Outdoors")
	require.NoError(t, err)
	next, err = next.Change("g", func(e *sitemap.Entry) { e.Slug = "outdoors" })
	require.NoError(t, err)
	next, err = next.Remove("c")
	require.NoError(t, err)
	next, err = next.Add(sitemap.Entry{ID: "n", Title: "Bog garden", Kind: sitemap.Carried, Source: "https://old.quillmere.example/bog"}, sitemap.Spot{Parent: "g", After: "p"})
	require.NoError(t, err)
	return plan.Trees{Live: live, Next: next, Planned: map[string]plan.Planned{}}
}

// Next is the edition that all of it would make, but for an edited text.
func Next(t *testing.T) editions.NextEdition {
	tr := Trees(t)
	all := append(change.Diff(tr.Live, tr.Next), change.Change{Key: change.Key{ID: "p", Aspect: change.Content}})
	site := plan.Site{Settings: setting.Values{setting.SiteName: "Quillmere Inside"}, Edition: 11}
	n := NextEdition(site, edition.Work{Input: edition.Input{Trees: tr}, All: all})
	n.Chosen = change.All(all)
	delete(n.Chosen, change.Key{ID: "p", Aspect: change.Content})
	n.Findings = []check.Finding{
		{Rule: preflight.UndecidedPage, Severity: check.Error, ID: "c"}, {Rule: preflight.DuplicateTitles, Severity: check.Warning, ID: "p"},
	}
	return n
}

// NextEdition is one of which the work is known, and nothing is selected.
func NextEdition(site plan.Site, w edition.Work) editions.NextEdition {
	return editions.NextEdition{Work: editions.Work{Site: site, Work: &w}, Proposal: &edition.Proposal{}}
}

// Overview is what a frame shows of an edition.
func Overview(n editions.NextEdition) editions.Overview {
	return editions.Overview{Site: n.Site, Trees: n.Trees, Next: &n}
}
