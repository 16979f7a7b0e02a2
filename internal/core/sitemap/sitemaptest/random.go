// Package sitemaptest reads sitemaps for tests and makes random ones and edits
// for property tests.
package sitemaptest

import (
	"encoding/csv"
	"fmt"
	"io"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// Parsed reads a sitemap written as CSV that has nothing to complain about.
func Parsed(t testing.TB, from io.Reader) *sitemap.Tree {
	t.Helper()
	rows, err := csv.NewReader(from).ReadAll()
	require.NoError(t, err)
	var records []sheet.Record
	for i, r := range rows {
		records = append(records, sheet.Record{Line: i + 1, Cells: r})
	}
	s, err := sheet.Read(records)
	require.NoError(t, err)
	require.Empty(t, s.Findings)
	return s.Tree
}

// titles are few, so that slugs clash often.
var titles = []string{"Alpine house", "Bulbs", "Compost", "Drying room", "Estate", "Fungi", "Gates", "Herbarium"}

// Author makes edits one after another, with ids of its own.
type Author struct{ made int }

// Small gives a tree of a home page and n random entries.
func (a *Author) Small(t *rapid.T, n int) *sitemap.Tree {
	tree, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "i"}})
	if err != nil {
		t.Fatal(err)
	}
	for range n {
		tree = a.add(t, tree)
	}
	return tree
}

// Edit makes one random edit. Edits that the tree refuses leave it as it is.
func (a *Author) Edit(t *rapid.T, tree *sitemap.Tree) *sitemap.Tree {
	if tree.Len() < 2 {
		return a.add(t, tree)
	}
	id := tree.At(rapid.IntRange(0, tree.Len()-1).Draw(t, "entry")).ID
	var next *sitemap.Tree
	var err error
	switch rapid.SampledFrom([]string{"add", "add", "move", "move", "retitle", "slug", "kind", "remove", "withdraw", "fix"}).Draw(t, "act") {
	case "add":
		return a.add(t, tree)
	case "move":
		next, err = tree.Move(id, spot(t, tree))
	case "retitle":
		next, err = tree.Retitle(id, title(t))
	case "slug":
		next, err = tree.Change(id, func(e *sitemap.Entry) {
			if e.Kind.HoldsChildren() && e.Fixed == "" {
				e.Slug, e.SlugHeld = rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "slug"), true
			}
		})
	case "kind":
		next, err = tree.Change(id, func(e *sitemap.Entry) { turn(t, tree, e) })
	case "remove":
		next, err = tree.Remove(id)
	case "withdraw":
		next, err = tree.Change(id, func(e *sitemap.Entry) { e.Withdrawn = e.Kind.IsPage() && !e.Withdrawn })
	case "fix":
		next, err = tree.Change(id, func(e *sitemap.Entry) {
			if at := rapid.SampledFrom([]string{"", "/old", "/old/x"}).Draw(t, "fixed"); e.Kind.IsPage() && tree.ClaimedBy(at) == sitemap.None {
				e.Fixed = at
			}
		})
	}
	if err != nil {
		return tree
	}
	return next
}

func turn(t *rapid.T, tree *sitemap.Tree, e *sitemap.Entry) {
	e.Kind = rapid.SampledFrom(sitemap.Kinds()).Draw(t, "kind")
	switch e.Kind {
	case sitemap.Reference:
		e.Target = tree.At(rapid.IntRange(0, tree.Len()-1).Draw(t, "target")).ID
	case sitemap.Outside:
		e.Target = "https://weather.quillmere.example/" + e.ID
	case sitemap.Group:
		e.Slug = rapid.SampledFrom([]string{"", e.Slug}).Draw(t, "segment")
	}
	e.Withdrawn = e.Withdrawn && e.Kind.IsPage()
}

func (a *Author) add(t *rapid.T, tree *sitemap.Tree) *sitemap.Tree {
	a.made++
	next, err := tree.Add(sitemap.Entry{ID: fmt.Sprintf("n%d", a.made), Title: title(t)}, spot(t, tree))
	if err != nil {
		return tree
	}
	return next
}

func title(t *rapid.T) string { return rapid.SampledFrom(titles).Draw(t, "title") }

func spot(t *rapid.T, tree *sitemap.Tree) sitemap.Spot {
	p := rapid.IntRange(0, tree.Len()-1).Draw(t, "parent")
	s := sitemap.Spot{Parent: tree.At(p).ID}
	if p == tree.Home() {
		s.Parent = ""
	}
	var after []string
	for c := range tree.Children(p) {
		after = append(after, tree.At(c).ID)
	}
	if len(after) > 0 && rapid.Bool().Draw(t, "notFirst") {
		s.After = rapid.SampledFrom(after).Draw(t, "after")
	}
	return s
}
