package plan

import (
	"context"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// Outline is what the planning screens show.
type Outline struct {
	Site      Site
	Trees     Trees
	Summaries Summaries
	// Visits of the last 30 days, by entry.
	Visits map[string]int
	// Options are those under which this site is checked.
	Options sitemap.CheckOptions
}

// Outline loads both states of the sitemap and the summaries of all pages.
func (a *Floor) Outline(ctx context.Context) (Outline, error) {
	var o Outline
	err := a.Store.Read(ctx, func(tx Tx, s Site) error {
		var err error
		o, err = a.LoadOutline(ctx, tx, s)
		return err
	})
	return o, err
}

// LoadOutline reads Live and Next with what is needed to show them: people, templates,
// page summaries, decisions.
func (a *Floor) LoadOutline(ctx context.Context, tx Tx, s Site) (o Outline, err error) {
	o.Site = s
	if o.Trees, err = a.TreesOf(ctx, tx, s); err != nil {
		return o, err
	}
	if o.Visits, err = a.Visits(ctx, tx, o.Trees); err != nil {
		return o, err
	}
	if o.Options, err = a.CheckOptions(ctx, tx); err != nil {
		return o, err
	}
	o.Summaries, err = a.Summaries(ctx, tx, s)
	return o, err
}

// Planned gives both states of the sitemap, with menus, trails and templates.
func (a *Floor) Planned(ctx context.Context, who Person) (t Trees, version int64, err error) {
	err = Area[Tx]{a, a.Store}.Planning(ctx, who, func(_ Tx, s Site, trees Trees) error {
		t, version = trees, s.PlanVersion
		return nil
	})
	return t, version, err
}

// PageAt gives the page of Next that is at an address as it is written, or was in
// Live; sitemap.None where there is none.
func PageAt(trees Trees, written string) int {
	normal, err := address.Normal(written)
	if err != nil {
		return sitemap.None
	}
	if i := trees.Next.PageAt(normal); i != sitemap.None {
		return i
	}
	if i := trees.Live.PageAt(normal); i != sitemap.None {
		return trees.Next.Find(trees.Live.Ref(i).ID)
	}
	return sitemap.None
}
