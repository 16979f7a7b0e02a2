// Package reach computes how readers get from home to every page: how many
// clicks away it is, and what is clicked on the way. It is a breadth-first search
// (Moore, The shortest path through a maze, 1959) over what a reader can click:
// the top menu, the side menu, the foot menu, the breadcrumb, trails, and the links,
// tiles and lists of pages.
package reach

import (
	"cmp"
	"slices"

	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
)

// Never is the number of clicks to a page that no click leads to.
const Never = -1

// Via is what is clicked to get to a page.
type Via uint8

// What can be clicked.
const (
	Home Via = iota
	TopMenu
	SideMenu
	Crumb
	Text
	Tile
	List
	Trail
	FootMenu
)

// Words names what is clicked.
func (v Via) Words() string {
	return [...]string{"home", "top menu", "side menu", "breadcrumb", "link", "tile", "list", "trail", "foot menu"}[v]
}

// Link is a link or tile on a page, an entry of a list in it, or a step of a trail, by
// indices into the tree.
type Link struct {
	From, To int
	Words    string // on it
	Via      Via    // Text, unless it says what else
}

// Options of a search. The zero value is how the reader site is.
type Options struct {
	MenuDepth int // levels that the top menu shows; 0: 1; below 0: there is none

	// OnlyChildren makes the side menu of a page show what is right below it, not
	// the whole branch opened to the page.
	OnlyChildren bool

	// Menus are what editors took over; nil: the menus are as computed.
	Menus *menu.Maker
}

// Reach is what a search found, by index of the tree.
type Reach struct {
	Tree   *sitemap.Tree
	Clicks []int

	from  []int32
	via   []Via
	words []int32 // index into links; -1: none
	links []Link
}

// Step is one page on the way, and what was clicked to get to it.
type Step struct {
	Entry int
	Via   Via
	Words string // of a link or tile
}

// From searches from home. Of several ways with as few clicks the one with the
// smaller sequence of ids is found. Without home nothing is reached.
func From(t *sitemap.Tree, links []Link, o Options) *Reach {
	s := newSearch(t, links, o)
	if h := t.Home(); h != sitemap.None {
		s.reach(h, sitemap.None, Home, -1, 0)
		s.run(1)
	}
	return s.Reach
}

type search struct {
	*Reach
	Options
	order    []int32 // rank of each entry's id
	lead     []int32 // the page that each entry leads to, or none
	starts   []int32 // of each entry's links in sorted
	sorted   []int32 // links by the page that they stand on
	to       []int32 // where they lead
	revealed []bool  // the side menu below it was seen
	layer    []int
	fresh    []int // reached from the page at hand
	next     []int

	nearer *nearer // of a search that only looks for what one more link brings nearer
}

func newSearch(t *sitemap.Tree, links []Link, o Options) *search {
	n := t.Len()
	r := &Reach{Tree: t, Clicks: make([]int, n), from: make([]int32, n), via: make([]Via, n), words: make([]int32, n)}
	for i := range r.Clicks {
		r.Clicks[i] = Never
	}
	s := &search{Reach: r, Options: o, order: make([]int32, n), starts: make([]int32, n+1), revealed: make([]bool, n)}
	s.MenuDepth = max(cmp.Or(o.MenuDepth, 1), 0)
	byID := make([]int, n)
	for i := range byID {
		byID[i] = i
	}
	slices.SortFunc(byID, func(a, b int) int { return cmp.Compare(t.Ref(a).ID, t.Ref(b).ID) })
	for rank, i := range byID {
		s.order[i] = int32(rank)
	}
	s.lead = make([]int32, n)
	for i := range s.lead {
		to := i
		if t.Ref(i).Kind == sitemap.Reference {
			to = t.Referred(i)
		}
		if to != sitemap.None && t.Served(to) == "" {
			to = sitemap.None
		}
		s.lead[i] = int32(to)
	}
	s.sortLinks(links)
	return s
}

// sortLinks brings the links of each page together, in their order: a counting
// sort.
func (s *search) sortLinks(links []Link) {
	s.links, s.sorted, s.to = links, make([]int32, len(links)), make([]int32, len(links))
	for i := range links {
		s.starts[links[i].From+1]++
	}
	for i := range len(s.starts) - 1 {
		s.starts[i+1] += s.starts[i]
	}
	at := slices.Clone(s.starts)
	for i := range links {
		k := at[links[i].From]
		at[links[i].From]++
		s.sorted[k], s.to[k] = int32(i), s.lead[links[i].To]
	}
}

// reach notes the first way to the page that an entry leads to.
func (s *search) reach(entry, from int, via Via, words int32, clicks int) {
	to := int(s.lead[entry])
	if to == sitemap.None || s.isNear(to, clicks) {
		return
	}
	if s.nearer != nil {
		s.nearer.pages = append(s.nearer.pages, was{to, s.Clicks[to]})
	}
	s.Clicks[to], s.from[to], s.via[to], s.words[to] = clicks, int32(from), via, words
	s.fresh = append(s.fresh, to)
}

// isNear tells whether a page was reached with as few clicks already.
func (s *search) isNear(page, clicks int) bool {
	return s.Clicks[page] != Never && s.Clicks[page] <= clicks
}

// run goes on layer by layer. The pages of a layer stand in the order of their
// ways, so the first that leads to a page is on the smallest.
func (s *search) run(clicks int) {
	s.layer, s.fresh = append(s.layer[:0], s.fresh...), s.fresh[:0]
	for ; len(s.layer) > 0; clicks++ {
		s.next = s.next[:0]
		for _, page := range s.layer {
			s.leave(page, clicks)
			slices.SortFunc(s.fresh, func(a, b int) int { return int(s.order[a]) - int(s.order[b]) })
			s.next, s.fresh = append(s.next, s.fresh...), s.fresh[:0]
		}
		s.layer, s.next = s.next, s.layer
	}
}

// leave reaches what can be clicked on a page. The top menu is the same on all
// pages, so whatever it shows is reached from home.
func (s *search) leave(page, clicks int) {
	home := page == s.Tree.Home()
	switch {
	case home && s.Menus != nil && s.Menus.TakenOver(menu.Top):
		s.items(s.Menus.Top(page), page, TopMenu, clicks)
	case home && s.MenuDepth > 0:
		s.menu(page, page, s.MenuDepth, TopMenu, clicks)
	}
	if s.OnlyChildren {
		s.menu(page, page, 1, SideMenu, clicks)
	} else {
		s.branch(page, clicks)
	}
	for k := s.starts[page]; k < s.starts[page+1]; k++ {
		to := s.to[k]
		if to == sitemap.None || s.isNear(int(to), clicks) {
			continue
		}
		s.reach(int(to), page, cmp.Or(s.links[s.sorted[k]].Via, Text), s.sorted[k], clicks)
	}
	if home && s.Menus != nil {
		s.items(s.Menus.Foot(page), page, FootMenu, clicks)
	}
}

// items reaches what a menu that was taken over shows.
func (s *search) items(items []menu.Item, page int, via Via, clicks int) {
	for _, it := range items {
		if it.Href != "" && it.Entry != sitemap.None {
			s.reach(it.Entry, page, via, -1, clicks)
		}
		s.items(it.Below, page, via, clicks)
	}
}

// menu reaches the entries below one, to so many levels. A group shows what is
// below it with itself; what is not listed, and all below it, is left out.
func (s *search) menu(page, below, levels int, via Via, clicks int) {
	for c := range s.Tree.Children(below) {
		e := s.Tree.Ref(c)
		if e.Unlisted || e.Withdrawn {
			continue
		}
		if e.Kind == sitemap.Group {
			s.menu(page, c, levels, via, clicks)
			continue
		}
		s.reach(c, page, via, -1, clicks)
		if levels > 1 {
			s.menu(page, c, levels-1, via, clicks)
		}
	}
}

// branch reaches what the side menu shows on a page: the branch that it is in,
// opened down to it; and what its breadcrumb does. What another page of the
// branch showed before is not looked at again.
func (s *search) branch(page, clicks int) {
	if page == s.Tree.Home() {
		return
	}
	var way []int // from the page up to the top
	for p := page; p != sitemap.None && p != s.Tree.Home(); p = s.Tree.Parent(p) {
		way = append(way, p)
	}
	if s.Menus != nil && s.Menus.OwnSide(page) {
		_, items := s.Menus.Side(page)
		s.reach(way[len(way)-1], page, SideMenu, -1, clicks)
		s.items(items, page, SideMenu, clicks)
	} else {
		s.opened(page, way, clicks)
	}
	for _, a := range way[1:] {
		s.reach(a, page, Crumb, -1, clicks)
	}
	s.reach(s.Tree.Home(), page, Crumb, -1, clicks)
}

// opened reaches what the computed side menu shows, opened down the way.
func (s *search) opened(page int, way []int, clicks int) {
	for k, a := range slices.Backward(way) {
		if k < len(way)-1 && (s.Tree.Ref(a).Unlisted || s.Tree.Ref(a).Withdrawn) {
			break // the side menu does not show what is below
		}
		if s.revealed[a] {
			continue
		}
		s.revealed[a] = true
		if s.nearer != nil {
			s.nearer.revealed = append(s.nearer.revealed, a)
		}
		s.reach(a, page, SideMenu, -1, clicks)
		s.menu(page, a, 1, SideMenu, clicks)
	}
}

// Way is how one gets to a page, from home; empty where no click leads there.
func (r *Reach) Way(i int) []Step {
	if r.Clicks[i] == Never {
		return nil
	}
	out := make([]Step, r.Clicks[i]+1)
	for k := len(out) - 1; k >= 0; k-- {
		out[k] = Step{Entry: i, Via: r.via[i]}
		if w := r.words[i]; w >= 0 {
			out[k].Words = r.links[w].Words
		}
		i = int(r.from[i])
	}
	return out
}
