package reading

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/markup"
)

// LiveSite is what an instance keeps to answer readers.
type LiveSite struct {
	Site      plan.Site
	Tree      *sitemap.Tree
	Table     *redirect.Table
	Summaries plan.Summaries
	News      []News      // of late, the newest first
	Announced []Announced // pages that go out as news, the latest first; some perhaps later
	Notes     []Note      // what readers are told of editions of late, the newest first
	Shapes    shape.Set
	Narrow    map[string][]string // readerships that bear on entries besides their own
	Texts     *plan.EditionTexts  // of the edition
	Withheld  map[string][]string // addresses of removed pages that not everybody could read, with who could
}

// Readerships gives what bears on who may read entries besides their own readership.
func (l LiveSite) Readerships() map[string][]string {
	return readership.Also(l.Shapes.Readerships(), l.Narrow)
}

// Narrower gives what bears on the entries of an edition that is served on besides their own
// readership, once this later one is known of; nil where that is nothing new.
func (l LiveSite) Narrower(served LiveSite) map[string][]string {
	also, out := served.Readerships(), maps.Clone(served.Narrow)
	inForce := func(id, names string) bool {
		for i := served.Tree.Find(id); i != sitemap.None; i = served.Tree.Parent(i) {
			if e := served.Tree.Ref(i); e.Readership == names || slices.Contains(also[e.ID], names) {
				return true
			}
		}
		return readership.Everybody(names)
	}
	narrower := false
	for _, later := range []map[string][]string{readership.Since(served.Tree, l.Tree), l.Shapes.Readerships()} {
		for id, list := range later {
			for _, names := range list {
				if inForce(id, names) || slices.Contains(out[id], names) {
					continue
				}
				if out == nil {
					out = map[string][]string{}
				}
				out[id], narrower = append(slices.Clone(out[id]), names), true
			}
		}
	}
	if !narrower {
		return nil
	}
	return out
}

// LiveNow gives the newest edition as far as it says who may read what: its site, tree and shapes.
func (a *Reading) LiveNow(ctx context.Context) (l LiveSite, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return plan.ErrNotFound
		}
		trees, err := a.TreesOf(ctx, tx, s)
		l = LiveSite{Site: s, Tree: trees.Live, Shapes: trees.Shapes.Live}
		return err
	})
	return l, err
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
		rows, err := a.RedirectsOf(ctx, tx, s)
		if err != nil {
			return err
		}
		l.Site, l.Tree, l.Shapes = s, trees.Live, trees.Shapes.Live
		if l.Summaries, err = a.Summaries(ctx, tx, s); err != nil {
			return err
		}
		editions, err := tx.LatestEditions(ctx, newsEditions)
		if err != nil {
			return err
		}
		l.Summaries = l.Summaries.OfLive()
		l.Texts = &plan.EditionTexts{Edition: s.Edition, Templates: l.Shapes.Templates(), Live: l.Summaries}
		l.Announced = announced(l.Summaries.NewsOf(false))
		l.News, l.Notes = newsOf(editions), notesOf(editions)
		if l.Withheld, err = tx.Withheld(ctx); err != nil {
			return err
		}
		l.Table, err = redirect.NewTable(rows, trees.Live)
		return err
	})
	return l, err
}

// LiveBody loads what readers get of one page in the edition that an instance serves, which need not be
// the newest; lists on it are worked out from what these readers may read.
func (a *Reading) LiveBody(ctx context.Context, l LiveSite, entry string, sees *sitemap.Tree) (plan.LiveBody, error) {
	var b plan.LiveBody
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		bodies, err := tx.BodiesAt(ctx, l.Site.Edition, []string{entry})
		if err != nil {
			return err
		}
		b = bodies[entry]
		return a.compose(ctx, tx, s, &b, plan.Listing{Tree: sees, Entry: entry, Of: l.Texts})
	})
	return b, err
}

func (a *Reading) compose(ctx context.Context, tx Tx, s plan.Site, b *plan.LiveBody, l plan.Listing) error {
	if b.VersionID == "" {
		return nil
	}
	html, err := markup.Unzip(b.Body)
	if err != nil {
		return fmt.Errorf("stored article of %s: %w", l.Entry, err)
	}
	b.HTML, b.Reads, err = a.Composed(ctx, tx, s, string(html), l)
	return err
}
