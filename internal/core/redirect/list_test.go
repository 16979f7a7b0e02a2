package redirect_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
)

// What is planned stands over what is live, and every filter counts what it shows.
func TestTheListOfRedirects(t *testing.T) {
	by := func(r redirect.Row, o redirect.Origin, review string) redirect.Row {
		r.Origin, r.Review = o, review
		return r
	}
	list := redirect.List([]redirect.Row{
		row("/a", "/tea", 301, redirect.Exact), row("/a", "/tea", 301, redirect.Prefix), row("/c", "", 410, redirect.Exact), by(row("/d", "/x", 302, redirect.Exact), redirect.ByHand, "2026-11-26"),
	}, []redirect.Row{by(row("/b", "/tea", 307, redirect.Branch), redirect.ByHand, ""), by(row("/a", "/new", 308, redirect.Exact), redirect.ByHand, "2026-11-27")})
	var told []string
	for _, l := range list {
		told = append(told, l.From+" "+string(l.Match)+" "+string(l.State))
	}
	require.Equal(t, []string{"/a exact changing", "/a prefix live", "/b branch planned", "/c exact live", "/d exact live"}, told)
	require.Equal(t, 301, list[0].Was.Code)
	list[1].Use, list[3].Use, list[4].Lost = redirect.Use{N: 3, Last: "2026-11-20"}, redirect.Use{Last: "2024-01-01"}, true
	now := redirect.MomentOf(time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC))
	now.Used = true
	require.Equal(t, "2025-11-26", now.Since)
	counts := map[string]int{}
	for _, f := range redirect.ListFilters() {
		require.NotContains(t, counts, f.Key)
		counts[f.Key] = 0
		for i := range list {
			if f.Fits(&list[i], now) {
				counts[f.Key]++
			}
		}
	}
	require.Equal(t, map[string]int{"": 5, "planned": 2, "live": 4, "hand": 3, "host": 0, "older": 0, "move": 2, "exact": 3, "prefix": 1, "branch": 1, "permanent": 2, "temporary": 2, "gone": 1, "due": 1, "lost": 1, "unused": 2, "long": 1}, counts)

	long := redirect.ListFilters()[slices.IndexFunc(redirect.ListFilters(), func(f redirect.ListFilter) bool { return f.Key == redirect.LongUnused })]
	for day, fits := range map[string][2]bool{"2024-01-01": {}, "2024-01-02": {false, true}, "2026-11-21": {true, true}, "2026-11-27": {false, true}, "yesterday": {false, true}} {
		then := now.Before(day) // a day to come, or none, is a year ago
		require.Equal(t, fits, [2]bool{long.Fits(&list[1], then), long.Fits(&list[3], then)}, day)
	}
}
