package sitemap

import (
	"context"
	"fmt"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// The two states of the sitemap that have names; the others are editions.
const (
	StateLive = "live"
	StateNext = "next"
)

// Comparison is two states of the sitemap laid over each other.
type Comparison struct {
	From, To         string // StateLive, StateNext or the number of an edition
	FromTree, ToTree *sitemap.Tree
	Changes          []change.Change
	Rows             []change.Row
	Lines            []change.Line // the trees side by side
	Editions         int
	Shapes           []change.Change // menus, trails and templates that differ
	States           plan.Trees      // both, as if they were Live and Next
}

// Compare tells how two states of the sitemap differ. A state that there is not
// is ErrNotFound.
func (a *Sitemap) Compare(ctx context.Context, who plan.Person, from, to string) (Comparison, error) {
	c := Comparison{From: from, To: to}
	var edited []string
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		c.Editions = s.Edition
		var err error
		if c.FromTree, err = a.treeIn(ctx, tx, s, from); err != nil {
			return err
		}
		if c.ToTree, err = a.treeIn(ctx, tx, s, to); err != nil {
			return err
		}
		if c.States.Shapes.Live, err = a.waysIn(ctx, tx, s, from); err != nil {
			return err
		}
		if c.States.Shapes.Next, err = a.waysIn(ctx, tx, s, to); err != nil {
			return err
		}
		edited, err = tx.ContentDiffers(ctx, editionOf(s, from), editionOf(s, to))
		return err
	})
	if err != nil {
		return c, err
	}
	c.Changes = append(change.Diff(c.FromTree, c.ToTree), edition.ContentChanges(edited, c.FromTree, c.ToTree)...)
	c.States.Live, c.States.Next = c.FromTree, c.ToTree
	c.Shapes = shape.Diff(c.States.Shapes.Live, c.States.Shapes.Next)
	c.Lines = change.Aligned(c.FromTree, c.ToTree)
	c.Rows = change.Merged(c.FromTree, c.ToTree, c.Changes)
	return c, nil
}

// editionOf is the edition of a state; 0 is what is planned.
func editionOf(s plan.Site, state string) int {
	switch state {
	case StateNext:
		return 0
	case StateLive:
		return s.Edition
	}
	n, _ := strconv.Atoi(state)
	return n
}

// waysIn gives the menus, trails and templates in one of their states, which is there.
func (a *Sitemap) waysIn(ctx context.Context, tx Tx, s plan.Site, state string) (shape.Set, error) {
	trees, err := a.TreesOf(ctx, tx, s)
	switch {
	case err != nil:
		return nil, err
	case state == StateLive:
		return trees.Shapes.Live, nil
	case state == StateNext:
		return trees.Shapes.Next, nil
	}
	return tx.ShapesAt(ctx, editionOf(s, state))
}

// treeIn gives the sitemap in one of its states.
func (a *Sitemap) treeIn(ctx context.Context, tx Tx, s plan.Site, state string) (*sitemap.Tree, error) {
	if state == StateLive || state == StateNext {
		trees, err := a.TreesOf(ctx, tx, s)
		if state == StateLive {
			return trees.Live, err
		}
		return trees.Next, err
	}
	n, err := strconv.Atoi(state)
	if err != nil || n < 1 || n > s.Edition {
		return nil, plan.ErrNotFound
	}
	t, err := tx.TreeAt(ctx, n)
	if err != nil {
		return nil, fmt.Errorf("load edition %d: %w", n, err)
	}
	return t, nil
}
