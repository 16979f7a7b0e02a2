// Package menu computes what leads a reader through the site: the top menu
// (home and the entries at the top), the side menu (the branch the page is in,
// opened down to the page) and the breadcrumb. Only live and listed pages show;
// a reference shows its target's address, a group without a page is a label
// with items below, or nothing when nothing is below it. Editors can take a menu
// over item by item: what they made of it is an Own.
package menu

import (
	"maps"
	"slices"
	"sync"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Item is one line of a menu.
type Item struct {
	Title   string
	Href    string // empty: a label
	Entry   int    // index into the tree, or None
	Current bool   // the page itself
	Open    bool   // the page is below it
	Outside bool
	Divider bool // and nothing else
	Symbol  string
	Below   []Item
}

// Maker computes the menus of one tree.
type Maker struct {
	tree *sitemap.Tree
	own  Owns

	mu    sync.Mutex
	built map[string]*Layout
}

// For gives the Maker of a tree, with what editors made of its menus.
func For(t *sitemap.Tree, own Owns) *Maker {
	return &Maker{tree: t, own: own, built: map[string]*Layout{}}
}

// Href is where an entry leads a reader, or "".
func (m *Maker) Href(i int) string { return Href(m.tree, i) }

func (m *Maker) item(i, page int) (Item, bool) {
	e := m.tree.Ref(i)
	if e.Unlisted || e.Withdrawn {
		return Item{}, false
	}
	it := Item{
		Title: e.Name(), Href: m.Href(i), Entry: i, Current: i == page, Outside: e.Kind == sitemap.Outside,
		Open: page != sitemap.None && i != page && m.tree.Contains(i, page) && i != m.tree.Home(),
	}
	return it, it.Href != "" || e.Kind == sitemap.Group
}

// Top is the top menu as seen from a page.
func (m *Maker) Top(page int) []Item { return m.Layout(Top).items(page, false) }

// TakenOver tells whether an editor said anything about a menu.
func (m *Maker) TakenOver(id string) bool {
	_, own := m.own[id]
	return own
}

// Foot is the foot menu as seen from a page.
func (m *Maker) Foot(page int) []Item {
	if !m.TakenOver(Foot) {
		return nil
	}
	return m.Layout(Foot).items(page, false)
}

// branchOf is the entry at the top under which a page stands; None for home.
func (m *Maker) branchOf(page int) int {
	top := page
	for top != sitemap.None && m.tree.Level(top) > 1 {
		top = m.tree.Parent(top)
	}
	if top == m.tree.Home() {
		return sitemap.None
	}
	return top
}

// Side is the branch of the top entry that a page is in: its children, with
// those on the way to the page opened, and the page's own children.
func (m *Maker) Side(page int) (head Item, items []Item) {
	top := m.branchOf(page)
	if top == sitemap.None {
		return Item{}, nil
	}
	head, ok := m.item(top, page)
	if !ok {
		head = Item{Title: m.tree.Ref(top).Name(), Href: m.Href(top), Entry: top, Current: top == page}
	}
	id := m.sideOf(top)
	if m.TakenOver(id) {
		return head, m.Layout(id).items(page, true)
	}
	return head, m.below(top, page)
}

// below lists the children of i, open on the way to the page.
func (m *Maker) below(i, page int) []Item {
	var out []Item
	for c := range m.tree.Children(i) {
		it, ok := m.item(c, page)
		if !ok {
			continue
		}
		group := it.Href == ""
		if it.Current || it.Open || group {
			it.Below = m.below(c, page)
		}
		if group && len(it.Below) == 0 {
			continue
		}
		out = append(out, it)
	}
	return out
}

// Crumbs is the way from home to the parent of a page.
func (m *Maker) Crumbs(page int) []Item {
	var out []Item
	for p := m.tree.Parent(page); p != sitemap.None; p = m.tree.Parent(p) {
		e := m.tree.Ref(p)
		out = append([]Item{{Title: e.Name(), Href: address.Written(m.tree.Served(p)), Entry: p}}, out...)
	}
	return out
}

// Children lists what stands right below a page, for pages without a text.
func (m *Maker) Children(page int) []Item {
	var out []Item
	for c := range m.tree.Children(page) {
		if it, ok := m.item(c, sitemap.None); ok && it.Href != "" {
			out = append(out, it)
		}
	}
	return out
}

// Shown tells which entries menus and lists may show at all.
func (m *Maker) Shown(i int) bool {
	if _, ok := m.item(i, sitemap.None); !ok {
		return false
	}
	for p := m.tree.Parent(i); p != sitemap.None && p != m.tree.Home(); p = m.tree.Parent(p) {
		if e := m.tree.Ref(p); e.Unlisted || e.Withdrawn {
			return false
		}
	}
	return true
}

func (m *Maker) sideOf(branch int) string { return Side(m.tree.Ref(branch).ID) }

// OwnSide tells whether an editor took over the side menu that a page shows.
func (m *Maker) OwnSide(page int) bool {
	branch := m.branchOf(page)
	return len(m.own) > 0 && branch != sitemap.None && m.TakenOver(m.sideOf(branch))
}

// Of lists the menus that show a page, by id.
func (m *Maker) Of(i int) []string {
	var out []string
	if m.Layout(Top).Has(i) {
		out = append(out, Top)
	}
	if branch := m.branchOf(i); branch != sitemap.None {
		id := m.sideOf(branch)
		if own := m.TakenOver(id); !own && i != branch && m.Shown(i) || own && m.Layout(id).Has(i) {
			out = append(out, id)
		}
	}
	for id := range m.own { // the foot menu
		if !slices.Contains(out, id) && id != Top && m.Layout(id).Has(i) && Branch(id) == "" {
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}

// On counts the pages that a menu is on.
func (m *Maker) On(id string) (pages int) {
	from, end := 0, m.tree.Len()
	if branch := Branch(id); branch != "" {
		if from = m.tree.Find(branch); from == sitemap.None || m.tree.Level(from) != 1 {
			return 0
		}
		end = m.tree.End(from)
	}
	for i := from; i < end; i++ {
		if m.tree.Served(i) != "" {
			pages++
		}
	}
	return pages
}

// IDs lists the menus of the site: top, foot, the side menu of each branch that
// has something below it, and side menus that were taken over for what is no
// branch any more.
func (m *Maker) IDs() []string {
	out := []string{Top, Foot}
	for c := range m.tree.Children(m.tree.Home()) {
		if id := m.sideOf(c); m.TakenOver(id) || m.tree.HasChildren(c) {
			out = append(out, id)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(m.own)) {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out
}

// Title names a menu.
func Title(id string, t *sitemap.Tree) string {
	switch branch := Branch(id); {
	case id == Top:
		return "Top menu"
	case id == Foot:
		return "Foot menu"
	case t.Find(branch) == sitemap.None:
		return "Side menu of a branch that is gone"
	default:
		return "Side menu of " + t.Ref(t.Find(branch)).Name()
	}
}
