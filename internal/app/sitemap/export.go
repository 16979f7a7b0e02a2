package sitemap

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Export gives the tree to write to a file: Live or Next.
func (a *Sitemap) Export(ctx context.Context, who plan.Person, live bool) (*sitemap.Tree, plan.Site, error) {
	var t *sitemap.Tree
	var site plan.Site
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		t, site = trees.Next, s
		if live {
			t = trees.Live
		}
		return err
	})
	return t, site, err
}
