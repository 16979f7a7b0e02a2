package editions

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
)

// A plan with more entries than are listed is told in branches, what is not new
// first, and the rest has one tick.
func TestALargePlanIsToldInBranches(t *testing.T) {
	n := screentest.Next(t)
	for i := range 2 * part.EntriesShown {
		var err error
		id := fmt.Sprintf("x%d", i)
		n.Trees.Next, err = n.Trees.Next.Add(sitemap.Entry{ID: id, Title: id, Kind: sitemap.Page}, sitemap.Spot{})
		require.NoError(t, err)
		n.Trees.Next, err = n.Trees.Next.Add(sitemap.Entry{ID: id + "b", Title: id, Kind: sitemap.Page}, sitemap.Spot{Parent: id})
		require.NoError(t, err)
	}
	n.All = change.Diff(n.Trees.Live, n.Trees.Next)
	n.Chosen = change.All(n.All)
	v := editionView{Shown: part.EntriesShown}
	v.changes(n, plan.Person{}, nil)
	require.Len(t, v.Entries, part.EntriesShown)
	require.NotEqual(t, "new", v.Entries[0].Changes[0].Mark)
	last := v.Entries[part.EntriesShown-1]
	require.Equal(t, "new", last.Changes[0].Mark)
	require.Equal(t, "1 new entry below is included or left out with it", last.Branch)
	require.True(t, v.RestIn)
	require.Regexp(t, "^30[0-9] more entries change", v.Rest)
}

// Many things of one minute are folded in the calendar, and stand under it in their order; a minute of another day does not count.
func TestManyThingsOfAMinuteAreFolded(t *testing.T) {
	var list []scheduled
	for i := range 9 {
		list = append(list, scheduled{ID: fmt.Sprint(i), Date: "2026-12-01", Clock: map[bool]string{true: "09:00", false: "17:00"}[i < 4]})
	}
	list[8].Date = "2026-12-02"
	list = append(list, scheduled{ID: "alone", Date: "2026-12-02", Clock: "17:30"})
	minutes := minutesOf(list, "2026-12-01")
	require.Len(t, minutes, 2)
	require.Equal(t, scheduleMinute{Clock: "09:00", Date: "2026-12-01", Words: "4 changes", Folded: true, Items: list[:4]}, minutes[0])
	require.Equal(t, scheduleMinute{Clock: "17:00", Date: "2026-12-01", Words: "4 changes", Folded: true, Items: list[4:8]}, minutes[1])
	minutes = minutesOf(list, "2026-12-02")
	require.Equal(t, []bool{false, false}, []bool{minutes[0].Folded, minutes[1].Folded})
	require.Empty(t, minutesOf(list, "2026-12-03"))
}
