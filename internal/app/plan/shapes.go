package plan

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// saveShapes writes what an act did to menus, trails and templates, and gives them as they
// are then.
func (a *Floor) saveShapes(ctx context.Context, tx Tx, who Person, was Shapes, patches []shape.Patch) (Shapes, error) {
	if len(patches) == 0 {
		return was, nil
	}
	now := Shapes{Live: was.Live, Next: was.Next, Planned: maps.Clone(was.Planned)}
	if now.Planned == nil {
		now.Planned = map[string]Planned{}
	}
	for _, p := range patches {
		now.Next = now.Next.With(p.ID, p.After)
		now.Planned[p.ID] = Planned{PersonID: who.ID, At: a.Now()}
	}
	now = pruned(now)
	if err := tx.SaveShapes(ctx, now); err != nil {
		return was, fmt.Errorf("save menus, trails and templates: %w", err)
	}
	return now, nil
}

// pruned forgets who planned what does not differ any more.
func pruned(w Shapes) Shapes {
	differs := map[string]bool{}
	for _, p := range shape.Patches(w.Live, w.Next) {
		differs[p.ID] = true
	}
	maps.DeleteFunc(w.Planned, func(id string, _ Planned) bool { return !differs[id] })
	return w
}

// turnShapes takes what an act did to menus, trails and templates back, or does it again.
// Where somebody changed one of them since, it says so.
func (a *Floor) turnShapes(ctx context.Context, tx Tx, who Person, trees Trees, patches []shape.Patch, again bool) (Shapes, error) {
	turned := slices.Clone(patches)
	for i, p := range turned {
		if !again {
			turned[i].Before, turned[i].After = p.After, p.Before
		}
		if !shape.Same(trees.Shapes.Next.Find(p.ID), turned[i].Before) {
			return trees.Shapes, &sitemap.ConflictError{ID: p.ID, Title: trees.Title(p.ID)}
		}
		if err := a.turnTemplateDraft(ctx, tx, who, p, again); err != nil {
			return trees.Shapes, err
		}
	}
	return a.saveShapes(ctx, tx, who, trees.Shapes, turned)
}
