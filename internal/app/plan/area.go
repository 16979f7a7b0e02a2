package plan

import (
	"context"

	"candlepath/internal/core/workflow"
)

// Store opens transactions that do what T says.
type Store[T any] interface {
	// Write runs f in a transaction that holds the site's row: structure edits
	// and publishing of one site happen one after another.
	Write(ctx context.Context, f func(T, Site) error) error
	// Read runs f in a read-only transaction with one view of the data.
	Read(ctx context.Context, f func(T, Site) error) error
	// WriteUnlocked runs f in a short transaction that does not hold the site, for
	// drafts, locks and sign-in.
	WriteUnlocked(ctx context.Context, f func(T, Site) error) error
}

// Narrow gives a store whose transactions do less: what one area needs.
func Narrow[All, T any](s Store[All], to func(All) T) Store[T] { return narrowed[All, T]{s, to} }

type narrowed[All, T any] struct {
	of Store[All]
	to func(All) T
}

func (n narrowed[All, T]) with(f func(T, Site) error) func(All, Site) error {
	return func(tx All, s Site) error { return f(n.to(tx), s) }
}

func (n narrowed[All, T]) Write(ctx context.Context, f func(T, Site) error) error {
	return n.of.Write(ctx, n.with(f))
}

func (n narrowed[All, T]) Read(ctx context.Context, f func(T, Site) error) error {
	return n.of.Read(ctx, n.with(f))
}

// WriteUnlocked runs f in a transaction that does not hold the lock of the site: for
// writes that no tree and no edition depends on.
func (n narrowed[All, T]) WriteUnlocked(ctx context.Context, f func(T, Site) error) error {
	return n.of.WriteUnlocked(ctx, n.with(f))
}

// Area is what one area of the work begins with: the floor, and the store as far
// as the area needs it.
type Area[T Tx] struct {
	*Floor
	Store Store[T]
}

// Planning runs f over one view of the data for somebody who may plan.
func (a Area[T]) Planning(ctx context.Context, who Person, f func(T, Site, Trees) error) error {
	return a.Store.Read(ctx, func(tx T, s Site) error {
		if err := May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		return f(tx, s, trees)
	})
}

// Governing runs f for somebody who looks after the site and its people.
func (a Area[T]) Governing(ctx context.Context, who Person, f func(T, Site) error) error {
	return a.Store.Write(ctx, func(tx T, s Site) error {
		if err := May(s, who, workflow.Govern); err != nil {
			return err
		}
		return f(tx, s)
	})
}

// OnNext runs an act of a planner on Next. An act whose form came twice is not
// run again, and answers what it answered.
func (a Area[T]) OnNext(ctx context.Context, who Person, key, id string, run func(T, Site, Trees) (PlanResult, error)) (PlanResult, error) {
	if err := CheckKey(key); err != nil {
		return PlanResult{}, err
	}
	res, err := writeNext(ctx, a.Floor, a.Store, who, func(tx T, s Site, trees Trees) (PlanResult, error) {
		if done, err := tx.ActByKey(ctx, key); err == nil {
			return PlanResult{Version: s.PlanVersion, ID: id, Trees: trees, Label: done.Label, Patches: done.Patches}, nil
		}
		return run(tx, s, trees)
	})
	if err == nil {
		a.Counts.Acts.Add(1)
	}
	return res, err
}

// writeNext runs what changes Next for somebody who may plan. The trees that it
// makes are known to all once they are committed.
func writeNext[T Tx](ctx context.Context, a *Floor, store Store[T], who Person, run func(T, Site, Trees) (PlanResult, error)) (PlanResult, error) {
	var res PlanResult
	var site Site
	err := store.Write(ctx, func(tx T, s Site) error {
		site = s
		if err := May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if res, err = run(tx, s, trees); err != nil {
			return err
		}
		site.Work, err = tx.WorkAfter(ctx)
		return err
	})
	if err != nil {
		return PlanResult{}, err
	}
	a.CacheTrees(site, res.Trees)
	return res, nil
}
