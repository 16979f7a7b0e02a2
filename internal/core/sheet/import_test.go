package sheet_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

func TestImport(t *testing.T) {
	live, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "i"},
		{ID: "v", Title: "Visitors", Slug: "visitors", Kind: sitemap.Page, Rank: "i", Owner: "Lionel"},
		{ID: "o", Parent: "v", Title: "Opening hours", Slug: "opening-hours", SlugHeld: true, Kind: sitemap.Page, Rank: "i"},
		{ID: "w", Parent: "v", Title: "Walks", Slug: "walks", SlugHeld: true, Kind: sitemap.Page, Rank: "r"},
	})
	require.NoError(t, err)
	given, err := sheet.Read([]sheet.Record{
		{Line: 1, Cells: []string{"level", "title", "owner"}},
		{Line: 2, Cells: []string{"1", "Visitors", "Petra"}},
		{Line: 3, Cells: []string{"2", "Walks", ""}},
		{Line: 4, Cells: []string{"2", "Opening hours", ""}},
		{Line: 5, Cells: []string{"2", "Picnics", ""}},
	})
	require.NoError(t, err)
	made := 0
	id := func() string { made++; return fmt.Sprintf("new%d", made) }

	got, err := sheet.Import(live, given, sheet.Update, "", nil, id)
	require.NoError(t, err)
	require.Equal(t, []string{"h", "v", "w", "o", "new1"}, ids(got.Tree), "the file's order")
	require.Equal(t, "Petra", got.Tree.At(1).Owner)
	require.Equal(t, 1, got.Count[sheet.IsAdded])
	require.Zero(t, got.Count[sheet.IsRemoved])

	short, err := sheet.Read([]sheet.Record{{Line: 1, Cells: []string{"level", "title"}}, {Line: 2, Cells: []string{"1", "Walks"}}})
	require.NoError(t, err)
	got, err = sheet.Import(live, short, sheet.Replace, "v", nil, id)
	require.NoError(t, err)
	require.Equal(t, []string{"h", "v", "w"}, ids(got.Tree))
	require.Equal(t, 1, got.Count[sheet.IsRemoved])

	got, err = sheet.Import(live, short, sheet.Below, "o", nil, id)
	require.NoError(t, err)
	require.Equal(t, "/visitors/opening-hours/walks", got.Tree.Address(got.Tree.Find(got.IDs[short.Tree.At(0).ID])))
	again, err := sheet.Import(got.Tree, short, sheet.Update, "", got.IDs, id)
	require.NoError(t, err)
	require.Zero(t, again.Count[sheet.IsAdded], "ids brought in before are remembered")
}

func ids(t *sitemap.Tree) []string {
	var out []string
	for i := range t.Len() {
		out = append(out, t.At(i).ID)
	}
	return out
}
