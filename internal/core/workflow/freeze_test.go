package workflow_test

import (
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/workflow"
)

func TestFreezes(t *testing.T) {
	at := func(hour int) time.Time { return time.Date(2026, 12, 1, hour, 0, 0, 0, time.UTC) }
	list := []workflow.Freeze{
		{ID: "fair", Begins: at(9), Ends: at(12)}, {ID: "audit", Begins: at(11), Ends: at(14)}, {ID: "inside", Begins: at(10), Ends: at(11)}, {ID: "late", Begins: at(20), Ends: at(21)},
	}
	for hour, want := range map[int]string{8: "", 9: "fair", 10: "fair", 11: "audit", 13: "audit", 14: "", 20: "late", 21: ""} {
		got := ""
		if f := workflow.Frozen(list, at(hour)); f != nil {
			got = f.ID
		}
		require.Equal(t, want, got, "at %d", hour)
	}
	for hour, thaws := range map[int]int{8: 8, 9: 14, 13: 14, 20: 21} {
		require.Equal(t, at(thaws), workflow.Thaw(list, at(hour)), "at %d", hour)
	}
	require.Equal(t, "fair", workflow.Ordered(list)[0].ID)
	for hours, want := range map[[2]int]bool{{0, 9}: false, {0, 10}: true, {10, 11}: true, {11, 20}: true, {12, 20}: false} {
		require.Equal(t, want, list[0].Touches(at(hours[0]), at(hours[1])), "%v", hours)
	}
}

func TestDaysOfACalendar(t *testing.T) {
	for of, want := range map[string][3]string{
		"2026-11-27 week":  {"2026-11-23", "2026-11-29", "7"},
		"2026-11-23 week":  {"2026-11-23", "2026-11-29", "7"},
		"2027-01-01 week":  {"2026-12-28", "2027-01-03", "7"},
		"2026-11-27 month": {"2026-10-26", "2026-12-06", "42"},
		"2027-02-10 month": {"2027-02-01", "2027-02-28", "28"},
	} {
		day, err := time.Parse(time.DateOnly, of[:10])
		require.NoError(t, err)
		days := workflow.Days(day, of[11:] == "month")
		require.Equal(t, want, [3]string{days[0].Format(time.DateOnly), days[len(days)-1].Format(time.DateOnly), strconv.Itoa(len(days))}, of)
	}
}
