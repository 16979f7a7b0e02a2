package redirect_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
)

// lookedUpOnce answers as a server does that knows no more than rows: the exact one, else the
// longest that spreads.
func lookedUpOnce(rows []redirect.Row, at string) (code int, to string) {
	by := map[redirect.Key]redirect.Row{}
	for _, r := range rows {
		by[r.Key()] = r
	}
	if r, ok := by[redirect.Key{From: at}]; ok {
		return r.Code, redirect.WrittenTo(r.To, nil)
	}
	for base := at; ; base = base[:strings.LastIndexByte(base, '/')] {
		if base == "" {
			base = "/"
		}
		if r, ok := by[redirect.Key{From: base, Spread: true}]; ok {
			if r.Match == redirect.Prefix && r.Code != redirect.Gone {
				rest, _ := address.Below(base, at)
				if r.To.URL != "" && rest == "" {
					return r.Code, r.To.URL
				} else if r.To.URL != "" {
					r.To.URL = strings.TrimSuffix(r.To.URL, "/") + rest
				} else {
					r.To.Address = address.Join(r.To.Address, rest)
				}
			}
			return r.Code, redirect.WrittenTo(r.To, nil)
		}
		if base == "/" {
			return 404, ""
		}
	}
}

// Rows written out answer every address as the table does.
func TestPlainRowsAnswerTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		seg := rapid.SampledFrom([]string{"a", "b", "c"})
		path := rapid.Custom(func(t *rapid.T) string {
			return "/" + strings.Join(rapid.SliceOfN(seg, 0, 3).Draw(t, "path"), "/")
		})
		table := anyTable(t, path)
		plain, err := redirect.Plain(table.Rows())
		require.NoError(t, err)
		seen := map[redirect.Key]bool{}
		for _, r := range plain {
			require.False(t, seen[r.Key()], "one row of a kind: %s", r.From)
			seen[r.Key()] = true
		}
		for range 20 {
			at := path.Draw(t, "at")
			want := table.ResolveNormal(at, "")
			code, to := lookedUpOnce(plain, at)
			require.Equal(t, fmt.Sprint(want.Code, " ", want.Location), fmt.Sprint(code, " ", to), "%s over %v", at, plain)
		}
	})
}

func anyTable(t *rapid.T, path *rapid.Generator[string]) *redirect.Table {
	seen := map[redirect.Key]bool{}
	var rows []redirect.Row
	for range rapid.IntRange(0, 6).Draw(t, "rows") {
		r := redirect.Row{
			From: path.Draw(t, "from"), Match: rapid.SampledFrom([]redirect.Match{redirect.Exact, redirect.Prefix, redirect.Prefix, redirect.Branch}).Draw(t, "match"),
			Code: rapid.SampledFrom([]int{301, 302, 307, 308, 410}).Draw(t, "code"),
		}
		if seen[r.Key()] {
			continue
		}
		seen[r.Key()] = true
		if r.Code != redirect.Gone {
			r.To = redirect.Target{Address: path.Draw(t, "to")}
			if rapid.IntRange(0, 4).Draw(t, "away") == 0 {
				r.To = redirect.Target{URL: "https://shop.quillmere.example" + path.Draw(t, "url")}
			}
		}
		rows = append(rows, r)
	}
	table, err := redirect.NewTable(rows, nil)
	require.NoError(t, err)
	return table
}
