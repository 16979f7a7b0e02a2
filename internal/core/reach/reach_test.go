package reach_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"candlepath/internal/core/reach"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/menu"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

func ways(r *reach.Reach) map[string]string {
	out := map[string]string{}
	for i := range r.Tree.Len() {
		if r.Tree.Served(i) == "" {
			continue
		}
		var ids []string
		for _, s := range r.Way(i) {
			ids = append(ids, r.Tree.Ref(s.Entry).ID)
		}
		out[r.Tree.Ref(i).ID] = strings.Join(ids, ">")
	}
	return out
}

// searched is a plain breadth-first search over all edges, which keeps for each
// page the smallest of its shortest ways.
func searched(t *sitemap.Tree, edges func(i int) []int) map[string]string {
	out := map[string]string{}
	best := map[int][]string{}
	for i := range t.Len() {
		if t.Served(i) != "" {
			out[t.Ref(i).ID] = ""
		}
	}
	if t.Home() == sitemap.None {
		return out
	}
	layer := map[int][]string{t.Home(): {t.Ref(t.Home()).ID}}
	for len(layer) > 0 {
		for i, way := range layer {
			best[i] = way
			out[t.Ref(i).ID] = strings.Join(way, ">")
		}
		next := map[int][]string{}
		for i, way := range layer {
			for _, j := range edges(i) {
				if best[j] != nil || t.Served(j) == "" {
					continue
				}
				longer := append(slices.Clone(way), t.Ref(j).ID)
				if next[j] == nil || slices.Compare(longer, next[j]) < 0 {
					next[j] = longer
				}
			}
		}
		layer = next
	}
	return out
}

func somewhere(t *rapid.T) (*sitemap.Tree, []reach.Link) {
	var author sitemaptest.Author
	tree := author.Small(t, rapid.IntRange(1, 14).Draw(t, "entries"))
	for range rapid.IntRange(0, 8).Draw(t, "edits") {
		tree = author.Edit(t, tree)
	}
	var links []reach.Link
	if tree.Len() > 0 {
		for range rapid.IntRange(0, 12).Draw(t, "links") {
			links = append(links, reach.Link{From: rapid.IntRange(0, tree.Len()-1).Draw(t, "from"), To: rapid.IntRange(0, tree.Len()-1).Draw(t, "to")})
		}
	}
	return tree, links
}

// takenOver gives menus that an editor worked on, often none.
func takenOver(t *rapid.T, tree *sitemap.Tree) menu.Owns {
	owns := menu.Owns{}
	ids := menu.For(tree, nil).IDs()
	if tree.Len() == 0 {
		return owns
	}
	for n := range rapid.IntRange(0, 8).Draw(t, "menu acts") {
		id := rapid.SampledFrom(ids).Draw(t, "menu")
		l := menu.For(tree, owns).Layout(id)
		entry := tree.Ref(rapid.IntRange(0, tree.Len()-1).Draw(t, "item")).ID
		own, err := menu.Overrides{}, error(nil)
		switch rapid.SampledFrom([]string{"add", "out", "step", "levels"}).Draw(t, "menu act") {
		case "add":
			own, err = l.Add(fmt.Sprintf("+%d", n), menu.ItemOverride{Kind: rapid.SampledFrom([]menu.Kind{menu.AnEntry, menu.Children}).Draw(t, "kind"), Entry: entry}, "", "")
		case "out":
			own, err = l.LeaveOut(entry)
		case "step":
			own, err = l.Step(entry, rapid.SampledFrom([]sitemap.Step{sitemap.Up, sitemap.In, sitemap.Out}).Draw(t, "step"))
		case "levels":
			own, err = l.Set(menu.Settings{Levels: rapid.IntRange(menu.Nothing, 3).Draw(t, "levels")})
		}
		if err == nil {
			owns[id] = own
		}
	}
	return owns
}

func linked(t *sitemap.Tree, links []reach.Link, i int) (out []int) {
	for _, l := range links {
		if l.From == i {
			to := l.To
			if t.Ref(to).Kind == sitemap.Reference {
				to = t.Referred(to)
			}
			if to != sitemap.None {
				out = append(out, to)
			}
		}
	}
	return out
}

// What is found is what a reader can click: every address in the menus that the
// reader site shows on a page, and its links.
func TestReachIsWhatMenusAndLinksShow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tree, links := somewhere(t)
		owns := takenOver(t, tree)
		m := menu.For(tree, owns)
		edges := func(i int) []int {
			out := linked(tree, links, i)
			var add func(items []menu.Item)
			add = func(items []menu.Item) {
				for _, it := range items {
					if p := tree.PageAt(strings.TrimSuffix(it.Href, "/")); p != sitemap.None {
						out = append(out, p)
					} else if p := tree.PageAt(it.Href); p != sitemap.None {
						out = append(out, p)
					}
					add(it.Below)
				}
			}
			add(m.Top(i))
			head, side := m.Side(i)
			add([]menu.Item{head})
			add(side)
			add(m.Crumbs(i))
			add(m.Foot(i))
			return out
		}
		require.Equal(t, searched(tree, edges), ways(reach.From(tree, links, reach.Options{Menus: menu.For(tree, owns)})))
		if len(owns) == 0 {
			require.Equal(t, searched(tree, edges), ways(reach.From(tree, links, reach.Options{})))
		}
	})
}

// With menus of a given depth and side menus of children alone, as the command
// line has it.
func TestReachOfBareMenus(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tree, links := somewhere(t)
		depth := rapid.IntRange(1, 3).Draw(t, "depth")
		var shown func(i, levels int, group bool) []int
		shown = func(i, levels int, group bool) (out []int) {
			for c := range tree.Children(i) {
				e := tree.Ref(c)
				switch {
				case e.Unlisted || e.Withdrawn:
				case e.Kind == sitemap.Group && !group:
					out = append(out, shown(c, levels, levels < 0)...)
				case e.Kind == sitemap.Group:
				default:
					to := c
					if e.Kind == sitemap.Reference {
						to = tree.Referred(c)
					}
					if to != sitemap.None {
						out = append(out, to)
					}
					if levels > 1 {
						out = append(out, shown(c, levels-1, false)...)
					}
				}
			}
			return out
		}
		edges := func(i int) []int {
			out := append(linked(tree, links, i), shown(i, 1, false)...)
			if tree.Home() != sitemap.None {
				out = append(out, shown(tree.Home(), depth, false)...)
			}
			return out
		}
		require.Equal(t, searched(tree, edges), ways(reach.From(tree, links, reach.Options{MenuDepth: depth, OnlyChildren: true})))
	})
}

func garden(t testing.TB) *sitemap.Tree {
	home, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"}})
	require.NoError(t, err)
	n := 0
	got, err := sheet.Paste(home, "Grounds\n\tCompost\n\t\tHeaps\n\t\t\tForks\nVisitors", "", func() string { n++; return fmt.Sprint("e", n) })
	require.NoError(t, err)
	return got.Tree
}

func TestSummaryAndSavings(t *testing.T) {
	tree := garden(t)
	links := []reach.Link{{From: tree.Find("e5"), To: tree.Find("e4"), Words: "Forks"}}
	r := reach.From(tree, links, reach.Options{})
	var told []string
	for _, s := range r.Way(tree.Find("e4")) {
		told = append(told, tree.Ref(s.Entry).Title+" by "+s.Via.Words()+" "+s.Words)
	}
	require.Equal(t, []string{"Home by home ", "Visitors by top menu ", "Forks by link Forks"}, told)
	visits := map[string]int{"e3": 100, "e2": 1, "e1": 1, "e5": 0}
	count := func(i int) int { return visits[tree.Ref(i).ID] }
	s := r.Summarise(count, 2)
	require.Equal(t, []int{1, 2, 2, 1}, s.Spread)
	require.Equal(t, []int{tree.Find("e3")}, s.TooFar)
	require.Equal(t, []int{tree.Find("e3")}, s.BusyFar)
	require.Equal(t, []int{tree.Find("e5")}, s.QuietFront)
	require.InDelta(t, 303.0/102, s.Weighted, 0.001)
	order := []int{tree.Find("e5"), tree.Find("e3"), tree.Home()}
	r.Clicks[tree.Home()] = reach.Never // as if
	slices.SortFunc(order, r.ByClicks)
	r.Clicks[tree.Home()] = 0
	require.Equal(t, []int{tree.Home(), tree.Find("e3"), tree.Find("e5")}, order, "what no click leads to is the farthest")
	best := r.Savings(links, count, reach.Options{}, 5)
	require.Equal(t, []reach.Saving{{tree.Find("e3"), 200, 1}, {tree.Find("e2"), 101, 2}}, best[:2])

	moved, err := tree.Move("e3", sitemap.Spot{})
	require.NoError(t, err)
	require.Equal(t, reach.Moved{Nearer: 1}, reach.Compare(r, reach.From(moved, []reach.Link{{From: moved.Find("e5"), To: moved.Find("e4")}}, reach.Options{})))
	alone, err := sitemap.New([]sitemap.Entry{{ID: "x", Title: "X", Slug: "x", Kind: sitemap.Page, Rank: "a"}})
	require.NoError(t, err)
	require.Equal(t, []int{reach.Never}, reach.From(alone, nil, reach.Options{}).Clicks, "without home")
	require.Empty(t, reach.From(alone, nil, reach.Options{}).Way(0))
}

// Reach of 10,000 pages with 200,000 links, beside one bare breadth-first pass
// over the same links.
func BenchmarkReach(b *testing.B) {
	const pages, count = 10_000, 200_000
	list := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"}}
	for i := range pages - 1 {
		e := sitemap.Entry{ID: fmt.Sprint("p", i), Title: fmt.Sprint("Page ", i), Slug: fmt.Sprint("page-", i), Kind: sitemap.Page}
		if i >= 10 {
			e.Parent = fmt.Sprint("p", i/10)
		}
		list = append(list, e)
	}
	tree, err := sitemap.Ranked(list)
	require.NoError(b, err)
	r := rand.New(rand.NewPCG(1, 2))
	links := make([]reach.Link, count)
	next := make([][]int32, pages)
	for k := range links {
		links[k] = reach.Link{From: r.IntN(pages), To: r.IntN(pages)}
		next[links[k].From] = append(next[links[k].From], int32(links[k].To))
	}
	b.Run("with menus and ways", func(b *testing.B) {
		for b.Loop() {
			reach.From(tree, links, reach.Options{})
		}
	})
	b.Run("bare pass", func(b *testing.B) {
		for b.Loop() {
			clicks := make([]int32, pages)
			queue := append(make([]int32, 0, pages), 0)
			for k := 0; k < len(queue); k++ {
				for _, j := range next[queue[k]] {
					if clicks[j] == 0 && j != 0 {
						clicks[j] = clicks[queue[k]] + 1
						queue = append(queue, j)
					}
				}
			}
		}
	})
}

// What a tile saves is what a whole search with it says, however links, menus and
// the tree make ways.
func TestSavingsAreThoseOfAWholeSearch(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tree, links := somewhere(t)
		o := reach.Options{Menus: menu.For(tree, takenOver(t, tree))}
		home := tree.Home()
		if home == sitemap.None {
			return
		}
		r := reach.From(tree, links, o)
		count := func(i int) int { return 1 + i%7 }
		for _, s := range r.Savings(links, count, o, 100) {
			with := reach.From(tree, append(slices.Clone(links), reach.Link{From: home, To: s.Entry, Via: reach.Tile}), o)
			want := reach.Saving{Entry: s.Entry}
			for k, now := range with.Clicks {
				was := r.Clicks[k]
				if was == now {
					continue
				}
				want.Nearer++
				if was == reach.Never {
					was = now + 1
				}
				want.Clicks += count(k) * (was - now)
			}
			require.Equal(t, want, s)
		}
	})
}
