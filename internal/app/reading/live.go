package reading

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// LiveSite is what an instance keeps to answer readers.
type LiveSite struct {
	Site       plan.Site
	Tree       *sitemap.Tree
	Table      *redirect.Table
	Summaries  plan.Summaries
	News       []News // of late, the newest first
	Navigation navigation.Set
}

// LoadLive loads the current edition; ErrNotFound before the site is founded.
func (a *Reading) LoadLive(ctx context.Context) (LiveSite, error) {
	var l LiveSite
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return plan.ErrNotFound
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		rows, err := tx.Table(ctx)
		if err != nil {
			return err
		}
		l.Site, l.Tree, l.Navigation = s, trees.Live, trees.Navigation.Live
		if l.Summaries, err = a.Summaries(ctx, tx, s); err != nil {
			return err
		}
		editions, err := tx.LatestEditions(ctx, newsEditions)
		if err != nil {
			return err
		}
		l.News = newsOf(editions)
		l.Table, err = redirect.NewTable(rows, trees.Live)
		return err
	})
	return l, err
}

// LiveBody loads what readers get of one page.
func (a *Reading) LiveBody(ctx context.Context, entry string) (plan.LiveBody, error) {
	var b plan.LiveBody
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		var err error
		b, err = tx.LiveBody(ctx, entry)
		return err
	})
	return b, err
}
