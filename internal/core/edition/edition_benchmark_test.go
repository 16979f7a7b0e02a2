package edition_test

import (
	"fmt"
	"slices"
	"testing"

	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// wide is a tree of n entries, ten below each.
func wide(n int, move bool) *sitemap.Tree {
	list := []sitemap.Entry{{ID: "e0", Title: "Home", Fixed: "/", Kind: sitemap.Page}}
	for i := 1; i < n; i++ {
		e := sitemap.Entry{ID: fmt.Sprintf("e%d", i), Title: fmt.Sprintf("Entry %d", i), Slug: fmt.Sprintf("entry-%d", i), Kind: sitemap.Page}
		if p := (i - 1) / 10; p > 0 {
			e.Parent = fmt.Sprintf("e%d", p)
		}
		if move && i == 25 {
			e.Parent = "e3"
		}
		list = append(list, e)
	}
	t, err := sitemap.New(list)
	if err != nil {
		panic(err)
	}
	return t
}

// BenchmarkAgainstSort tells diff, plan and resolving of 100,000 entries beside
// sorting their addresses, interleaved in one run.
func BenchmarkAgainstSort(b *testing.B) {
	const n = 100_000
	live, next := wide(n, false), wide(n, true)
	paths := make([]string, 0, n)
	for i := range live.Len() {
		paths = append(paths, live.Served(i))
	}
	for i := range paths {
		j := (i*7919 + 13) % len(paths)
		paths[i], paths[j] = paths[j], paths[i]
	}
	live.PageAt("/")
	next.PageAt("/")
	table, err := redirect.NewTable(nil, live)
	if err != nil {
		b.Fatal(err)
	}
	for range 5 {
		b.Run("sort", func(b *testing.B) {
			for b.Loop() {
				slices.Sort(slices.Clone(paths))
			}
		})
		b.Run("diff", func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				change.Diff(live, next)
			}
		})
		b.Run("plan", func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				if _, err := redirect.Plan(redirect.Input{Live: live, Next: next}); err != nil {
					b.Fatal(err)
				}
			}
		})
		b.Run("resolve-100000", func(b *testing.B) {
			for b.Loop() {
				for _, p := range paths {
					table.Resolve(p)
				}
			}
		})
	}
}
