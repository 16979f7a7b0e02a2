package edition_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/edition"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
	"candlepath/internal/core/workflow"
)

var readers = []readership.Reader{
	{},
	{Name: "Ines Roth", Login: "ines", Role: workflow.Editor},
	{Name: "Gwen Hale", Login: "gwen", Role: workflow.Editor},
	{Name: "Anselm Friis", Login: "anselm", Role: workflow.Approver},
	{Name: "Marta Oduya", Login: "marta", Role: workflow.Manager},
}

// reads gives the entries that a reader may read.
func reads(t *sitemap.Tree, r readership.Reader, also map[string][]string) map[string]bool {
	out := map[string]bool{}
	seen := readership.Visible(t, r, also)
	for i := range seen.Len() {
		out[seen.Ref(i).ID] = true
	}
	return out
}

// TestARestoreOpensNothing restores random trees: nobody reads a page afterwards that they could not read before. Where
// no entry moved and no readership changed, everybody reads what they read.
func TestARestoreOpensNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 7)
		act := func(tree *sitemap.Tree) *sitemap.Tree {
			if rapid.Bool().Draw(t, "restricts") {
				id := tree.At(rapid.IntRange(0, tree.Len()-1).Draw(t, "of")).ID
				next, err := tree.Change(id, func(e *sitemap.Entry) {
					e.Readership = rapid.SampledFrom([]string{"", "editor", "approver", "site manager", "Gwen Hale", "Ines Roth; approver", "editor; approver"}).Draw(t, "readers")
				})
				require.NoError(t, err)
				return next
			}
			return author.Edit(t, tree)
		}
		for range 6 {
			tree = act(tree)
		}
		live := tree
		for range 6 {
			live = act(live)
		}
		trail := func() map[string][]string { // a trail that not everybody may walk, as it is now and as it was
			id := live.At(rapid.IntRange(0, live.Len()-1).Draw(t, "on a trail")).ID
			return map[string][]string{id: {rapid.SampledFrom([]string{"approver", "site manager", "Gwen Hale"}).Draw(t, "walkers")}}
		}
		var now map[string][]string
		if rapid.Bool().Draw(t, "trail") {
			now = trail()
		}
		d, err := edition.Rollback(edition.Live{Tree: live}, now, nil, readership.State{Tree: tree, Also: now}, live, nil, nil)
		require.NoError(t, err)
		for _, r := range readers {
			before, after := reads(live, r, now), reads(d.Tree, r, now)
			for id := range after {
				require.True(t, before[id] || live.Find(id) == sitemap.None, "%s reads %s", r.Name, id)
			}
		}
		same, err := edition.Rollback(edition.Live{Tree: live}, now, nil, readership.State{Tree: live, Also: now}, live, nil, nil)
		require.NoError(t, err)
		for _, r := range readers {
			require.Equal(t, reads(live, r, now), reads(same.Tree, r, now))
		}
	})
}
