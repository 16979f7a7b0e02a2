package sitemap_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
)

// A page keeps an address on purpose, with what is below it, and gives it up again.
func TestKeepAddress(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "a", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page},
		{ID: "b", Title: "Weed", Slug: "weed", Parent: "a", Kind: sitemap.Page},
		{ID: "c", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page},
		{ID: "g", Title: "Group", Kind: sitemap.Group},
	})
	require.NoError(t, err)
	moved, err := tree.Move("a", tree.Last("c"))
	require.NoError(t, err)
	kept, err := moved.KeepAddress("a", "/Ponds/")
	require.NoError(t, err)
	at := func(t *sitemap.Tree, id string) string { return t.Served(t.Find(id)) }
	require.Equal(t, []string{"/ponds", "/ponds/weed"}, []string{at(kept, "a"), at(kept, "b")})
	given, err := kept.KeepAddress("a", "")
	require.NoError(t, err)
	require.Equal(t, []string{"/grounds/ponds", "/grounds/ponds/weed"}, []string{at(given, "a"), at(given, "b")})
	for _, c := range [][3]string{
		{"a", "/grounds", `"Grounds" has the address /grounds now.`},
		{"a", "/studio/x", "the program's own"},
		{"a", "%00", "not an address"},
		{"g", "/x", "Only a page"},
		{"h", "/x", sitemap.ErrHome.Error()},
		{"z", "/x", sitemap.ErrNoEntry.Error()},
	} {
		_, err := moved.KeepAddress(c[0], c[1])
		require.ErrorContains(t, err, c[2], c)
	}
}
