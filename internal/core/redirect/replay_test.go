package redirect_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

// What is asked again after a change, of 12 addresses.
func TestReplayAsksWhatCanDiffer(t *testing.T) {
	live := []string{"/", "/tea", "/tea/green", "/seeds", "/seeds/drying"}
	table := []redirect.Row{
		row("/a", "/tea", 301, redirect.Exact), row("/b", "/seeds/drying", 301, redirect.Exact),
		row("/old", "/seeds", 301, redirect.Prefix), row("/over", "/tea", 302, redirect.Branch),
	}
	addresses := []string{"/", "/a", "/a?x=1", "/b", "/lost", "/old/drying", "/old/nothing", "/over/here", "/seeds", "/seeds/drying", "/tea", "/tea/green"}
	for name, c := range map[string]struct {
		pages []string
		rows  func(rows []redirect.Row) []redirect.Row
		again int
	}{
		"nothing":                        {live, nil, 0},
		"a page is new":                  {append(live, "/new"), nil, 0},
		"a page takes what was lost":     {append(live, "/lost"), nil, 1},
		"a page goes":                    {[]string{"/", "/tea", "/seeds", "/seeds/drying"}, nil, 1},
		"a page below a prefix row goes": {[]string{"/", "/tea", "/tea/green", "/seeds"}, nil, 4}, // /seeds/drying, /b, and both below /old
		"what two rows lead to goes":     {[]string{"/", "/seeds", "/seeds/drying"}, nil, 5},      // /tea, /tea/green, /a twice, /over/here
		"a row more":                     {live, func(r []redirect.Row) []redirect.Row { return append(r, row("/lost", "/tea", 301, redirect.Exact)) }, 1},
		"a row less":                     {live, func(r []redirect.Row) []redirect.Row { return r[1:] }, 2},
		"another code":                   {live, func(r []redirect.Row) []redirect.Row { r[1].Code = 302; return r }, 1},
		"a prefix row less":              {live, func(r []redirect.Row) []redirect.Row { return append(r[:2:2], r[3]) }, 2},
		"in another order":               {live, func(r []redirect.Row) []redirect.Row { slices.Reverse(r); return r }, 0},
		"a row over everything":          {live, func(r []redirect.Row) []redirect.Row { return append(r, row("/", "/tea", 302, redirect.Branch)) }, len(addresses)},
	} {
		t.Run(name, func(t *testing.T) {
			before, err := redirect.NewTable(table, pages(t, live...))
			require.NoError(t, err)
			rows := slices.Clone(table)
			if c.rows != nil {
				rows = c.rows(rows)
			}
			after, err := redirect.NewTable(rows, pages(t, c.pages...))
			require.NoError(t, err)
			got := redirect.NewReplay(before, addresses).Over(after, nil)
			require.Equal(t, c.again, got.Again)
			sameProof(t, prove(after, addresses), got)
		})
	}
}

func sameProof(t require.TestingT, want, got redirect.Proof) {
	want.Again, got.Again = 0, 0
	require.Equal(t, want, got)
}

// Whatever two tables and sitemaps there are, asking what can differ says the same as asking all.
func TestReplayOfAnything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		live := author.Small(t, rapid.IntRange(0, 12).Draw(t, "entries"))
		next := live
		for range rapid.IntRange(0, 4).Draw(t, "edits") {
			if edited := author.Edit(t, next); len(edited.Clashes()) == 0 {
				next = edited
			}
		}
		seen := map[string]bool{"/nowhere": true, "/": true}
		var ids []string
		for _, tree := range []*sitemap.Tree{live, next} {
			for i := range tree.Len() {
				ids = append(ids, tree.Ref(i).ID)
				if a := tree.Address(i); a != "" {
					seen[a] = true
				}
			}
		}
		froms := append(slices.Sorted(maps.Keys(seen)), "/o", "/o/p", "/o/p/q", "/r", "/r/s", "/page.php?id=1", "//old.quillmere.example/", "//old.quillmere.example/o", "//old.quillmere.example/o/p", "//old.quillmere.example/r?id=1")
		first := loose(t, froms, ids, nil)
		second := loose(t, froms, ids, first)
		for _, from := range froms {
			seen[from], seen[from+"?a=b"] = true, true
			if strings.HasPrefix(from, "//") {
				continue
			}
			for _, base := range []string{"/o", "/r", "/o/p", "//old.quillmere.example", "//old.quillmere.example/o"} {
				seen[address.Join(base, from)] = true
			}
		}
		addresses := slices.Sorted(maps.Keys(seen))
		before, err := redirect.NewTable(first, live)
		require.NoError(t, err)
		after, err := redirect.NewTable(second, next)
		require.NoError(t, err)
		sameProof(t, prove(after, addresses), redirect.NewReplay(before, addresses).Over(after, nil))
		but := map[string]bool{addresses[rapid.IntRange(0, len(addresses)-1).Draw(t, "but")]: true}
		rest := slices.DeleteFunc(slices.Clone(addresses), func(a string) bool { return but[a] })
		sameProof(t, prove(after, rest), redirect.NewReplay(before, addresses).Over(after, but))
	})
}

// loose draws rows that may lead anywhere and hide each other, some of them from other rows.
func loose(t *rapid.T, froms, ids []string, others []redirect.Row) (rows []redirect.Row) {
	taken := map[string]bool{}
	add := func(r redirect.Row) {
		if key := fmt.Sprint(r.From, r.Match == redirect.Exact); !taken[key] {
			taken[key] = true
			rows = append(rows, r)
		}
	}
	for _, r := range others {
		switch rapid.IntRange(0, 5).Draw(t, "kept") {
		case 0:
		case 1:
			r.Code = redirect.Gone
			add(r)
		default:
			add(r)
		}
	}
	for range rapid.IntRange(0, 6).Draw(t, "rows") {
		r := redirect.Row{
			From: rapid.SampledFrom(froms).Draw(t, "from"), Code: rapid.SampledFrom([]int{301, 302, 410}).Draw(t, "code"),
			Match: rapid.SampledFrom([]redirect.Match{redirect.Exact, redirect.Prefix, redirect.Branch}).Draw(t, "match"),
		}
		switch rapid.IntRange(0, 3).Draw(t, "to") {
		case 0:
			r.To = redirect.Target{Address: rapid.SampledFrom(froms).Draw(t, "address")}
		case 1:
			r.To = redirect.Target{URL: "https://elsewhere.quillmere.example/x"}
		default:
			r.To = redirect.Target{Entry: rapid.SampledFrom(ids).Draw(t, "entry")}
		}
		add(r)
	}
	return rows
}
