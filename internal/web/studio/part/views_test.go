package part

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/urls"
)

func facts(pairs ...string) map[string]string {
	out := map[string]string{}
	for i := 0; i < len(pairs); i += 2 {
		out[pairs[i]] = pairs[i+1]
	}
	return out
}

func TestRowsOfTheOutline(t *testing.T) {
	tr := screentest.Trees(t)
	m := NewRowMaker(plan.Outline{Trees: tr, Summaries: plan.SummariesOf(plan.PageSummary{EntryID: "p"}, plan.PageSummary{EntryID: "p", Draft: true})})
	row := func(id string) RowView { return m.Row(tr.Next.Find(id)) }
	require.Equal(t, RowView{ID: "g", Title: "Outdoors", Kind: "page", Address: "/outdoors", Facts: facts("slug", "outdoors", "owner", "Gwen"), Wick: "half", State: "live, planned", Marks: []string{"renamed address", "retitled"}}, row("g"))
	require.Equal(t, RowView{ID: "p", Parent: "g", Title: "Ponds", Kind: "page", Address: "/outdoors/ponds", Facts: facts("slug", "ponds"), Fits: []string{"no-owner"}, Wick: "half", State: "live, edited", Marks: []string{"new address", "edited"}}, row("p"))
	require.Equal(t, RowView{ID: "n", Parent: "g", Title: "Bog garden", Kind: "carried", Address: "/outdoors/bog-garden", Facts: facts("slug", "bog-garden", "source", "https://old.quillmere.example/bog"), Fits: []string{"no-owner"}, Wick: "never", State: "to be carried", Marks: []string{"new"}, Bare: true}, row("n"))
	require.Equal(t, RowView{ID: "r", Title: "See ponds", Kind: "reference", Address: "reference", Facts: facts("target", "p"), Wick: "live", State: "live", See: "Outdoors › Ponds"}, row("r"))
	require.True(t, row("h").Home)
}

func TestPagesOfAList(t *testing.T) {
	url := func(page int) string { return urls.ChecksPage("too-deep", page) }
	for _, c := range []struct {
		page, total int
		want        Pager
	}{
		{1, 0, Pager{First: 1}},
		{1, 100, Pager{Range: "1–100 of 100", First: 1, Last: 100}},
		{0, 101, Pager{Range: "1–100 of 101", Next: "/studio/sitemap/checks?page=2&rule=too-deep", First: 1, Last: 100}},
		{2, 1234, Pager{Range: "101–200 of 1,234", Prev: "/studio/sitemap/checks?rule=too-deep", Next: "/studio/sitemap/checks?page=3&rule=too-deep", First: 101, Last: 200}},
		{99, 101, Pager{Range: "101–101 of 101", Prev: "/studio/sitemap/checks?rule=too-deep", First: 101, Last: 101}},
	} {
		require.Equal(t, c.want, NewPager(c.page, c.total, url))
	}
}
