package sitemap_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap"
)

// TestAnAlteredTreeIsTheTreeOfItsEntries changes, moves, adds and removes entries of
// trees made of each other, and compares each with the tree made afresh.
func TestAnAlteredTreeIsTheTreeOfItsEntries(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tree, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "i"}})
		require.NoError(t, err)
		for round := range 12 {
			entries := scrambled(t, tree, round)
			want, wrong := sitemap.New(slices.Clone(entries))
			got, err := tree.Alter(listed(entries))
			if wrong != nil {
				require.Equal(t, wrong, err)
				continue
			}
			require.NoError(t, err)
			sameTree(t, want, got)
			tree = got
		}
	})
}

func listed(entries []sitemap.Entry) (out []*sitemap.Entry) {
	for _, e := range entries {
		out = append(out, &e)
	}
	return out
}

// scrambled gives the entries of a tree with some of them changed in any way.
func scrambled(t *rapid.T, tree *sitemap.Tree, round int) []sitemap.Entry {
	entries := tree.Entries()
	pick := func() int { return rapid.IntRange(0, len(entries)-1).Draw(t, "at") }
	word := func() string { return rapid.SampledFrom([]string{"a", "b", "c", "d"}).Draw(t, "word") }
	for k := range rapid.IntRange(1, 6).Draw(t, "acts") {
		switch i := pick(); rapid.IntRange(0, 7).Draw(t, "act") {
		case 0, 1:
			kind := rapid.SampledFrom([]sitemap.Kind{sitemap.Page, sitemap.Page, sitemap.Group, sitemap.Reference}).Draw(t, "kind")
			entries = append(entries, sitemap.Entry{ID: fmt.Sprint(round, "-", k), Parent: entries[i].ID, Title: strings.ToUpper(word()), Slug: word(), Kind: kind, Rank: word()})
		case 2:
			entries[i].Slug, entries[i].Rank = word(), word()
		case 3:
			entries[i].Title, entries[i].Withdrawn = word(), !entries[i].Withdrawn
		case 4:
			entries[i].Parent = entries[pick()].ID
		case 5:
			entries[i].Fixed = "/" + word()
		case 6:
			entries = slices.Delete(entries, i, i+1)
			if len(entries) == 0 {
				return tree.Entries()
			}
		case 7:
			j := pick()
			entries[i], entries[j] = entries[j], entries[i]
		}
		if rapid.Bool().Draw(t, "asked") { // an index that is known is taken over
			tree.PageAt("/a")
			tree.ClaimedBy("/a")
			tree.LowerTitles()
		}
	}
	return entries
}

func sameTree(t require.TestingT, want, got *sitemap.Tree) {
	require.Equal(t, want.Entries(), got.Entries())
	require.Equal(t, want.Home(), got.Home())
	require.Equal(t, want.Clashes(), got.Clashes())
	require.Equal(t, want.LowerTitles(), got.LowerTitles())
	for i := range want.Len() {
		id := want.Ref(i).ID
		require.Equal(t, want.Parent(i), got.Parent(i), id)
		require.Equal(t, want.End(i), got.End(i), id)
		require.Equal(t, want.Level(i), got.Level(i), id)
		require.Equal(t, want.Claim(i), got.Claim(i), id)
		require.Equal(t, want.Prefix(i), got.Prefix(i), id)
		require.Equal(t, i, got.Find(id), id)
		require.Equal(t, want.PageAt(want.Claim(i)), got.PageAt(want.Claim(i)), id)
		require.Equal(t, want.ClaimedBy(want.Claim(i)), got.ClaimedBy(want.Claim(i)), id)
	}
	for round := range 12 { // those that are not there any more
		for k := range 6 {
			id := fmt.Sprint(round, "-", k)
			require.Equal(t, want.Find(id), got.Find(id), id)
		}
	}
}

// TestRenewedTreesStandByRank compares a tree with some entries renewed with the one
// made of all of them.
func TestRenewedTreesStandByRank(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tree, err := sitemap.Ranked([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "i"}})
		require.NoError(t, err)
		for round := range 6 {
			entries := scrambled(t, tree, round)
			want, wrong := sitemap.Ranked(slices.Clone(entries))
			var gone []string
			for i := range tree.Len() {
				if id := tree.Ref(i).ID; !slices.ContainsFunc(entries, func(e sitemap.Entry) bool { return e.ID == id }) {
					gone = append(gone, id)
				}
			}
			came := slices.DeleteFunc(slices.Clone(entries), func(e sitemap.Entry) bool {
				i := tree.Find(e.ID)
				return i != sitemap.None && tree.At(i) == e
			})
			got, err := sitemap.Renewed(tree, gone, came)
			if wrong != nil {
				require.Error(t, err)
				continue
			}
			require.NoError(t, err)
			sameTree(t, want, got)
			tree = got
		}
	})
}
