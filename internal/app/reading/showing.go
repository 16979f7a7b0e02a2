package reading

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Show is a state of the site that somebody walks through, below an address of its own.
type Show struct {
	State  plan.SiteState
	As     string // login or role of who looks; empty: somebody who did not sign in
	Below  string // where its home page is, without a slash at the end
	At     string // the address asked for in it
	Framed bool   // a screen of the studio says around it what it is
	Until  string // a secret link: until when it leads here
	Remark string // where remarks on a page go; empty: none are taken
	Said   bool   // a remark was taken
	Wrong  string // why one was not
}

// ShownPage is a page that differs in a state of the site.
type ShownPage struct {
	Title, Address string
	Kind           change.News
}

// ShownPages gives the pages of a state that differ, as far as they are in a tree.
func ShownPages(st plan.SiteState, sees *sitemap.Tree) (list []ShownPage) {
	for _, c := range st.Changed {
		if i := sees.Find(c.EntryID); i != sitemap.None && sees.Served(i) != "" {
			list = append(list, ShownPage{sees.Ref(i).Title, address.Written(sees.Served(i)), c.Kind})
		}
	}
	return list
}

// ShownTo gives the pages of a state that differ for a login or a role.
func (a *Reading) ShownTo(ctx context.Context, st plan.SiteState, as string) ([]ShownPage, error) {
	who, err := a.ReaderCalled(ctx, as)
	if err != nil {
		return nil, err
	}
	return ShownPages(st, st.Visible(who)), nil
}

// ReaderCalled gives the reader of a login or a role; empty is somebody who did not sign in.
func (a *Reading) ReaderCalled(ctx context.Context, as string) (who readership.Reader, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		who, err = plan.ReaderCalled(ctx, tx, as)
		return err
	})
	return who, err
}

// Showing gives a state of the site as an instance answers from it.
func (a *Reading) Showing(ctx context.Context, st plan.SiteState) (l LiveSite, err error) {
	l = LiveSite{Site: st.Site, Tree: st.Tree, Shapes: st.Shapes, Narrow: st.Narrow, News: []News{}}
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		editions, err := tx.LatestEditions(ctx, newsEditions+max(s.Edition-st.Site.Edition, 0))
		if err != nil {
			return err
		}
		for len(editions) > 0 && editions[0].Number > st.Site.Edition {
			editions = editions[1:]
		}
		news := newsOf(editions)
		l.Notes = notesOf(editions)
		if st.Planned || st.Site.Edition == s.Edition {
			sums, err := a.Summaries(ctx, tx, s)
			if err != nil {
				return err
			}
			l.Announced = announced(sums.NewsOf(st.Planned))
		}
		if st.Planned {
			l.News = changedNews(st, a.Now(), news)
		} else {
			l.News = news
		}
		l.Table, err = redirect.NewTable(st.Rows, st.Tree)
		return err
	})
	return l, err
}

// ShownBody gives the text of a page in a state of the site; lists on it are worked out from what
// its readers may read.
func (a *Reading) ShownBody(ctx context.Context, st plan.SiteState, entry string, sees *sitemap.Tree) (b plan.LiveBody, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if b, err = a.BodyOf(ctx, tx, st, entry); err != nil {
			return err
		}
		return a.compose(ctx, tx, s, &b, plan.Listing{Tree: sees, Entry: entry, Next: st.Planned, Of: st.Texts})
	})
	return b, err
}

// ShownBodies gives the texts of many pages of an edition, each as ShownBody does.
func (a *Reading) ShownBodies(ctx context.Context, st plan.SiteState, entries []string, sees *sitemap.Tree) (out map[string]plan.LiveBody, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if out, err = tx.BodiesAt(ctx, st.Site.Edition, entries); err != nil {
			return err
		}
		for _, id := range entries {
			b := out[id]
			if err := a.compose(ctx, tx, s, &b, plan.Listing{Tree: sees, Entry: id, Of: st.Texts}); err != nil {
				return err
			}
			out[id] = b
		}
		return nil
	})
	return out, err
}
