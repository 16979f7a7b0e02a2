package menu

import (
	"maps"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Why tells why readers do not get an item; Shown if they do.
type Why uint8

// The reasons.
const (
	Shown Why = iota
	LeftOut
	Waits     // to be let in
	Gone      // its entry is not there
	Unlisted  // its entry is not listed in menus
	Withdrawn // its entry is
	NoPage    // it leads nowhere
	NoneBelow // a label with nothing below
	TooDeep   // deeper than the menu shows
)

// Words says why, to whoever makes the menu.
func (w Why) Words() string {
	return [...]string{
		"", "left out; the page stays where it is", "new: waits to be let in", "its page is not there (any more)", "not listed in menus: see its facts",
		"withdrawn", "leads to no page", "nothing to show is below it", "deeper than this menu shows",
	}[w]
}

// Line is one item of a menu as an editor sees it, with what readers do not get.
type Line struct {
	Key, Parent string
	Level       int // 1 at the top of the menu
	Override    ItemOverride
	Entry       int    // index into the tree, or None
	Title, Href string // as readers get them
	Why         Why
	Arranged    bool // it does not stand where the sitemap would put it
	Holds       bool // items can go below it
}

// Own tells whether the item is the editor's, and not computed.
func (l Line) Own() bool { return l.Override.Kind != "" }

// Layout is one menu with all that is said about it.
type Layout struct {
	id    string
	own   Overrides
	tree  *sitemap.Tree
	nodes []node
	at    map[string]int
	order map[string][]string // keys below a key, as they stand
	pages map[int][]int32     // nodes that readers get, by entry
}

type node struct {
	Line
	natural string // the key that it stands below by nature
	own     bool   // it is the editor's
	kids    []int32
	symbol  string
	divider bool
	outside bool
}

// Layout lays out a menu.
func (m *Maker) Layout(id string) *Layout {
	m.mu.Lock()
	defer m.mu.Unlock()
	if l := m.built[id]; l != nil {
		return l
	}
	l := lay(m.tree, id, m.own[id])
	m.built[id] = l
	return l
}

// lay computes what the sitemap puts into a menu, adds the editor's items,
// brings all into order, and says of each whether readers get it.
func lay(t *sitemap.Tree, id string, own Overrides) *Layout {
	l := &Layout{id: id, own: own, tree: t, at: map[string]int{}, order: map[string][]string{}, pages: map[int][]int32{}}
	b := builder{Layout: l, natural: map[string][]string{}, found: map[string]int{}}
	b.base()
	b.ownItems()
	b.arrange()
	b.walk("", 1, Shown)
	l.judge()
	return l
}

// judge finds what readers do not get because of what is below or how deep it
// is, and notes where pages are.
func (l *Layout) judge() {
	shows := natureOf(l.id).shows
	for at := len(l.nodes) - 1; at >= 0; at-- {
		n := &l.nodes[at]
		if n.Why == Shown && l.depth(at) > shows {
			n.Why = TooDeep
		}
		if n.Why != Shown {
			continue
		}
		label := n.Href == "" && !n.divider
		if label && !slices.ContainsFunc(n.kids, func(k int32) bool { return l.nodes[k].Why == Shown && !l.nodes[k].divider }) {
			n.Why = NoneBelow
		}
	}
	for at := range l.nodes {
		if n := &l.nodes[at]; n.Why == Shown && n.Entry != sitemap.None && n.Override.Kind != Children {
			l.pages[n.Entry] = append(l.pages[n.Entry], int32(at))
		}
	}
}

// depth is the level at which readers get an item: pages of a branch stand in
// the place of their item.
func (l *Layout) depth(at int) int {
	d := 0
	for k := l.nodes[at].Key; k != ""; k = l.nodes[l.at[k]].Parent {
		if l.nodes[l.at[k]].Override.Kind != Children {
			d++
		}
	}
	return d
}

// Lines lists all items, with those that readers do not get.
func (l *Layout) Lines() []Line {
	out := make([]Line, len(l.nodes))
	for i := range l.nodes {
		out[i] = l.nodes[i].Line
	}
	return out
}

// Find gives the item of a key.
func (l *Layout) Find(key string) (Line, bool) {
	at, ok := l.at[key]
	if !ok {
		return Line{}, false
	}
	return l.nodes[at].Line, true
}

// Has tells whether readers get a page in this menu.
func (l *Layout) Has(i int) bool { return len(l.pages[i]) > 0 }

// Marks tells which items of a menu are marked on a page, as the page itself or as
// on the way to it. Pages with the same marks show the same menu.
func (m *Maker) Marks(id string, page int) string {
	l := m.Layout(id)
	keys := slices.Sorted(maps.Keys(l.way(page)))
	var b strings.Builder
	for _, k := range keys {
		n := &l.nodes[l.at[k]]
		b.WriteString(k)
		if n.Entry == page {
			b.WriteByte('*')
		}
		b.WriteByte(' ')
	}
	return b.String()
}

// items gives what readers get on a page. In a menu that opens, items show what
// is below them only on the way to the page.
func (l *Layout) items(page int, opens bool) []Item {
	way := l.way(page)
	var down func(kids []int32) []Item
	down = func(kids []int32) []Item {
		var out []Item
		for _, k := range kids {
			n := &l.nodes[k]
			if n.Why != Shown {
				continue
			}
			if n.Override.Kind == Children {
				out = append(out, down(n.kids)...)
				continue
			}
			it := Item{Title: n.Title, Href: n.Href, Entry: n.Entry, Outside: n.outside, Symbol: n.symbol, Divider: n.divider, Current: n.Entry == page && page != sitemap.None}
			it.Open = way[n.Key] && !it.Current && (n.Entry == sitemap.None || n.Entry != l.tree.Home())
			if !opens || it.Current || it.Open || it.Href == "" {
				it.Below = down(n.kids)
			}
			out = append(out, it)
		}
		return tidy(out)
	}
	return down(l.tops())
}

// tidy leaves out dividers that divide nothing.
func tidy(items []Item) []Item {
	out := items[:0]
	for _, it := range items {
		if it.Divider && (len(out) == 0 || out[len(out)-1].Divider) {
			continue
		}
		out = append(out, it)
	}
	if n := len(out); n > 0 && out[n-1].Divider {
		out = out[:n-1]
	}
	return out
}

func (l *Layout) tops() []int32 {
	var out []int32
	for _, k := range l.order[""] {
		out = append(out, int32(l.at[k]))
	}
	return out
}

// way is the keys of the items above a page; where the menu has it not, of the
// nearest page above it that it has.
func (l *Layout) way(page int) map[string]bool {
	out := map[string]bool{}
	for i := page; i != sitemap.None; i = l.tree.Parent(i) {
		for _, at := range l.pages[i] {
			for k := l.nodes[at].Key; k != ""; k = l.nodes[l.at[k]].Parent {
				out[k] = true
			}
		}
		if len(out) > 0 {
			break
		}
	}
	return out
}

// Href is where an entry leads a reader, or "".
func Href(t *sitemap.Tree, i int) string {
	e := t.Ref(i)
	switch e.Kind {
	case sitemap.Outside, sitemap.File:
		if address.IsURL(e.Target) {
			return e.Target
		}
	case sitemap.Reference:
		if r := t.Referred(i); r != sitemap.None && t.Ref(r).Kind != sitemap.Reference {
			return Href(t, r)
		}
	default:
		return address.Written(t.Served(i))
	}
	return ""
}
