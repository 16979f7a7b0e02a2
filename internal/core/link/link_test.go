package link_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

// TestLinksLeadWhereTheyAreLookedUp makes maps of one another while the tree and some
// pages change, and compares each with looking every link up.
func TestLinksLeadWhereTheyAreLookedUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		author := sitemaptest.Author{}
		tree := author.Small(t, 8)
		var pages []link.Page
		var known *link.Map
		for version := range 4 {
			pages = rewritten(t, tree, pages, version)
			known = link.New(tree, pages, known)
			other := tree
			for range 3 {
				other = author.Edit(t, other)
			}
			leadsAsFound(t, known.In(tree), tree, tree, pages)
			leadsAsFound(t, known.In(other), tree, other, pages)
			if rapid.Bool().Draw(t, "published") {
				tree = other
			}
		}
	})
}

func leadsAsFound(t *rapid.T, v link.View, of, tree *sitemap.Tree, pages []link.Page) {
	want, got := map[string][]int{}, map[string][]int{}
	for _, p := range pages {
		if of.Find(p.ID) != sitemap.None && tree.Find(p.ID) != sitemap.None {
			want[p.ID] = []int{tree.Find(p.ID)}
			for k := range p.Links {
				want[p.ID] = append(want[p.ID], link.Leads(tree, &p.Links[k]))
			}
		}
	}
	v.Each(func(at int, p *link.Page, to []int32) {
		got[p.ID] = []int{at}
		for k := range p.Links {
			got[p.ID] = append(got[p.ID], v.Leads(to[k], &p.Links[k]))
		}
	})
	require.Equal(t, want, got)
}

// rewritten gives some pages of a tree other links than they had.
func rewritten(t *rapid.T, tree *sitemap.Tree, pages []link.Page, version int) []link.Page {
	of := map[string]link.Page{}
	for _, p := range pages {
		of[p.ID] = p
	}
	var out []link.Page
	for i := range tree.Len() {
		id := tree.Ref(i).ID
		if p, had := of[id]; had && rapid.Bool().Draw(t, "kept") {
			out = append(out, p)
			continue
		}
		p := link.Page{ID: id, Version: fmt.Sprint(id, version)}
		for range rapid.IntRange(1, 3).Draw(t, "links") {
			to := tree.Ref(rapid.IntRange(0, tree.Len()-1).Draw(t, "to"))
			p.Links = append(p.Links, content.FoundLink{To: rapid.SampledFrom([]string{
				content.Scheme + to.ID, content.Scheme + to.ID + "#part", "/" + to.Slug, "https://quillmere.example/", content.Scheme + "nobody",
			}).Draw(t, "link")})
		}
		out = append(out, p)
	}
	return out
}
