package sitemap_test

import (
	"testing"

	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/check"
)

// Whatever a check finds, its mend, where there is one, takes the finding away
// and brings in no error.
func TestMendsMend(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Owner: "Marta", Rank: "a"},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Owner: "Gwen", Rank: "b"},
		{ID: "p", Parent: "g", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page, Rank: "a"},
		{ID: "q", Parent: "g", Title: "Pools", Slug: "ponds", Kind: sitemap.Page, Owner: "Nobody Known", Rank: "b"},
		{ID: "e", Parent: "g", Title: "Empty", Kind: sitemap.Group, Rank: "c"},
		{ID: "n", Parent: "g", Title: "Nothing", Kind: sitemap.Reference, Target: "zzz", Rank: "d"},
		{ID: "c", Parent: "g", Title: "Carried", Slug: "carried", Kind: sitemap.Carried, Owner: "Gwen", Rank: "e"},
		{ID: "s1", Parent: "g", Title: "Old one", Slug: "old-one", Kind: sitemap.Carried, Source: "https://old.quillmere.example/x", Owner: "Gwen", Rank: "f"},
		{ID: "s2", Parent: "g", Title: "Other one", Slug: "other-one", Kind: sitemap.Carried, Source: "https://old.quillmere.example/x", Owner: "Gwen", Rank: "g"},
		{ID: "t", Title: "ponds!", Slug: "more-ponds", Kind: sitemap.Page, Owner: "Gwen", Review: "2024-02-29", Rank: "c"},
		{ID: "st", Title: "Studio", Slug: "studio", Kind: sitemap.Page, Owner: "Gwen", Rank: "d"},
		{ID: "d1", Parent: "t", Title: "One", Slug: "one", Kind: sitemap.Page, Owner: "Gwen", Rank: "a"},
		{ID: "d2", Parent: "d1", Title: "Two", Slug: "two", Kind: sitemap.Page, Owner: "Gwen", Rank: "a"},
		{ID: "d3", Parent: "d2", Title: "Three", Slug: "three", Kind: sitemap.Page, Owner: "Gwen", Rank: "a"},
	})
	require.NoError(t, err)
	o := sitemap.CheckOptions{Deepest: 3, People: map[string]bool{"Marta": true, "Gwen": true}, Today: "2026-11-25"}
	count := func(tree *sitemap.Tree) (n map[string]int, errs int) {
		n = map[string]int{}
		for _, f := range sitemap.Check(tree, o) {
			n[string(f.Rule)]++
			if f.Severity == check.Error {
				errs++
			}
		}
		return n, errs
	}
	mended := map[check.Rule]string{}
	before, errs := count(tree)
	for _, f := range sitemap.Check(tree, o) {
		m, ok := tree.MendOf(f.Rule, f.ID, o)
		if !ok {
			continue
		}
		next, err := m.Apply()
		require.NoError(t, err, f.Rule)
		after, left := count(next)
		require.Equal(t, before[string(f.Rule)]-1, after[string(f.Rule)], "%s: %s", f.Rule, m.Words)
		require.LessOrEqual(t, left, errs, f.Rule)
		mended[f.Rule] = m.Words
	}
	require.Equal(t, map[check.Rule]string{
		sitemap.AddressClash: "Give it the slug ponds-2", sitemap.ReservedAddress: "Give it the slug studio-2", sitemap.ReferenceToNothing: "Remove it",
		sitemap.NoSource: "Make it an ordinary page", sitemap.SameSource: "Make it a reference to the other", sitemap.SameTitle: "Make it a reference to the other",
		sitemap.EmptyGroup: "Remove it", sitemap.TooDeep: "Move it up a level", sitemap.NoOwner: "Give it to Gwen, as above it", sitemap.UnknownOwner: "Give it to Gwen, as above it",
		sitemap.ReviewPassed: "Reviewed; next on  2027-03-01",
	}, mended)
	for _, none := range []check.Rule{sitemap.Lopsided, sitemap.TooBroad, "nothing"} {
		_, ok := tree.MendOf(none, "g", o)
		require.False(t, ok)
	}
	_, ok := tree.MendOf(sitemap.EmptyGroup, "zzz", o)
	require.False(t, ok)
}
