package plan

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// ErrNothing says that there is nothing to undo or redo.
var ErrNothing = errors.New("there is nothing left to undo or redo")

// Undo takes a person's last act back; Redo does it again. Acts of others stay:
// where one of them changed the same thing since, that is told instead.
func (a *Floor) Undo(ctx context.Context, who Person) (PlanResult, error) {
	return a.stepBack(ctx, who, false)
}

// Redo does the last act that was undone again.
func (a *Floor) Redo(ctx context.Context, who Person) (PlanResult, error) {
	return a.stepBack(ctx, who, true)
}

func (a *Floor) stepBack(ctx context.Context, who Person, again bool) (PlanResult, error) {
	return writeNext(ctx, a, a.Store, who, func(tx Tx, s Site, trees Trees) (PlanResult, error) {
		find, state, verb := tx.NextUndo, ActUndone, "Undone"
		if again {
			find, state, verb = tx.NextRedo, ActDone, "Done again"
		}
		act, err := find(ctx, who.ID)
		if errors.Is(err, ErrNotFound) {
			return PlanResult{}, ErrNothing
		}
		if err != nil {
			return PlanResult{}, err
		}
		next, err := a.turned(ctx, tx, trees.Next, act, again)
		if err != nil {
			return PlanResult{}, err
		}
		also, err := tx.ActSideEffects(ctx, act.ID)
		if err != nil {
			return PlanResult{}, err
		}
		if trees.Shapes, err = a.turn(ctx, tx, who, trees, next, also, again); err != nil {
			return PlanResult{}, err
		}
		done, was := sitemap.Patches(trees.Next, next), trees
		trees, version, err := a.saveNext(ctx, tx, who, trees, next, done)
		if err != nil {
			return PlanResult{}, err
		}
		if err := a.authorAgain(ctx, tx, who, titleIn(trees, was), authored(trees, done, also), act.At); err != nil {
			return PlanResult{}, err
		}
		res := PlanResult{Version: version, Patches: done, Trees: trees, Label: fmt.Sprintf("%s: %s", verb, act.Label)}
		if len(act.Patches) > 0 {
			res.ID = act.Patches[0].ID
		}
		return res, tx.SetActState(ctx, act.ID, state, version)
	})
}

// turned gives Next with an act taken back, or done again. Where somebody changed
// the same since, it names them.
func (a *Floor) turned(ctx context.Context, tx Tx, next *sitemap.Tree, act Act, again bool) (*sitemap.Tree, error) {
	patches := act.Patches
	if !again {
		patches = sitemap.Reverse(patches)
	}
	out, err := next.Apply(patches)
	if conflict := (*sitemap.ConflictError)(nil); errors.As(err, &conflict) {
		return nil, a.changedSince(ctx, tx, act, conflict)
	}
	return out, err
}

// changedSince names who stands in the way of undoing an act.
func (a *Floor) changedSince(ctx context.Context, tx Tx, act Act, conflict *sitemap.ConflictError) error {
	other, err := tx.ActOn(ctx, act.Version, act.PersonID, []string{conflict.ID}, false)
	switch {
	case errors.Is(err, ErrNotFound):
		return conflict
	case err != nil:
		return err
	}
	return a.ConflictWith(ctx, tx, other)
}

// turn takes what an act did to drafts and decisions back, or does it again.
// Where somebody changed one of them since, it says so and does nothing.
// It gives the ways as they are then.
func (a *Floor) turn(ctx context.Context, tx Tx, who Person, trees Trees, next *sitemap.Tree, also SideEffects, again bool) (Shapes, error) {
	if len(also.Texts)+len(also.Decisions) > 0 {
		if err := a.turnTexts(ctx, tx, who, next, also, again); err != nil {
			return trees.Shapes, err
		}
	}
	if err := a.turnRedirects(ctx, tx, who, also.Redirects, again); err != nil {
		return trees.Shapes, err
	}
	return a.turnShapes(ctx, tx, who, trees, also.Shapes, again)
}

func (a *Floor) turnTexts(ctx context.Context, tx Tx, who Person, next *sitemap.Tree, also SideEffects, again bool) error {
	w, err := a.Writer(ctx, tx, who, next)
	if err != nil {
		return err
	}
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return err
	}
	for _, p := range slices.Backward(also.Texts) {
		from, to := p.After, p.Before
		if again {
			from, to = to, from
		}
		now, _, _, err := w.draft(ctx, p.EntryID)
		if err != nil {
			return err
		}
		if (now == nil) != (from == nil) || now != nil && !content.Same(*now, *from) {
			return &sitemap.ConflictError{ID: p.EntryID, Title: "The text of " + TitleOf(next, p.EntryID)}
		}
		if err := w.Set(ctx, p.EntryID, to); err != nil {
			return err
		}
	}
	for _, p := range slices.Backward(also.Decisions) {
		from, to := p.After, p.Before
		if again {
			from, to = to, from
		}
		if now, ok := decisions[p.EntryID]; ok != (from != nil) || ok && now != *from {
			return &sitemap.ConflictError{ID: p.EntryID, Title: "Where the visitors of " + TitleOf(next, p.EntryID) + " belong"}
		}
		if err := w.Decide(ctx, p.EntryID, from, to); err != nil {
			return err
		}
	}
	return nil
}
