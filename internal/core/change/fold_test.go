package change_test

import (
	"testing"

	"candlepath/internal/core/change"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
)

func TestFolded(t *testing.T) {
	live, err := sitemap.New([]sitemap.Entry{{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Rank: "a"}, {ID: "o", Title: "Old", Slug: "old", Kind: sitemap.Page, Rank: "b"}})
	require.NoError(t, err)
	next := live
	for _, e := range [][2]string{{"a", "g"}, {"b", "a"}, {"c", "b"}, {"d", ""}, {"e", "d"}} {
		next, err = next.Add(sitemap.Entry{ID: e[0], Title: e[0], Kind: sitemap.Page}, next.Last(e[1]))
		require.NoError(t, err)
	}
	next, err = next.Move("o", next.Last("c"))
	require.NoError(t, err)
	all := append(change.Diff(live, next), change.Change{Key: change.Key{ID: "c", Aspect: change.Content}})
	require.Equal(t, map[string]string{"b": "a", "c": "a", "e": "d"}, change.Folded(next, all), "what moved below stands for itself")
	require.Empty(t, change.Folded(live, nil))
}
