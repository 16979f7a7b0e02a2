package redirect_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
)

func answers(t require.TestingT, rows []redirect.Row, addresses []string) []string {
	table, err := redirect.NewTable(rows, nil)
	require.NoError(t, err)
	out := make([]string, len(addresses))
	for i, a := range addresses {
		got := table.Resolve(a)
		out[i] = got.Location
		if got.Code != 301 {
			out[i] += " " + string(rune('0'+got.Code%10))
		}
	}
	return out
}

// listed gives the addresses whose answers must stay: those of the table and,
// below rows that spread, some that it does not list.
func listed(rows []redirect.Row) []string {
	var out []string
	for _, r := range rows {
		out = append(out, r.From)
		if r.Match != redirect.Exact {
			out = append(out, r.From+"/zz", r.From+"/a/zz", r.From+"/b/zz")
		}
	}
	return out
}

func drawTable(t *rapid.T, spread bool) []redirect.Row {
	froms := []string{"/a", "/b", "/a/a", "/a/b", "/b/a", "/a/a/a", "/a/a/b"}
	tos := []string{"/x", "/x/a", "/x/b", "/x/a/a", "/x/a/b", "/y"}
	seen := map[string]bool{}
	var rows []redirect.Row
	for range rapid.IntRange(1, 5).Draw(t, "rows") {
		r := row(rapid.SampledFrom(froms).Draw(t, "from"), rapid.SampledFrom(tos).Draw(t, "to"), 301, redirect.Exact)
		if rapid.IntRange(0, 6).Draw(t, "gone") == 0 {
			r.Code, r.To = redirect.Gone, redirect.Target{}
		}
		if spread && rapid.IntRange(0, 3).Draw(t, "spreads") == 0 {
			r.Match = rapid.SampledFrom([]redirect.Match{redirect.Prefix, redirect.Branch}).Draw(t, "match")
		}
		if !seen[r.From] {
			seen[r.From] = true
			rows = append(rows, r)
		}
	}
	return rows
}

// The fewest, against trying every table with one row less.
func TestCompactIsTheFewest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows := drawTable(t, false)
		want := listed(rows)
		got, err := redirect.Compact(rows)
		require.NoError(t, err)
		require.Equal(t, answers(t, rows, want), answers(t, got, want))
		require.LessOrEqual(t, len(got), len(rows))
		if len(got) > 1 {
			require.False(t, fewer(t, rows, want, len(got)-1), "%d rows are not the fewest: %v", len(got), got)
		}
	})
}

// fewer tries every table of n rows whose answers could be of use.
func fewer(t require.TestingT, rows []redirect.Row, addresses []string, n int) bool {
	var candidates []redirect.Row
	seen := map[redirect.Row]bool{}
	add := func(r redirect.Row) {
		if !seen[r] {
			seen[r] = true
			candidates = append(candidates, r)
		}
	}
	for _, r := range rows {
		for from := r.From; from != ""; from = from[:lastSlash(from)] {
			rest, _ := address.Below(from, r.From)
			add(redirect.Row{From: from, To: r.To, Code: r.Code, Match: redirect.Branch})
			if rest == "" {
				add(redirect.Row{From: from, To: r.To, Code: r.Code, Match: redirect.Exact})
			}
			if to := r.To.Address; r.Code != redirect.Gone && len(to) > len(rest) && to[len(to)-len(rest):] == rest {
				add(redirect.Row{From: from, To: redirect.Target{Address: to[:len(to)-len(rest)]}, Code: r.Code, Match: redirect.Prefix})
			}
		}
	}
	want := answers(t, rows, addresses)
	var try func(chosen []redirect.Row, from int) bool
	try = func(chosen []redirect.Row, from int) bool {
		if len(chosen) == n {
			table, err := redirect.NewTable(chosen, nil)
			if err != nil || table == nil {
				return false
			}
			got := answers(t, chosen, addresses)
			for i := range want {
				if got[i] != want[i] {
					return false
				}
			}
			return true
		}
		for i := from; i < len(candidates); i++ {
			if try(append(chosen[:len(chosen):len(chosen)], candidates[i]), i+1) {
				return true
			}
		}
		return false
	}
	return try(nil, 0)
}

func lastSlash(s string) int {
	for i := len(s) - 1; i >= 0; i-- {
		if s[i] == '/' {
			return i
		}
	}
	return 0
}

func TestCompactKeepsWhatRowsSpreadOver(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows := drawTable(t, true)
		got, err := redirect.Compact(rows)
		require.NoError(t, err)
		want := listed(rows)
		require.Equal(t, answers(t, rows, want), answers(t, got, want))
		require.LessOrEqual(t, len(got), len(rows))
		again, err := redirect.Compact(got)
		require.NoError(t, err)
		require.LessOrEqual(t, len(again), len(got))
	})
}

func TestCompactLeavesAlone(t *testing.T) {
	rows := []redirect.Row{
		row("/page.php?id=1", "/x/a", 301, redirect.Exact), row("/a/b", "/x/b", 301, redirect.Exact), row("/a/c", "/x/c", 302, redirect.Exact),
		row("/", "/x", 301, redirect.Exact),
		{From: "/old", To: redirect.Target{Address: "/x"}, Code: 301, Match: redirect.Exact, Status: redirect.Retired},
	}
	got, err := redirect.Compact(rows)
	require.NoError(t, err)
	require.Equal(t, []redirect.Row{rows[1], rows[2], rows[0]}, got, "another code is another answer; nothing at /; reports are skipped")
	_, err = redirect.Compact([]redirect.Row{row("/a", "/x", 301, redirect.Exact), row("/a", "/y", 301, redirect.Exact)})
	require.ErrorIs(t, err, redirect.ErrTable)
}
