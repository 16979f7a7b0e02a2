package sitemap_test

import (
	"fmt"
	"slices"
	"strconv"
	"testing"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// flat is a table of n entries on one level, all with one title or each with its
// own.
func flat(n int, same bool) []sheet.Record {
	records := []sheet.Record{{Line: 1, Cells: []string{"level", "title"}}}
	for i := range n {
		title := "Entry"
		if !same {
			title = fmt.Sprintf("Entry %d", (i*7919+13)%n)
		}
		records = append(records, sheet.Record{Line: i + 2, Cells: []string{"1", title}})
	}
	return records
}

// BenchmarkLarge tells what 200,000 entries side by side, and 64 levels, cost from
// a table to the preview, beside sorting as many titles. Run it with -benchtime 1x.
func BenchmarkLarge(b *testing.B) {
	const n = sitemap.MaxRows
	own, same := flat(n, false), flat(n, true)
	var deep []sheet.Record
	for i, r := range flat(n-1, false) {
		if i > 0 {
			r.Cells = []string{strconv.Itoa((i-1)%sitemap.MaxLevels + 1), r.Cells[1]}
		}
		deep = append(deep, r)
	}
	titles := make([]string, n)
	for i := range titles {
		titles[i] = own[i+1].Cells[1]
	}
	read := func(b *testing.B, records []sheet.Record) *sheet.Sheet {
		s, err := sheet.Read(records)
		if err != nil {
			b.Fatal(err)
		}
		return s
	}
	id := 0
	newID := func() string { id++; return strconv.Itoa(id) }
	home, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "i"}})
	if err != nil {
		b.Fatal(err)
	}
	preview := func(b *testing.B, t *sitemap.Tree, s *sheet.Sheet, way sheet.ImportMode) *sitemap.Tree {
		got, err := sheet.Import(t, s, way, "", nil, newID)
		if err != nil {
			b.Fatal(err)
		}
		return got.Tree
	}
	b.Run("sort", func(b *testing.B) {
		for b.Loop() {
			slices.Sort(slices.Clone(titles))
		}
	})
	for name, records := range map[string][]sheet.Record{"own-titles": own, "one-title": same, "64-levels": deep} {
		given := read(b, records)
		b.Run("read/"+name, func(b *testing.B) {
			for b.Loop() {
				read(b, records)
			}
		})
		var next *sitemap.Tree
		b.Run("preview/"+name, func(b *testing.B) {
			for b.Loop() {
				next = preview(b, home, given, sheet.Below)
			}
		})
		b.Run("again/"+name, func(b *testing.B) { // behind as many as there are already
			half := read(b, records[:n/2])
			for b.Loop() {
				preview(b, preview(b, home, half, sheet.Below), given, sheet.Update)
			}
		})
		longest := 0
		for i := range next.Len() {
			longest = max(longest, len(next.Ref(i).Rank))
		}
		if longest > 40 {
			b.Errorf("%s: a rank has %d letters", name, longest)
		}
	}
}
