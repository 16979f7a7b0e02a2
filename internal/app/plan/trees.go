package plan

import (
	"context"
	"fmt"

	"candlepath/internal/core/sitemap"
)

// cachedTrees are the trees of one version of the plan. They are derived from
// the database and immutable, so any instance may keep the newest it saw.
type cachedTrees struct {
	site    string
	edition int
	plan    int64
	trees   Trees
}

// KeepTrees makes the trees of a committed state known to all, unless a later one
// is known.
func (a *Floor) KeepTrees(s Site, plan int64, trees Trees) {
	if trees.diff == nil {
		trees = trees.kept()
	}
	c := &cachedTrees{s.ID, s.Edition, plan, trees}
	for {
		old := a.trees.Load()
		if old != nil && old.site == c.site && (old.edition > c.edition || old.edition == c.edition && old.plan >= c.plan) {
			return
		}
		if a.trees.CompareAndSwap(old, c) {
			return
		}
	}
}

// TreesOf gives the trees of the site as it stands in the transaction.
func (a *Floor) TreesOf(ctx context.Context, tx Tx, s Site) (Trees, error) {
	var known *sitemap.Tree
	since := 0
	if c := a.trees.Load(); c != nil && c.site == s.ID && c.edition <= s.Edition {
		if c.edition == s.Edition && c.plan == s.PlanVersion {
			a.Counts.TreeHits.Add(1)
			return c.trees, nil
		}
		known, since = c.trees.Live, c.edition
	}
	a.Counts.TreeMisses.Add(1)
	t, err := tx.Trees(ctx, known, since)
	if err != nil {
		return t, fmt.Errorf("load sitemap: %w", err)
	}
	if t = t.kept(); tx.Steady() {
		a.KeepTrees(s, s.PlanVersion, t)
	}
	return t, nil
}
