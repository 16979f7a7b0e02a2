// Package menu computes what leads a reader through the site: the top menu
// (home and the entries at the top), the side menu (the branch the page is in,
// opened down to the page) and the breadcrumb. Only live and listed pages show;
// a reference shows its target's address, a group without a page is a label
// with items below, or nothing when nothing is below it.
package menu

import (
	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Item is one line of a menu.
type Item struct {
	Title   string
	Href    string // empty: a label
	Current bool   // the page itself
	Open    bool   // the page is below it
	Outside bool
	Below   []Item
}

// Maker computes the menus of one tree.
type Maker struct{ tree *sitemap.Tree }

// For gives the Maker of a tree.
func For(t *sitemap.Tree) Maker { return Maker{t} }

// Href is where an entry leads a reader, or "".
func (m Maker) Href(i int) string {
	e := m.tree.Ref(i)
	switch e.Kind {
	case sitemap.Outside:
		if address.IsURL(e.Target) {
			return e.Target
		}
	case sitemap.File:
		if address.IsURL(e.Target) {
			return e.Target
		}
	case sitemap.Reference:
		if r := m.tree.Referred(i); r != sitemap.None && m.tree.Ref(r).Kind != sitemap.Reference {
			return m.Href(r)
		}
	default:
		return address.Written(m.tree.Served(i))
	}
	return ""
}

func (m Maker) item(i, page int) (Item, bool) {
	e := m.tree.Ref(i)
	if e.Unlisted || e.Withdrawn {
		return Item{}, false
	}
	it := Item{
		Title: e.Name(), Href: m.Href(i), Current: i == page, Outside: e.Kind == sitemap.Outside,
		Open: page != sitemap.None && i != page && m.tree.Contains(i, page) && i != m.tree.Home(),
	}
	return it, it.Href != "" || e.Kind == sitemap.Group
}

// Top is the top menu as seen from a page. A group shows what is below it.
func (m Maker) Top(page int) []Item {
	var out []Item
	if h := m.tree.Home(); h != sitemap.None {
		if it, ok := m.item(h, page); ok {
			out = append(out, it)
		}
	}
	for c := range m.tree.Children(m.tree.Home()) {
		it, ok := m.item(c, page)
		if !ok {
			continue
		}
		if it.Href == "" {
			if it.Below = m.below(c, page, 1); len(it.Below) == 0 {
				continue
			}
		}
		out = append(out, it)
	}
	return out
}

// Side is the branch of the top entry that a page is in: its children, with
// those on the way to the page opened, and the page's own children.
func (m Maker) Side(page int) (head Item, items []Item) {
	top := page
	for top != sitemap.None && m.tree.Level(top) > 1 {
		top = m.tree.Parent(top)
	}
	if top == sitemap.None || top == m.tree.Home() {
		return Item{}, nil
	}
	head, ok := m.item(top, page)
	if !ok {
		head = Item{Title: m.tree.Ref(top).Name(), Href: m.Href(top), Current: top == page}
	}
	return head, m.below(top, page, 0)
}

// below lists the children of i; always opens that many levels, and else only
// the way to the page.
func (m Maker) below(i, page, always int) []Item {
	var out []Item
	for c := range m.tree.Children(i) {
		it, ok := m.item(c, page)
		if !ok {
			continue
		}
		group := it.Href == ""
		if it.Current || it.Open || group && always == 0 {
			it.Below = m.below(c, page, 0)
		}
		if group && len(it.Below) == 0 {
			continue
		}
		out = append(out, it)
	}
	return out
}

// Crumbs is the way from home to the parent of a page.
func (m Maker) Crumbs(page int) []Item {
	var out []Item
	for p := m.tree.Parent(page); p != sitemap.None; p = m.tree.Parent(p) {
		e := m.tree.Ref(p)
		out = append([]Item{{Title: e.Name(), Href: address.Written(m.tree.Served(p))}}, out...)
	}
	return out
}

// Children lists what stands right below a page, for pages without a text.
func (m Maker) Children(page int) []Item {
	var out []Item
	for c := range m.tree.Children(page) {
		if it, ok := m.item(c, sitemap.None); ok && it.Href != "" {
			out = append(out, it)
		}
	}
	return out
}

// Shown tells which entries the top and side menus show at all.
func (m Maker) Shown(i int) bool {
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
