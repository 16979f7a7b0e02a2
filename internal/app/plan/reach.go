package plan

import (
	"context"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
)

// ReachIn computes the ways in of a tree.
func ReachIn(t, liveTree *sitemap.Tree, set navigation.Set, summaries Summaries, live bool) *reach.Reach {
	links, o := Clickable(t, liveTree, set, summaries, live)
	return reach.From(t, links, o)
}

// Clickable is what readers can click in a tree besides what the sitemap itself
// makes: links, tiles, trails, and menus that were taken over.
func Clickable(t, liveTree *sitemap.Tree, set navigation.Set, summaries Summaries, live bool) (links []reach.Link, o reach.Options) {
	links = linksOf(t, liveTree, summaries, live)
	for _, tr := range set.Trails() {
		steps := tr.Steps(t)
		for _, from := range steps {
			for _, to := range steps {
				links = append(links, reach.Link{From: from, To: to, Words: tr.Title, Via: reach.Trail})
			}
		}
	}
	if owns := set.Menus(); len(owns) > 0 {
		o.Menus = menu.For(t, owns)
	}
	return links, o
}

// linksOf gives the links of pages that lead to entries of a tree: of Live what
// is published, of Next drafts where there are some.
func linksOf(t, liveTree *sitemap.Tree, summaries Summaries, live bool) []reach.Link {
	drafted := map[string]*PageSummary{}
	if !live {
		drafted = summaries.ByEntry()
	}
	known := summaries.Links(liveTree)
	out := make([]reach.Link, 0, known.Len())
	add := func(from, to int, l *content.FoundLink) {
		if to == sitemap.None {
			return
		}
		via := reach.Text
		if l.Tile {
			via = reach.Tile
		}
		out = append(out, reach.Link{From: from, To: to, Words: l.Text, Via: via})
	}
	view := known.In(t)
	view.Each(func(from int, p *link.Page, to []int32) {
		if len(drafted) > 0 && drafted[p.ID] != nil {
			return
		}
		for k := range p.Links {
			add(from, view.Leads(to[k], &p.Links[k]), &p.Links[k])
		}
	})
	for _, h := range drafted {
		if from := t.Find(h.EntryID); from != sitemap.None {
			for k := range h.Links {
				add(from, link.Leads(t, &h.Links[k]), &h.Links[k])
			}
		}
	}
	return out
}

// keptReach is what was computed last, for whoever looks at one entry after the
// other.
type keptReach struct {
	plan int64
	at   time.Time
	*reach.Reach
}

// ReachOfNext computes the ways in Next. Texts are written while somebody looks
// around, so what was computed is kept for a moment only.
func (a *Floor) ReachOfNext(ctx context.Context, tx Tx, s Site, trees Trees) (*reach.Reach, error) {
	const moment = 10 * time.Second
	if kept := a.reach.Load(); kept != nil && kept.plan == s.PlanVersion && a.Now().Sub(kept.at) < moment {
		return kept.Reach, nil
	}
	summaries, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return nil, err
	}
	r := ReachIn(trees.Next, trees.Live, trees.Navigation.Next, summaries, false)
	a.reach.Store(&keptReach{s.PlanVersion, a.Now(), r})
	return r, nil
}
