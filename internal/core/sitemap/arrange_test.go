package sitemap_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap/sitemaptest"
)

func outlined(t *sitemap.Tree) string {
	var out []string
	for i := range t.Len() {
		out = append(out, strings.Repeat(".", t.Level(i))+t.Ref(i).Title)
	}
	return strings.Join(out, " ")
}

func planted(t testing.TB, list string) *sitemap.Tree {
	home, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "i"}})
	require.NoError(t, err)
	got, err := sheet.Paste(home, list, "", numbered("e"))
	require.NoError(t, err)
	return got.Tree
}

func numbered(prefix string) func() string {
	n := 0
	return func() string { n++; return fmt.Sprint(prefix, n) }
}

func TestSorting(t *testing.T) {
	tree := planted(t, "pots\n  Z\n  a\nÉtude\nBed 10\nBed 9\n  y\n  X\nelm")
	sorted, err := tree.SortBelow("", false, sitemap.ByTitle())
	require.NoError(t, err)
	require.Equal(t, "Home .Bed 9 ..y ..X .Bed 10 .elm .Étude .pots ..Z ..a", outlined(sorted))
	deep, err := tree.SortBelow("", true, sitemap.ByTitle())
	require.NoError(t, err)
	require.Equal(t, "Home .Bed 9 ..X ..y .Bed 10 .elm .Étude .pots ..a ..Z", outlined(deep))
	one, err := tree.SortBelow("e1", false, sitemap.ByTitle())
	require.NoError(t, err)
	require.Equal(t, "Home .pots ..a ..Z .Étude .Bed 10 .Bed 9 ..y ..X .elm", outlined(one))
	again, err := deep.SortBelow("", true, sitemap.ByTitle())
	require.NoError(t, err)
	require.Empty(t, sitemap.Patches(deep, again), "what is in order stays")

	_, err = tree.SortBelow("e2", false, sitemap.ByTitle())
	require.ErrorIs(t, err, sitemap.ErrNothingBelow)
	_, err = tree.SortBelow("gone", false, sitemap.ByTitle())
	require.ErrorIs(t, err, sitemap.ErrNoEntry)
	empty, err := sitemap.New(nil)
	require.NoError(t, err)
	_, err = empty.SortBelow("", true, sitemap.ByTitle())
	require.ErrorIs(t, err, sitemap.ErrNothingBelow)
}

// Sorting changes ranks alone, and the tree is the same in any order it had.
func TestSortingOnlySorts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 8)
		id := tree.At(rapid.IntRange(0, tree.Len()-1).Draw(t, "entry")).ID
		sorted, err := tree.SortBelow(id, rapid.Bool().Draw(t, "deep"), sitemap.ByTitle())
		if err != nil {
			require.ErrorIs(t, err, sitemap.ErrNothingBelow)
			return
		}
		require.Equal(t, tree.Len(), sorted.Len())
		for i := range tree.Len() {
			before, after := tree.At(i), sorted.At(sorted.Find(tree.At(i).ID))
			before.Rank, after.Rank = "", ""
			require.Equal(t, before, after)
			if !tree.Contains(tree.Find(id), i) {
				require.Equal(t, i, sorted.Find(before.ID), "nothing else moves")
			}
		}
		byRank, err := sitemap.New(sorted.Entries())
		require.NoError(t, err)
		require.Empty(t, sitemap.Rerank(byRank), "the ranks agree with the order")
	})
}

func TestCopying(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 6)
		for range 4 {
			tree = author.Edit(t, tree)
		}
		i := rapid.IntRange(0, tree.Len()-1).Draw(t, "entry")
		if i == tree.Home() {
			_, _, err := tree.Copy(tree.At(i).ID, numbered("copy"))
			require.ErrorIs(t, err, sitemap.ErrHome)
			return
		}
		id, n := tree.At(i).ID, tree.End(i)-i
		next, copied, err := tree.Copy(id, numbered("copy"))
		require.NoError(t, err)
		require.Equal(t, tree.Len()+n, next.Len())
		at := next.Find(copied)
		require.Equal(t, tree.End(i), at, "right behind")
		require.Equal(t, at+n, next.End(at))
		require.Equal(t, "Copy of "+tree.At(i).Title, next.At(at).Title)
		twins := next.CopyPairs(id, copied)
		require.Len(t, twins, n)
		for k := range n {
			from, to := tree.At(i+k), next.At(at+k)
			require.Equal(t, to.ID, twins[from.ID])
			require.Equal(t, from.Kind, to.Kind)
			if want, inside := twins[from.Target]; inside {
				require.Equal(t, want, to.Target)
			} else {
				require.Equal(t, from.Target, to.Target)
			}
		}
		for k := range tree.Len() {
			require.Equal(t, tree.At(k), next.At(next.Find(tree.At(k).ID)), "what was there stays")
		}
		for k := range n {
			a := next.Address(at + k)
			require.False(t, a != "" && tree.ClaimedBy(a) != sitemap.None, "%s is somebody's", a)
			if a != "" && tree.ClaimedBy(tree.Address(i+k)) == i+k {
				require.Equal(t, at+k, next.ClaimedBy(a), "a copy clashes with no other copy")
			}
		}
		var seen []string
		for k := range next.Len() {
			require.NotContains(t, seen, next.At(k).ID)
			seen = append(seen, next.At(k).ID)
		}
	})
}

func TestCopyingTooMuch(t *testing.T) {
	tree := planted(t, "A\n"+lines(sitemap.MaxCopied))
	_, _, err := tree.Copy("e1", numbered("copy"))
	require.ErrorIs(t, err, sitemap.ErrCopiedTooMuch)
	_, _, err = tree.Copy("gone", numbered("copy"))
	require.ErrorIs(t, err, sitemap.ErrNoEntry)
	next, id, err := planted(t, strings.Repeat("t", sitemap.MaxTitle)).Copy("e1", numbered("copy"))
	require.NoError(t, err)
	require.Len(t, next.At(next.Find(id)).Title, sitemap.MaxTitle)
}

func lines(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "  Bed %d\n", i)
	}
	return b.String()
}

func TestSortingByDate(t *testing.T) {
	tree := planted(t, "a\nb\nc\nd")
	days := map[string]int{idOf(t, tree, "b"): 3, idOf(t, tree, "d"): 7}
	sorted, err := tree.SortBelow("", false, sitemap.ByDate(func(id string) (at time.Time) {
		if day := days[id]; day > 0 {
			at = time.Date(2026, 11, day, 0, 0, 0, 0, time.UTC)
		}
		return at
	}))
	require.NoError(t, err)
	require.Equal(t, "Home .d .b .a .c", outlined(sorted), "the latest first, those without a date last and in their order")
}
