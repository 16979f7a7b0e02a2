package sitemap

import (
	"context"

	"candlepath/internal/app/plan"
)

// Links counts the links of live pages to an entry.
func (a *Sitemap) Links(ctx context.Context, entry string) (links, pages int, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		links, pages, err = tx.LinksTo(ctx, []string{entry})
		return err
	})
	return links, pages, err
}
