package app

import (
	"context"
	"fmt"
	"strconv"

	"candlepath/internal/app/port"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
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
	Ways             []change.Change // menus and trails that differ
	States           port.Trees      // both, as if they were Live and Next
}

// Compare tells how two states of the sitemap differ. A state that there is not
// is ErrNotFound.
func (a *App) Compare(ctx context.Context, who port.Person, from, to string) (Comparison, error) {
	c := Comparison{From: from, To: to}
	var edited []string
	err := a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Plan); err != nil {
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
		if c.States.Ways.Live, err = a.waysIn(ctx, tx, s, from); err != nil {
			return err
		}
		if c.States.Ways.Next, err = a.waysIn(ctx, tx, s, to); err != nil {
			return err
		}
		edited, err = tx.ContentDiffers(ctx, editionOf(s, from), editionOf(s, to))
		return err
	})
	if err != nil {
		return c, err
	}
	c.Changes = append(change.Diff(c.FromTree, c.ToTree), contentChanges(edited, c.FromTree, c.ToTree)...)
	c.States.Live, c.States.Next = c.FromTree, c.ToTree
	c.Ways = ways.Diff(c.States.Ways.Live, c.States.Ways.Next)
	c.Lines = change.Aligned(c.FromTree, c.ToTree)
	c.Rows = change.Merged(c.FromTree, c.ToTree, c.Changes)
	return c, nil
}

// editionOf is the edition of a state; 0 is what is planned.
func editionOf(s port.Site, state string) int {
	switch state {
	case StateNext:
		return 0
	case StateLive:
		return s.Edition
	}
	n, _ := strconv.Atoi(state)
	return n
}

// waysIn gives the menus and trails in one of their states, which is there.
func (a *App) waysIn(ctx context.Context, tx port.Tx, s port.Site, state string) (ways.Set, error) {
	trees, err := a.treesOf(ctx, tx, s)
	switch {
	case err != nil:
		return nil, err
	case state == StateLive:
		return trees.Ways.Live, nil
	case state == StateNext:
		return trees.Ways.Next, nil
	}
	return tx.WaysAt(ctx, editionOf(s, state))
}

// treeIn gives the sitemap in one of its states.
func (a *App) treeIn(ctx context.Context, tx port.Tx, s port.Site, state string) (*sitemap.Tree, error) {
	if state == StateLive || state == StateNext {
		trees, err := a.treesOf(ctx, tx, s)
		if state == StateLive {
			return trees.Live, err
		}
		return trees.Next, err
	}
	n, err := strconv.Atoi(state)
	if err != nil || n < 1 || n > s.Edition {
		return nil, ErrNotFound
	}
	t, err := tx.TreeAt(ctx, n)
	if err != nil {
		return nil, fmt.Errorf("load edition %d: %w", n, err)
	}
	return t, nil
}
