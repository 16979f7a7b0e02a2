package sitemap_test

import (
	"errors"
	"fmt"
	"slices"
	"testing"

	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap/sitemaptest"
)

func TestRanksHaveRoomForEver(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ranks := []string{}
		for range 60 {
			i := rapid.IntRange(0, len(ranks)).Draw(t, "at")
			a, b := "", ""
			if i > 0 {
				a = ranks[i-1]
			}
			if i < len(ranks) {
				b = ranks[i]
			}
			ranks = slices.Insert(ranks, i, sitemap.Between(a, b))
			require.True(t, slices.IsSorted(ranks))
			require.Len(t, slices.Compact(slices.Clone(ranks)), len(ranks))
		}
	})
	spread := sitemap.Spread(500)
	require.True(t, slices.IsSorted(spread))
	require.Len(t, slices.Compact(spread), 500)
}

// Whatever is done to a tree can be taken back, and done again.
func TestUndoingEverythingGivesTheFirstTree(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		first := author.Small(t, 8)
		tree, done := first, [][]sitemap.Patch{}
		for range 25 {
			next := author.Edit(t, tree)
			done = append(done, sitemap.Patches(tree, next))
			tree = next
		}
		last := tree
		var err error
		for _, p := range slices.Backward(done) {
			tree, err = tree.Apply(sitemap.Reverse(p))
			require.NoError(t, err)
		}
		require.Equal(t, first.Entries(), tree.Entries())
		for _, p := range done {
			tree, err = tree.Apply(p)
			require.NoError(t, err)
		}
		require.Equal(t, last.Entries(), tree.Entries())
	})
}

// Every edit leaves a whole tree whose order agrees with its ranks, and in
// which a moved branch keeps what is below it.
func TestEditsKeepTheTreeWhole(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 10)
		for range 20 {
			tree = author.Edit(t, tree)
			again, err := sitemap.Ranked(tree.Entries())
			require.NoError(t, err)
			require.Equal(t, tree.Entries(), again.Entries())
		}
	})
}

func TestNewcomersNeverTakeASlug(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page}})
	require.NoError(t, err)
	for i := range 3 {
		tree, err = tree.Add(sitemap.Entry{ID: fmt.Sprint(i), Title: "Bulbs"}, tree.Last(""))
		require.NoError(t, err)
	}
	require.Equal(t, []string{"/bulbs", "/bulbs-2", "/bulbs-3"}, []string{tree.Address(1), tree.Address(2), tree.Address(3)})
	tree, err = tree.Move("1", sitemap.Spot{Parent: "0"})
	require.NoError(t, err)
	require.Equal(t, "/bulbs/bulbs-2", tree.Address(tree.Find("1")), "a slug is kept on a move")
}

func TestEveryFieldCanBeUndone(t *testing.T) {
	before := sitemap.Entry{ID: "a", Title: "A", Kind: sitemap.Page}
	tree, err := sitemap.New([]sitemap.Entry{before})
	require.NoError(t, err)
	after := sitemap.Entry{
		ID: "a", Rank: "r", Title: "B", Short: "s", Slug: "l", SlugHeld: true, Fixed: "/f", Kind: sitemap.Carried, Target: "t", Source: "o", Template: "m",
		Owner: "w", Unlisted: true, Topics: "p", Readership: "d", Review: "2026-11-24", Notes: "n", Withdrawn: true,
	}
	got, err := tree.Apply([]sitemap.Patch{{ID: "a", Before: &before, After: &after}})
	require.NoError(t, err)
	require.Equal(t, after, got.At(0))
}

func TestTheFirstPageIsHome(t *testing.T) {
	none, err := sitemap.New(nil)
	require.NoError(t, err)
	tree, err := none.Add(sitemap.Entry{ID: "h", Title: "Quillmere Inside"}, sitemap.Spot{})
	require.NoError(t, err)
	require.Equal(t, "/", tree.Served(tree.Home()))
	tree, err = tree.Add(sitemap.Entry{ID: "g", Title: "Grounds"}, sitemap.Spot{After: ""})
	require.NoError(t, err)
	require.Equal(t, "/grounds", tree.Served(tree.Find("g")))
	tree, err = none.Add(sitemap.Entry{ID: "x", Title: "For everyone", Kind: sitemap.Group}, sitemap.Spot{})
	require.NoError(t, err)
	require.Equal(t, sitemap.None, tree.Home())
}

// Acts on many are the acts on each, one after the other.
func TestActsOnMany(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 8)
		var chosen []string
		for i := 1; i < tree.Len(); i++ {
			if rapid.Bool().Draw(t, "chosen") {
				chosen = append(chosen, tree.At(i).ID)
			}
		}
		spot := tree.Last("")
		if to := tree.At(rapid.IntRange(0, tree.Len()-1).Draw(t, "to")); !to.IsHome() {
			spot = tree.Last(to.ID)
		}
		got, err := tree.MoveAll(rapid.Permutation(chosen).Draw(t, "order"), spot)
		want := tree
		for _, id := range chosen {
			i := want.Find(id)
			for p := tree.Parent(tree.Find(id)); p != sitemap.None; p = tree.Parent(p) {
				if slices.Contains(chosen, tree.At(p).ID) {
					i = sitemap.None // goes with that
				}
			}
			if i == sitemap.None || err != nil {
				continue
			}
			var oneErr error
			want, oneErr = want.Move(id, want.Last(spot.Parent))
			require.NoError(t, oneErr)
		}
		if err == nil {
			require.Equal(t, outlined(want), outlined(got))
			claims := map[string]int{}
			for i := range got.Len() {
				if a := got.Address(i); a != "" {
					claims[a]++
				}
			}
			for i := range tree.Len() {
				if a := tree.Address(i); a != "" && tree.ClaimedBy(a) == i {
					require.Equal(t, 1, claims[got.Address(got.Find(tree.At(i).ID))], "nobody shares an address")
				}
			}
		} else {
			require.True(t, errors.Is(err, sitemap.ErrUnderSelf) || errors.Is(err, sitemap.ErrNoChildren), err)
		}

		got, err = tree.RemoveAll(chosen)
		require.NoError(t, err)
		want = tree
		for _, id := range chosen {
			if want.Find(id) != sitemap.None {
				want, err = want.Remove(id)
				require.NoError(t, err)
			}
		}
		require.Equal(t, want.Entries(), got.Entries())

		got, err = tree.ChangeAll(chosen, func(e *sitemap.Entry) { e.Owner = "Ines" })
		require.NoError(t, err)
		for i := range got.Len() {
			require.Equal(t, slices.Contains(chosen, got.At(i).ID), got.At(i).Owner == "Ines")
		}
	})
	tree := planted(t, "A\n  B\nC")
	for _, err := range []error{
		func() error { _, err := tree.MoveAll([]string{"e1", "e3"}, sitemap.Spot{Parent: "e2"}); return err }(),
		func() error { _, err := tree.MoveAll([]string{"e1", "home"}, sitemap.Spot{}); return err }(),
		func() error { _, err := tree.RemoveAll([]string{"e1", "gone"}); return err }(),
		func() error {
			_, err := tree.ChangeAll([]string{"e3", "e1"}, func(e *sitemap.Entry) { e.Kind = sitemap.Outside })
			return err
		}(),
	} {
		require.Error(t, err)
	}
	swapped, err := tree.MoveAll([]string{"e1", "e3"}, sitemap.Spot{After: "e3"})
	require.NoError(t, err)
	require.Equal(t, outlined(tree), outlined(swapped), "behind one of themselves")
}

// What another tree differs in, and nothing else, makes it of the first.
func TestRenewed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		was := author.Small(t, 12)
		is := was
		for range rapid.IntRange(0, 6).Draw(t, "edits") {
			is = author.Edit(t, is)
		}
		var gone []string
		var came []sitemap.Entry
		for _, p := range sitemap.Patches(was, is) {
			if p.After == nil {
				gone = append(gone, p.ID)
			} else {
				came = append(came, *p.After)
			}
		}
		got, err := sitemap.Renewed(was, gone, came)
		require.NoError(t, err)
		require.Equal(t, is.Entries(), got.Entries())
		for i := range is.Len() {
			require.Equal(t, is.Address(i), got.Address(i))
			require.Equal(t, i, got.Find(is.Ref(i).ID))
			require.Equal(t, is.Level(i), got.Level(i))
		}
	})
}
