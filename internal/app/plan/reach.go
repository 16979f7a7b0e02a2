package plan

import (
	"context"
	"strings"
	"time"

	"candlepath/internal/core/address"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
)

// ReachIn computes the ways in of a tree.
func ReachIn(t *sitemap.Tree, set navigation.Set, summaries []PageSummary, live bool) *reach.Reach {
	links, o := Clickable(t, set, summaries, live)
	return reach.From(t, links, o)
}

// Clickable is what readers can click in a tree besides what the sitemap itself
// makes: links, tiles, trails, and menus that were taken over.
func Clickable(t *sitemap.Tree, set navigation.Set, summaries []PageSummary, live bool) (links []reach.Link, o reach.Options) {
	links = linksOf(t, summaries, live)
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
func linksOf(t *sitemap.Tree, summaries []PageSummary, live bool) []reach.Link {
	drafted := map[string]bool{}
	for _, h := range summaries {
		drafted[h.EntryID] = drafted[h.EntryID] || h.Draft
	}
	var out []reach.Link
	for _, h := range summaries {
		from := t.Find(h.EntryID)
		if from == sitemap.None || h.Draft && live || !live && !h.Draft && drafted[h.EntryID] {
			continue
		}
		for _, l := range h.Links {
			to := sitemap.None
			if id, ok := l.Entry(); ok {
				to = t.Find(id)
			} else if path, _, _ := address.Split(l.To); strings.HasPrefix(path, "/") {
				if normal, err := address.Normal(path); err == nil {
					to = t.PageAt(normal)
				}
			}
			if to != sitemap.None {
				via := reach.Text
				if l.Tile {
					via = reach.Tile
				}
				out = append(out, reach.Link{From: from, To: to, Words: l.Text, Via: via})
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
	r := ReachIn(trees.Next, trees.Navigation.Next, summaries, false)
	a.reach.Store(&keptReach{s.PlanVersion, a.Now(), r})
	return r, nil
}
