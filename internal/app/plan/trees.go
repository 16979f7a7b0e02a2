package plan

import (
	"context"
	"fmt"

	"candlepath/internal/core/sitemap"
)

// CacheTrees caches the trees that a transaction made, now that it is committed. The site is as it
// stands after it. Entries and shapes are only written while the site is held, so nobody else changed
// any between.
func (a *Floor) CacheTrees(s Site, trees Trees) {
	if trees.Next == nil {
		return // it made none, such as one that asks first
	}
	if !trees.IsShared() {
		trees = trees.Shared()
	}
	a.trees.PutRead(s, "", editionTrees{s.Edition, trees})
}

// editionTrees are trees, with the edition that Live of them is.
type editionTrees struct {
	edition int
	Trees
}

// TreesOf gives the trees of the site as it stands in the transaction.
func (a *Floor) TreesOf(ctx context.Context, tx Tx, s Site) (Trees, error) {
	if c, ok := a.trees.Get(s, ""); ok {
		a.Counts.TreeHits.Add(1)
		return c.Trees, nil
	}
	a.Counts.TreeMisses.Add(1)
	var known *sitemap.Tree
	since := 0
	if c, _, ok := a.trees.Earlier(s, ""); ok {
		known, since = c.Live, c.edition
	}
	t, err := tx.Trees(ctx, known, since)
	if err != nil {
		return t, fmt.Errorf("load sitemap: %w", err)
	}
	t = t.Shared()
	a.trees.Put(tx, s, "", editionTrees{s.Edition, t})
	return t, nil
}
