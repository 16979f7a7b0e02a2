package match_test

import (
	"testing"

	"candlepath/internal/core/match"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// What somebody probably meant: the address asked for, and the first page told.
func TestMeant(t *testing.T) {
	s, err := sheet.ReadAddresses([]string{
		"/", "/visitors", "/visitors/opening-hours", "/visitors/guided-walks", "/grounds", "/grounds/opening-the-gates",
		"/grounds/machines/book-the-wood-chipper", "/glasshouses/orchid-house", "/glasshouses/alpine-house", "/working-here/overtime",
	})
	require.NoError(t, err)
	for asked, want := range map[string]string{
		"/opening-hours":                 "/visitors/opening-hours",
		"/visitors/openning-hours":       "/visitors/opening-hours", // a letter too many
		"/visitors/openign-hours":        "/visitors/opening-hours", // two swapped
		"/visitor/guided-walk":           "/visitors/guided-walks",  // beginnings
		"/old/chipper.html":              "/grounds/machines/book-the-wood-chipper",
		"/wiki/Orchid_House":             "/glasshouses/orchid-house",
		"/grounds/opening":               "/grounds/opening-the-gates",
		"/working-here/overtime/forms":   "/working-here/overtime",
		"/GLASSHOUSES/ALPINE-HOUSE/2019": "/glasshouses/alpine-house",
	} {
		got := match.Meant(s.Tree, asked, 3)
		require.NotEmpty(t, got, asked)
		require.Equal(t, want, s.Tree.Served(got[0]), asked)
		require.LessOrEqual(t, len(got), 3)
	}
	for _, nothing := range []string{"/", "", "/zzz/qqq", "/a"} {
		require.Empty(t, match.Meant(s.Tree, nothing, 3), nothing)
	}
}

func TestMeantNamesOnlyWhatReadersSee(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "a", Title: "Orchid house", Slug: "orchid-house", Kind: sitemap.Page, Withdrawn: true},
		{ID: "b", Title: "Orchid house, old", Slug: "orchid-house-old", Kind: sitemap.Page, Unlisted: true},
		{ID: "c", Title: "Orchid pots", Slug: "orchid-pots", Kind: sitemap.Page},
	})
	require.NoError(t, err)
	require.Equal(t, []int{tree.Find("c")}, match.Meant(tree, "/orchid-house", 5))
}

func TestFindRanksWhatIsTyped(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "topic", Title: "Rota", Slug: "rota", Kind: sitemap.Page, Topics: "open days; tours"},
		{ID: "inside", Title: "Reopening", Slug: "re", Kind: sitemap.Page},
		{ID: "address", Title: "Hours", Slug: "opening-times", Kind: sitemap.Page},
		{ID: "word", Title: "When we open", Slug: "when", Kind: sitemap.Page},
		{ID: "first", Title: "Opening hours", Slug: "hours", Kind: sitemap.Page},
		{ID: "group", Title: "Open questions", Kind: sitemap.Group},
	})
	require.NoError(t, err)
	find := func(typed string, n int, fits func(int) bool) (ids []string) {
		for _, i := range match.Find(tree, typed, n, fits) {
			ids = append(ids, tree.At(i).ID)
		}
		return ids
	}
	anything := func(int) bool { return true }
	require.Equal(t, []string{"first", "group", "word", "address", "inside", "topic"}, find(" OPEN", 10, anything))
	require.Equal(t, []string{"first", "group"}, find("open", 2, anything))
	require.Equal(t, []string{"first", "word"}, find("open", 2, func(i int) bool { return tree.Served(i) != "" }))
	require.Len(t, find("", 3, anything), 3)
	require.Empty(t, find("zzz", 3, anything))
}
