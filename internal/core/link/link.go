// Package link holds the links of many pages, each with the entry that it leads to
// found once.
//
// A Map is made of the pages of one state of the site and the tree of that state, and
// kept as long as that state is. In asks where the same links lead in another tree, such
// as Next or what an edition makes of Live: both trees are gone through side by side, so
// that no id is looked up again. Only links that lead to no entry of the tree that the map
// was made with are read anew: they lead outside, to an address as it was written, or to
// an entry that only the other tree has.
package link

import (
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// Page is a text with the links in it. Version is another whenever the links are.
type Page struct {
	ID, Version string
	Links       []content.FoundLink
}

// Map holds the links of pages.
type Map struct {
	tree   *sitemap.Tree
	pages  []Page
	starts []int32 // of each page, the first of its links; one more at the end
	to     []int32 // the entry that each link names by its id, or None
	at     []int32 // by entry, which page it has, from 1; 0: none
}

// New makes the map of pages in a tree. What an earlier one found of the same versions
// it takes from there; nil: there is none.
func New(t *sitemap.Tree, pages []Page, known *Map) *Map {
	m := &Map{tree: t, pages: pages, starts: make([]int32, 1, len(pages)+1), at: make([]int32, t.Len())}
	var moved []int32
	if known != nil {
		moved = places(known.tree, t)
	}
	for k := range pages {
		found := known.of(&pages[k])
		for l := range pages[k].Links {
			to := int32(sitemap.None)
			if found != nil && found[l] != sitemap.None {
				to = moved[found[l]]
			}
			if to == sitemap.None {
				if id, ok := pages[k].Links[l].Entry(); ok {
					to = int32(t.Find(id))
				}
			}
			m.to = append(m.to, to)
		}
		m.starts = append(m.starts, int32(len(m.to)))
		if i := t.Find(pages[k].ID); i != sitemap.None {
			m.at[i] = int32(k + 1)
		}
	}
	return m
}

// of gives where the links of a page lead by an earlier map; nil if it does not know the
// version.
func (m *Map) of(p *Page) []int32 {
	if m == nil {
		return nil
	}
	i := m.tree.Find(p.ID)
	if i == sitemap.None || m.at[i] == 0 || m.pages[m.at[i]-1].Version != p.Version {
		return nil
	}
	k := m.at[i] - 1
	return m.to[m.starts[k]:m.starts[k+1]]
}

// places tells where the entries of one tree stand in another.
func places(from, to *sitemap.Tree) []int32 {
	at, near := make([]int32, from.Len()), sitemap.None
	for i := range at {
		j := to.FindNear(from.Ref(i).ID, near+1)
		if at[i] = int32(j); j != sitemap.None {
			near = j
		}
	}
	return at
}

// Len is how many links there are.
func (m *Map) Len() int { return len(m.to) }

// View is a map as seen from another tree.
type View struct {
	*Map
	other *sitemap.Tree
	moved []int32
}

// In gives the map as seen from a tree.
func (m *Map) In(t *sitemap.Tree) View { return View{m, t, places(m.tree, t)} }

// Each goes through the pages that the tree has, as they stand in the tree of the map.
func (v View) Each(do func(at int, p *Page, to []int32)) {
	for i, k := range v.at {
		if k > 0 && v.moved[i] != sitemap.None {
			do(int(v.moved[i]), &v.pages[k-1], v.to[v.starts[k-1]:v.starts[k]])
		}
	}
}

// Moved gives where an entry that a link leads to stands in the tree of the view, or
// None.
func (v View) Moved(to int32) int {
	if to == sitemap.None {
		return sitemap.None
	}
	return int(v.moved[to])
}

// Leads gives the entry of the tree to which a link of a page leads, by id or by
// address, or None. to is what the map knows of it.
func (v View) Leads(to int32, l *content.FoundLink) int {
	if to != sitemap.None {
		return int(v.moved[to])
	}
	return Leads(v.other, l)
}

// Leads gives the entry of a tree to which a link leads, by id or by address, or None.
func Leads(t *sitemap.Tree, l *content.FoundLink) int {
	if id, ok := l.Entry(); ok {
		return t.Find(id)
	}
	if path, _, _ := address.Split(l.To); strings.HasPrefix(path, "/") {
		if normal, err := address.Normal(path); err == nil {
			return t.PageAt(normal)
		}
	}
	return sitemap.None
}
