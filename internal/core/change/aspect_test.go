package change

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
)

// Every field that changes alone has an aspect, every aspect a row with a mark, a
// sort that a summary counts, and a sentence.
func TestTheTableOfAspectsIsComplete(t *testing.T) {
	for _, f := range sitemap.Fields() {
		if f.Counts == sitemap.Alone {
			require.Contains(t, Aspects(), Aspect(f.Key))
		}
	}
	tree, err := sitemap.New([]sitemap.Entry{{ID: "p", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page, Rank: "b"}})
	require.NoError(t, err)
	seen := map[Aspect]bool{}
	for _, a := range Aspects() {
		require.False(t, seen[a], a)
		seen[a] = true
		c := Change{Key: Key{"p", a}, Because: "moved", After: "/ponds"}
		require.NotEmpty(t, c.Mark(), a)
		require.Contains(t, Sorts(), c.Sort(), a)
		require.NotEmpty(t, Words(c, tree, tree), a)
	}
	require.Len(t, seen, 18)
}

func TestNewsOfChanges(t *testing.T) {
	for because, want := range map[string]News{"moved": NewsMoved, "renamed address": NewsMoved, "turned into group": NoNews} {
		require.Equal(t, want, Change{Key: Key{"p", Placement}, Because: because}.News(), because)
	}
	require.True(t, NewsNew.Outweighs(NewsChange))
	require.True(t, NewsChange.Outweighs(NewsMoved))
	require.False(t, NewsMoved.Outweighs(NewsMoved))
}
