package pages

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/textdiff"
)

// CompareTexts tells how the second of two texts of a page differs from the first, as they are
// written.
func (a *Pages) CompareTexts(ctx context.Context, who plan.Person, entry string, before, after content.Page) (runs []textdiff.Run, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		i := trees.Next.Find(entry)
		if i == sitemap.None {
			return plan.ErrNotFound
		}
		templates, err := tx.Templates(ctx)
		if err != nil {
			return err
		}
		t := plan.TemplateOf(templates, trees.Next.Ref(i).Template)
		runs = textdiff.Compare(content.Written(t, content.Clean(before)), content.Written(t, content.Clean(after)))
		return nil
	})
	return runs, err
}
