package app

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/app/port"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// copyContent gives the pages of a copied branch the text of the pages they
// were copied from, as drafts: what is planned for those, else what is live.
// Links within the branch lead within the copy.
func (a *App) copyContent(ctx context.Context, tx port.Tx, who port.Person, next *sitemap.Tree, branch, copied string) (port.Also, error) {
	twins := next.Twins(branch, copied)
	latest, err := latestTexts(ctx, tx, slices.Collect(maps.Keys(twins)))
	if err != nil {
		return port.Also{}, err
	}
	w, err := a.writer(ctx, tx, who, next)
	if err != nil {
		return port.Also{}, err
	}
	for entry, v := range latest {
		page := content.Relinked(v.Content, twins)
		if err := w.set(ctx, twins[entry], &page); err != nil {
			return port.Also{}, fmt.Errorf("copy a page: %w", err)
		}
	}
	return w.also, nil
}
