package pages

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/web/studio/screentest"
)

func TestInventoryFilters(t *testing.T) {
	tr := screentest.Trees(t)
	o := plan.Outline{Trees: tr, Summaries: plan.SummariesOf(plan.PageSummary{EntryID: "p", Draft: true, PersonID: "1", At: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)}, plan.PageSummary{EntryID: "h"})}
	for show, want := range map[string][]string{
		"": {"Home", "Outdoors", "Ponds", "Bog garden"}, "edited": {"Ponds"}, "unwritten": {"Outdoors", "Bog garden"}, "unpublished": {"Bog garden"}, "withdrawn": nil, "no-owner": {"Home", "Ponds", "Bog garden"},
	} {
		v := inventoryView{Show: show}
		v.fill(o, []content.Template{{Key: "topic", Name: "Topic"}}, []plan.Person{{ID: "1", Name: "Ines"}}, 1)
		var got []string
		for _, r := range v.Rows {
			got = append(got, r.Title)
		}
		require.Equal(t, want, got, show)
	}
}
