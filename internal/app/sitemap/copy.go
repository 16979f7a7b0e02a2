package sitemap

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// copyContent gives the pages of a copied branch the text of the pages they
// were copied from, as drafts: what is planned for those, else what is live.
// Links within the branch lead within the copy.
func (a *Sitemap) copyContent(ctx context.Context, tx Tx, who plan.Person, next *sitemap.Tree, branch, copied string) (plan.SideEffects, error) {
	twins := next.CopyPairs(branch, copied)
	latest, err := plan.LatestTexts(ctx, tx, slices.Collect(maps.Keys(twins)))
	if err != nil {
		return plan.SideEffects{}, err
	}
	w, err := a.Writer(ctx, tx, who, next)
	if err != nil {
		return plan.SideEffects{}, err
	}
	for entry, v := range latest {
		page := content.Relinked(v.Content, twins)
		if err := w.Set(ctx, twins[entry], &page); err != nil {
			return plan.SideEffects{}, fmt.Errorf("copy a page: %w", err)
		}
	}
	return w.SideEffects, nil
}
