package menu_test

import (
	"fmt"
	"strings"
	"testing"

	"candlepath/internal/core/menu"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

func planted(t *testing.T, list string) *sitemap.Tree {
	home, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"}})
	require.NoError(t, err)
	n := 0
	got, err := sheet.Paste(home, list, "", func() string { n++; return fmt.Sprint("e", n) })
	require.NoError(t, err)
	return got.Tree
}

func TestIndex(t *testing.T) {
	tree := planted(t, "Öffnungszeiten\nopen days\nBed 10\nBed 9\n\tContacts\nContacts\nСад\n3 ways in\n«Quoted»\nHidden\n\tBelow hidden")
	for i := range tree.Len() {
		if e := tree.At(i); e.Title == "Hidden" {
			var err error
			tree, err = tree.Change(e.ID, func(e *sitemap.Entry) { e.Unlisted = true })
			require.NoError(t, err)
		}
	}
	var got []string
	for _, l := range menu.For(tree, nil).Index() {
		for _, p := range l.Pages {
			got = append(got, strings.TrimSpace(l.Name+": "+p.Title+" "+p.Within))
		}
	}
	require.Equal(t, []string{
		"B: Bed 9", "B: Bed 10", "C: Contacts Bed 9", "C: Contacts Home", "H: Home", "O: Öffnungszeiten", "O: open days", "Q: «Quoted»", "С: Сад", "0–9: 3 ways in",
	}, got)
}

// Index and overview show what menus may show, once, and nothing else.
func TestListsShowWhatMenusShow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 9)
		for range rapid.IntRange(0, 8).Draw(t, "edits") {
			tree = author.Edit(t, tree)
		}
		m := menu.For(tree, nil)
		want := map[string]int{}
		for i := range tree.Len() {
			if tree.Served(i) != "" && m.Shown(i) {
				want[m.Href(i)]++
			}
		}
		got := map[string]int{}
		for _, l := range m.Index() {
			for _, p := range l.Pages {
				got[p.Href]++
			}
		}
		require.Equal(t, want, got)

		all := map[string]bool{}
		var add func([]menu.Item)
		add = func(items []menu.Item) {
			for _, it := range items {
				all[it.Href] = true
				add(it.Below)
			}
		}
		add(m.Overview(99))
		for href := range want {
			require.True(t, all[href] || href == "/", href)
		}
	})
}

// tenThousand is a site of ten branches, opened tenfold at each level.
func tenThousand(b *testing.B) *sitemap.Tree {
	list := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}}
	for i := range 10_000 {
		e := sitemap.Entry{ID: fmt.Sprint("p", i), Title: fmt.Sprint("Page ", i), Slug: fmt.Sprint("page-", i), Kind: sitemap.Page}
		if i >= 10 {
			e.Parent = fmt.Sprint("p", i/10)
		}
		list = append(list, e)
	}
	tree, err := sitemap.Ranked(list)
	require.NoError(b, err)
	return tree
}

// All menus of one page for one reader, in a site of 10,000 entries: as computed,
// with all of them taken over, and what taking them over costs the first page of
// an edition.
func BenchmarkMenusOfAPage(b *testing.B) {
	tree := tenThousand(b)
	page := tree.Find("p7777")
	own := menu.Owns{menu.Top: {Levels: 2, Order: map[string][]string{"": {"p9", "p3"}}}, menu.Side("p7"): {Order: map[string][]string{"": {"p79", "p71"}}}, menu.Foot: {Items: map[string]menu.ItemOverride{}}}
	for i := range 60 {
		own[menu.Foot].Items[fmt.Sprint("+", i)] = menu.ItemOverride{Kind: menu.AnEntry, Entry: fmt.Sprint("p", 100+i)}
	}
	all := func(m *menu.Maker) {
		m.Top(page)
		m.Side(page)
		m.Foot(page)
		m.Crumbs(page)
	}
	for _, c := range []struct {
		name  string
		own   menu.Owns
		fresh bool
	}{{"computed", nil, false}, {"taken-over", own, false}, {"first-page", own, true}} {
		b.Run(c.name, func(b *testing.B) {
			m := menu.For(tree, c.own)
			for b.Loop() {
				if c.fresh {
					m = menu.For(tree, c.own)
				}
				all(m)
			}
		})
	}
}
