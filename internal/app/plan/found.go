package plan

import (
	"context"

	"candlepath/internal/core/content"
)

// SiteNow gives the site as it stands; its ID is empty before it is founded.
func (a *Floor) SiteNow(ctx context.Context) (Site, error) {
	var site Site
	err := a.Store.Note(ctx, func(_ Tx, s Site) error {
		site = s
		return nil
	})
	return site, err
}

// Everyone lists the people of the site.
func (a *Floor) Everyone(ctx context.Context) ([]Person, error) {
	var people []Person
	err := a.Store.Note(ctx, func(tx Tx, _ Site) error {
		var err error
		people, err = tx.People(ctx)
		return err
	})
	return people, err
}

// Outline is what the planning screens show.
type Outline struct {
	Site  Site
	Trees Trees
	Heads []PageHead
	// Visits of the last 30 days, by entry.
	Visits map[string]int
}

// Outline loads both states of the sitemap and the heads of all pages.
func (a *Floor) Outline(ctx context.Context) (Outline, error) {
	var o Outline
	err := a.Store.Read(ctx, func(tx Tx, s Site) error {
		var err error
		o, err = a.LoadOutline(ctx, tx, s)
		return err
	})
	return o, err
}

func (a *Floor) LoadOutline(ctx context.Context, tx Tx, s Site) (o Outline, err error) {
	o.Site = s
	if o.Trees, err = a.TreesOf(ctx, tx, s); err != nil {
		return o, err
	}
	if o.Visits, err = a.Visits(ctx, tx, o.Trees); err != nil {
		return o, err
	}
	o.Heads, err = tx.Heads(ctx)
	return o, err
}

// Templates lists the templates of the site.
func (a *Floor) Templates(ctx context.Context) ([]content.Template, error) {
	var list []content.Template
	err := a.Store.Note(ctx, func(tx Tx, _ Site) error {
		var err error
		list, err = tx.Templates(ctx)
		return err
	})
	return list, err
}
