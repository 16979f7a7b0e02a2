package pages

import (
	"context"
	"errors"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/textdiff"
)

// CompareTexts tells how the second of two texts of a page differs from the first, as they are
// written.
func (a *Pages) CompareTexts(ctx context.Context, who plan.Person, entry string, before, after content.Page) (runs []textdiff.Run, err error) {
	err = a.onPage(ctx, who, entry, func(_ Tx, _ plan.Site, _ plan.Trees, t content.Template) error {
		runs = textdiff.Compare(content.Written(t, content.Clean(before)), content.Written(t, content.Clean(after)))
		return nil
	})
	return runs, err
}

// ChangesSinceLive tells block by block how a text of a page differs from what colleagues
// see of it; nil where they see none.
func (a *Pages) ChangesSinceLive(ctx context.Context, who plan.Person, entry string, p content.Page) (changes []content.BlockChange, err error) {
	err = a.onPage(ctx, who, entry, func(tx Tx, _ plan.Site, _ plan.Trees, _ content.Template) error {
		live, err := tx.LivePage(ctx, entry)
		if errors.Is(err, plan.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		changes = content.Changes(content.Identified(content.Clean(live.Content), entry), content.Identified(content.Clean(p), entry))
		return nil
	})
	return changes, err
}
