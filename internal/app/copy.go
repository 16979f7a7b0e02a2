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
func (a *App) copyContent(ctx context.Context, tx port.Tx, who port.Person, next *sitemap.Tree, branch, copied string) error {
	twins := next.Twins(branch, copied)
	from := slices.Collect(maps.Keys(twins))
	live, err := tx.PagesOf(ctx, from, false)
	if err != nil {
		return fmt.Errorf("load pages: %w", err)
	}
	drafts, err := tx.PagesOf(ctx, from, true)
	if err != nil {
		return fmt.Errorf("load drafts: %w", err)
	}
	latest := map[string]content.Page{}
	for _, v := range slices.Concat(live, drafts) {
		latest[v.EntryID] = v.Content
	}
	templates, err := tx.Templates(ctx)
	if err != nil {
		return fmt.Errorf("load templates: %w", err)
	}
	people, err := peopleByID(ctx, tx)
	if err != nil {
		return err
	}
	for entry, page := range latest {
		id := twins[entry]
		v, err := a.rendered(templateOf(templates, next.Ref(next.Find(id)).Template), content.Relinked(page, twins), people)
		if err != nil {
			return err
		}
		v.ID, v.EntryID, v.Version, v.PersonID, v.At = newID(), id, 1, who.ID, a.now()
		if err := tx.SaveDraft(ctx, v, 0); err != nil {
			return fmt.Errorf("save the copy of a page: %w", err)
		}
	}
	return nil
}
