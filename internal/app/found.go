package app

import (
	"context"
	"slices"
	"strings"

	"candlepath/internal/app/port"
	"candlepath/internal/core/content"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/core/workflow"
)

// Founding is what a new site begins with.
type Founding struct {
	Site      port.Site
	People    []port.Person
	Templates []content.Template
}

// Found makes the site of an empty database.
func (a *App) Found(ctx context.Context, f Founding) (port.Site, error) {
	f.Site.ID = newID()
	err := a.store.Note(ctx, func(tx port.Tx, s port.Site) error {
		if s.ID != "" {
			return ErrDone
		}
		if err := tx.CreateSite(ctx, f.Site); err != nil {
			return err
		}
		for _, p := range f.People {
			p.ID = newID()
			p.Login = strings.ToLower(p.Login)
			if err := tx.AddPerson(ctx, p); err != nil {
				return err
			}
		}
		return tx.PutTemplates(ctx, f.Templates)
	})
	return f.Site, err
}

// SiteNow gives the site as it stands; its ID is empty before it is founded.
func (a *App) SiteNow(ctx context.Context) (port.Site, error) {
	var site port.Site
	err := a.store.Note(ctx, func(_ port.Tx, s port.Site) error {
		site = s
		return nil
	})
	return site, err
}

// Everyone lists the people of the site.
func (a *App) Everyone(ctx context.Context) ([]port.Person, error) {
	var people []port.Person
	err := a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		var err error
		people, err = tx.People(ctx)
		return err
	})
	return people, err
}

// planning runs f over one view of the data for somebody who may plan.
func (a *App) planning(ctx context.Context, who port.Person, f func(port.Tx, port.Site, port.Trees) error) error {
	return a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.treesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		return f(tx, s, trees)
	})
}

// Outline is what the planning screens show.
type Outline struct {
	Site  port.Site
	Trees port.Trees
	Heads []port.PageHead
	// Visits of the last 30 days, by entry.
	Visits map[string]int
}

// Outline loads both states of the sitemap and the heads of all pages.
func (a *App) Outline(ctx context.Context) (Outline, error) {
	var o Outline
	err := a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		var err error
		o, err = a.outline(ctx, tx, s)
		return err
	})
	return o, err
}

func (a *App) outline(ctx context.Context, tx port.Tx, s port.Site) (o Outline, err error) {
	o.Site = s
	if o.Trees, err = a.treesOf(ctx, tx, s); err != nil {
		return o, err
	}
	if o.Visits, err = a.visits(ctx, tx, o.Trees); err != nil {
		return o, err
	}
	o.Heads, err = tx.Heads(ctx)
	return o, err
}

// Links counts the links of live pages to an entry.
func (a *App) Links(ctx context.Context, entry string) (links, pages int, err error) {
	err = a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		links, pages, err = tx.LinksTo(ctx, []string{entry})
		return err
	})
	return links, pages, err
}

// LiveSite is what an instance keeps to answer readers.
type LiveSite struct {
	Site  port.Site
	Tree  *sitemap.Tree
	Table *redirect.Table
	// LastAt is when each page was last published or saved; zero for pages
	// without a text.
	Heads map[string]port.PageHead
	News  []News // of late, the newest first
	Ways  ways.Set
}

// LoadLive loads the current edition; ErrNotFound before the site is founded.
func (a *App) LoadLive(ctx context.Context) (LiveSite, error) {
	var l LiveSite
	err := a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if s.ID == "" {
			return ErrNotFound
		}
		trees, err := a.treesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		rows, err := tx.Table(ctx)
		if err != nil {
			return err
		}
		l.Site, l.Tree, l.Ways, l.Heads = s, trees.Live, trees.Ways.Live, map[string]port.PageHead{}
		heads, err := tx.Heads(ctx)
		if err != nil {
			return err
		}
		for _, h := range heads {
			if !h.Draft {
				l.Heads[h.EntryID] = h
			}
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
func (a *App) LiveBody(ctx context.Context, entry string) (port.LiveBody, error) {
	var b port.LiveBody
	err := a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		var err error
		b, err = tx.LiveBody(ctx, entry)
		return err
	})
	return b, err
}

// Search finds live pages. Hits are only told of pages that the tree serves.
func (a *App) Search(ctx context.Context, live *sitemap.Tree, q string, limit int) ([]port.Hit, error) {
	const most = 2000 // that are looked through for somebody who may read few of them
	var kept []port.Hit
	err := a.store.Read(ctx, func(tx port.Tx, _ port.Site) error {
		for n := limit; ; n *= 4 {
			hits, err := tx.Search(ctx, q, n)
			if err != nil {
				return err
			}
			all := len(hits) < n
			kept = slices.DeleteFunc(hits, func(h port.Hit) bool {
				i := live.Find(h.EntryID)
				return i == sitemap.None || live.Served(i) == ""
			})
			if all || len(kept) >= limit || n >= most {
				kept = kept[:min(len(kept), limit)]
				return nil
			}
		}
	})
	return kept, err
}

// Templates lists the templates of the site.
func (a *App) Templates(ctx context.Context) ([]content.Template, error) {
	var list []content.Template
	err := a.store.Note(ctx, func(tx port.Tx, _ port.Site) error {
		var err error
		list, err = tx.Templates(ctx)
		return err
	})
	return list, err
}
