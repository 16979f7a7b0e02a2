package sitemap_test

import (
	"testing"

	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap/sitemaptest"
)

func TestRestore(t *testing.T) {
	whole, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Rank: "b"},
		{ID: "p", Parent: "g", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page, Rank: "a"},
		{ID: "w", Parent: "p", Title: "Weed days", Slug: "weed-days", Kind: sitemap.Page, Rank: "a", Withdrawn: true},
		{ID: "f", Title: "Old", Fixed: "/old", Kind: sitemap.Page, Rank: "c"},
	})
	require.NoError(t, err)
	at := func(ids ...string) (out []sitemap.Entry) {
		for _, id := range ids {
			out = append(out, whole.At(whole.Find(id)))
		}
		return out
	}
	without := func(ids ...string) *sitemap.Tree {
		tree := whole
		for _, id := range ids {
			tree, err = tree.Remove(id)
			require.NoError(t, err)
		}
		return tree
	}
	back, err := without("p").Restore(at("p", "w"), []string{"g"})
	require.NoError(t, err)
	require.Equal(t, "/grounds/ponds/weed-days", back.Served(back.Find("w")), "and no longer withdrawn")

	gone := without("g")
	back, err = gone.Restore(at("w"), []string{"p", "g"})
	require.NoError(t, err)
	require.Equal(t, "/weed-days", back.Served(back.Find("w")), "nothing above it is left")

	taken, err := without("p").Add(sitemap.Entry{ID: "n", Title: "Ponds"}, sitemap.Spot{Parent: "g"})
	require.NoError(t, err)
	back, err = taken.Restore(at("p"), []string{"g"})
	require.NoError(t, err)
	require.Equal(t, "/grounds/ponds-2", back.Served(back.Find("p")), "its address is taken")
	require.Equal(t, "/grounds/ponds", back.Served(back.Find("n")))

	taken, err = without("f").Add(sitemap.Entry{ID: "n", Title: "Old"}, sitemap.Spot{})
	require.NoError(t, err)
	back, err = taken.Restore(at("f"), nil)
	require.NoError(t, err)
	require.Equal(t, "/old-2", back.Served(back.Find("f")))
}

// What was removed and is put back has the addresses that it had.
func TestRestoreUndoesRemoving(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, rapid.IntRange(1, 12).Draw(t, "entries"))
		i := rapid.IntRange(1, tree.Len()-1).Draw(t, "entry")
		var removed []sitemap.Entry
		for k := i; k < tree.End(i); k++ {
			removed = append(removed, tree.At(k))
		}
		less, err := tree.Remove(removed[0].ID)
		require.NoError(t, err)
		back, err := less.Restore(removed, nil)
		require.NoError(t, err)
		require.Equal(t, tree.Len(), back.Len())
		for k := range tree.Len() {
			require.Equal(t, tree.Served(k), back.Served(back.Find(tree.At(k).ID)))
		}
	})
}

func razed(t *testing.T, n int) (tree, less *sitemap.Tree, removed []sitemap.Entry) {
	tree = planted(t, "A\n"+lines(n))
	less, err := tree.Remove("e1")
	require.NoError(t, err)
	return tree, less, tree.Entries()[1:]
}

func TestRestoringALargeBranch(t *testing.T) {
	tree, less, removed := razed(t, 5_000)
	back, err := less.Restore(removed, nil)
	require.NoError(t, err)
	require.Equal(t, outlined(tree), outlined(back))
}

// A part that is back already stays where it is, and what was below it goes there.
func TestRestoringTheRest(t *testing.T) {
	tree, less, removed := razed(t, 12)
	part, err := less.Restore(removed[5:6], nil)
	require.NoError(t, err)
	removed[6].Parent = removed[5].ID
	back, err := part.Restore(removed, nil)
	require.NoError(t, err)
	require.Equal(t, tree.Len(), back.Len())
	require.Equal(t, removed[5].ID, back.Ref(back.Find(removed[6].ID)).Parent)
	require.Equal(t, removed[0].ID, back.Ref(back.Find(removed[7].ID)).Parent)
}

// RestoredAt says what Restore does.
func TestRestoredAtForetellsRestore(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		before := author.Small(t, 10)
		i := rapid.IntRange(0, before.Len()-1).Draw(t, "entry")
		e := before.At(i)
		var above []string
		for p := before.Parent(i); p != sitemap.None; p = before.Parent(p) {
			above = append(above, before.At(p).ID)
		}
		now, err := before.Remove(e.ID)
		if err != nil {
			return
		}
		for range rapid.IntRange(0, 4).Draw(t, "edits") {
			now = author.Edit(t, now)
		}
		if now.Find(e.ID) != sitemap.None {
			return
		}
		back, err := now.Restore([]sitemap.Entry{e}, above)
		require.NoError(t, err)
		want := ""
		if e.Kind.IsPage() || e.Fixed != "" {
			want = back.Address(back.Find(e.ID))
		}
		require.Equal(t, want, now.RestoredAt(e, above))
	})
}
