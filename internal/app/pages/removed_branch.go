package pages

import (
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// gone are the removed entries, by id and by parent.
type gone struct {
	by       map[string]plan.RemovedEntry
	children map[string][]string
}

func newGone(list []plan.RemovedEntry) gone {
	g := gone{map[string]plan.RemovedEntry{}, map[string][]string{}}
	for _, r := range list {
		g.by[r.Entry.ID] = r
		g.children[r.Entry.Parent] = append(g.children[r.Entry.Parent], r.Entry.ID)
	}
	return g
}

func (g gone) page(r plan.RemovedEntry, next *sitemap.Tree, until time.Time, over bool) RemovedPage {
	above := g.above(r.Entry)
	p := RemovedPage{RemovedEntry: r, Until: until, Over: over, Back: next.RestoredAt(r.Entry, above)}
	for _, e := range g.branch(r.Entry.ID)[1:] {
		p.Below = append(p.Below, e.Title)
	}
	for _, id := range slices.Backward(above) {
		p.Path = append(p.Path, g.title(id, next))
	}
	return p
}

// branch gives an entry and what left with it, in document order.
func (g gone) branch(id string) []sitemap.Entry {
	r := g.by[id]
	out := []sitemap.Entry{r.Entry}
	for _, c := range g.children[id] {
		if g.by[c].Edition == r.Edition {
			out = append(out, g.branch(c)...)
		}
	}
	return out
}

// above gives the ids of the former ancestors, the nearest first.
func (g gone) above(e sitemap.Entry) []string {
	var out []string
	for e.Parent != "" && !slices.Contains(out, e.Parent) {
		out = append(out, e.Parent)
		e = g.by[e.Parent].Entry
	}
	return out
}

func (g gone) title(id string, next *sitemap.Tree) string {
	if r, ok := g.by[id]; ok {
		return r.Entry.Title
	}
	if i := next.Find(id); i != sitemap.None {
		return next.Ref(i).Title
	}
	return id
}
