package app

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/app/port"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
)

// saveWays writes what an act did to menus and trails, and gives them as they
// are then.
func (a *App) saveWays(ctx context.Context, tx port.Tx, who port.Person, was port.Ways, patches []ways.Patch) (port.Ways, error) {
	if len(patches) == 0 {
		return was, nil
	}
	now := port.Ways{Live: was.Live, Next: was.Next, Planned: maps.Clone(was.Planned)}
	if now.Planned == nil {
		now.Planned = map[string]port.Planned{}
	}
	for _, p := range patches {
		now.Next = now.Next.With(p.ID, p.After)
		now.Planned[p.ID] = port.Planned{PersonID: who.ID, At: a.now()}
	}
	now = pruned(now)
	if err := tx.SaveWays(ctx, now); err != nil {
		return was, fmt.Errorf("save menus and trails: %w", err)
	}
	return now, nil
}

// pruned forgets who planned what does not differ any more.
func pruned(w port.Ways) port.Ways {
	differs := map[string]bool{}
	for _, p := range ways.Patches(w.Live, w.Next) {
		differs[p.ID] = true
	}
	maps.DeleteFunc(w.Planned, func(id string, _ port.Planned) bool { return !differs[id] })
	return w
}

// turnWays takes what an act did to menus and trails back, or does it again.
// Where somebody changed one of them since, it says so.
func (a *App) turnWays(ctx context.Context, tx port.Tx, who port.Person, trees port.Trees, patches []ways.Patch, again bool) (port.Ways, error) {
	turned := slices.Clone(patches)
	for i, p := range turned {
		if !again {
			turned[i].Before, turned[i].After = p.After, p.Before
		}
		if !ways.Same(trees.Ways.Next.Find(p.ID), turned[i].Before) {
			return trees.Ways, &sitemap.ConflictError{ID: p.ID, Title: trees.Title(p.ID)}
		}
	}
	return a.saveWays(ctx, tx, who, trees.Ways, turned)
}

// waysAfter gives the ways of an edition and what stays planned of them. What
// was planned stays planned by whom it was; what is taken back is planned by
// whoever publishes.
func (a *App) waysAfter(trees port.Trees, live ways.Set, who string) port.Ways {
	w := port.Ways{Live: live, Next: trees.Ways.Next, Planned: map[string]port.Planned{}}
	for _, p := range ways.Patches(w.Live, w.Next) {
		by, planned := trees.Ways.Planned[p.ID]
		if !planned {
			by = port.Planned{PersonID: who, At: a.now()}
		}
		w.Planned[p.ID] = by
	}
	return w
}
