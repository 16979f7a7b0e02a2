package plan

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/core/navigation"
	"candlepath/internal/core/sitemap"
)

// saveWays writes what an act did to menus and trails, and gives them as they
// are then.
func (a *Floor) saveWays(ctx context.Context, tx Tx, who Person, was Navigation, patches []navigation.Patch) (Navigation, error) {
	if len(patches) == 0 {
		return was, nil
	}
	now := Navigation{Live: was.Live, Next: was.Next, Planned: maps.Clone(was.Planned)}
	if now.Planned == nil {
		now.Planned = map[string]Planned{}
	}
	for _, p := range patches {
		now.Next = now.Next.With(p.ID, p.After)
		now.Planned[p.ID] = Planned{PersonID: who.ID, At: a.Now()}
	}
	now = pruned(now)
	if err := tx.SaveNavigation(ctx, now); err != nil {
		return was, fmt.Errorf("save menus and trails: %w", err)
	}
	return now, nil
}

// pruned forgets who planned what does not differ any more.
func pruned(w Navigation) Navigation {
	differs := map[string]bool{}
	for _, p := range navigation.Patches(w.Live, w.Next) {
		differs[p.ID] = true
	}
	maps.DeleteFunc(w.Planned, func(id string, _ Planned) bool { return !differs[id] })
	return w
}

// turnWays takes what an act did to menus and trails back, or does it again.
// Where somebody changed one of them since, it says so.
func (a *Floor) turnWays(ctx context.Context, tx Tx, who Person, trees Trees, patches []navigation.Patch, again bool) (Navigation, error) {
	turned := slices.Clone(patches)
	for i, p := range turned {
		if !again {
			turned[i].Before, turned[i].After = p.After, p.Before
		}
		if !navigation.Same(trees.Navigation.Next.Find(p.ID), turned[i].Before) {
			return trees.Navigation, &sitemap.ConflictError{ID: p.ID, Title: trees.Title(p.ID)}
		}
	}
	return a.saveWays(ctx, tx, who, trees.Navigation, turned)
}
