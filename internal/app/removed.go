package app

import (
	"context"
	"fmt"
	"slices"

	"candlepath/internal/app/port"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// RemovedPage is an entry that left the site and can be brought back.
type RemovedPage struct {
	port.RemovedEntry
	Path  []string // titles above it, from the top
	Below int      // entries that left with it
	Free  bool     // its address can be had again
}

// Removed lists what left the site, the latest first.
func (a *App) Removed(ctx context.Context, who port.Person) (pages []RemovedPage, people map[string]port.Person, err error) {
	err = a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.treesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		list, err := tx.RemovedEntries(ctx)
		if err != nil {
			return err
		}
		gone := newGone(list)
		for _, r := range list {
			p := RemovedPage{RemovedEntry: r, Below: len(gone.branch(r.Entry.ID)) - 1}
			for _, id := range gone.above(r.Entry) {
				p.Path = append(p.Path, gone.title(id, trees.Next))
			}
			slices.Reverse(p.Path)
			p.Free = r.Address != "" && trees.Next.ClaimedBy(r.Address) == sitemap.None
			pages = append(pages, p)
		}
		people, err = peopleByID(ctx, tx)
		return err
	})
	return pages, people, err
}

// gone are the removed entries, by id and by parent.
type gone struct {
	by       map[string]port.RemovedEntry
	children map[string][]string
}

func newGone(list []port.RemovedEntry) gone {
	g := gone{map[string]port.RemovedEntry{}, map[string][]string{}}
	for _, r := range list {
		g.by[r.Entry.ID] = r
		g.children[r.Entry.Parent] = append(g.children[r.Entry.Parent], r.Entry.ID)
	}
	return g
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

// BringBack plans a removed entry again, alone or with what left with it, with
// its content as a draft. It is one act that can be undone.
func (a *App) BringBack(ctx context.Context, who port.Person, key, id string, all bool) (PlanResult, error) {
	return a.onNext(ctx, who, key, id, func(tx port.Tx, s port.Site, trees port.Trees) (PlanResult, error) {
		list, err := tx.RemovedEntries(ctx)
		if err != nil {
			return PlanResult{}, err
		}
		g := newGone(list)
		r, ok := g.by[id]
		if !ok {
			return PlanResult{}, ErrNotFound // or brought back already
		}
		entries := []sitemap.Entry{r.Entry}
		if all {
			entries = g.branch(id)
		}
		next, err := trees.Next.Restore(entries, g.above(r.Entry))
		if err != nil {
			return PlanResult{}, err
		}
		ids := make([]string, len(entries))
		for i, e := range entries {
			ids[i] = e.ID
		}
		if err := tx.BringDraftsBack(ctx, ids); err != nil {
			return PlanResult{}, err
		}
		res, err := a.record(ctx, tx, s, who, key, fmt.Sprintf("brought back %q", r.Entry.Title), trees, next)
		res.ID = id
		return res, err
	})
}
