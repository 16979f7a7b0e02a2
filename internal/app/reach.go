package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/core/workflow"
)

// Reached is how readers get to the pages of Live or Next.
type Reached struct {
	*reach.Reach
	Summary reach.Summary
	Savings []reach.Saving // of one more tile on home, best first
	Visits  map[string]int
	Links   []reach.Link
	Options reach.Options
	Menus   *menu.Maker
	Trees   port.Trees
	Most    int // clicks that are not too many
}

// Leading is what leads to a page, besides the breadcrumbs of those below it.
type Leading struct {
	Menus        []string // titles
	Links, Tiles int
	Trails       []string // titles
}

// LeadsTo tells what leads to each page.
func (r Reached) LeadsTo() func(i int) Leading {
	by := map[int]*Leading{}
	for _, l := range r.Links {
		at := by[l.To]
		if at == nil {
			at = &Leading{}
			by[l.To] = at
		}
		switch l.Via {
		case reach.Tile:
			at.Tiles++
		case reach.Trail:
			if !slices.Contains(at.Trails, l.Words) {
				at.Trails = append(at.Trails, l.Words)
			}
		default:
			at.Links++
		}
	}
	return func(i int) Leading {
		var out Leading
		if at := by[i]; at != nil {
			out = *at
		}
		for _, id := range r.Menus.Of(i) {
			out.Menus = append(out.Menus, menu.Title(id, r.Tree))
		}
		return out
	}
}

const savingsTold = 8

// Reach computes how readers get to every page of Next, or of Live.
func (a *App) Reach(ctx context.Context, who port.Person, live bool) (Reached, error) {
	var r Reached
	err := a.planning(ctx, who, func(tx port.Tx, s port.Site, trees port.Trees) error {
		r.Trees, r.Most = trees, s.MostClicks
		t, set := r.Trees.Next, r.Trees.Ways.Next
		if live {
			t, set = r.Trees.Live, r.Trees.Ways.Live
		}
		heads, err := tx.CheckedHeads(ctx)
		if err != nil {
			return err
		}
		r.Links, r.Options = clickable(t, set, heads, live)
		r.Reach = reach.From(t, r.Links, r.Options)
		r.Menus = menu.For(t, set.Menus())
		r.Visits, err = a.visits(ctx, tx, r.Trees)
		return err
	})
	if err != nil {
		return r, err
	}
	count := func(i int) int { return r.Visits[r.Tree.Ref(i).ID] }
	r.Summary = r.Summarise(count, r.Most)
	r.Savings = r.Reach.Savings(r.Links, count, r.Options, savingsTold)
	return r, nil
}

// reachIn computes the ways in of a tree.
func reachIn(t *sitemap.Tree, set ways.Set, heads []port.PageHead, live bool) *reach.Reach {
	links, o := clickable(t, set, heads, live)
	return reach.From(t, links, o)
}

// clickable is what readers can click in a tree besides what the sitemap itself
// makes: links, tiles, trails, and menus that were taken over.
func clickable(t *sitemap.Tree, set ways.Set, heads []port.PageHead, live bool) (links []reach.Link, o reach.Options) {
	links = linksOf(t, heads, live)
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
func linksOf(t *sitemap.Tree, heads []port.PageHead, live bool) []reach.Link {
	drafted := map[string]bool{}
	for _, h := range heads {
		drafted[h.EntryID] = drafted[h.EntryID] || h.Draft
	}
	var out []reach.Link
	for _, h := range heads {
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

// reachOfNext computes the ways in Next. Texts are written while somebody looks
// around, so what was computed is kept for a moment only.
func (a *App) reachOfNext(ctx context.Context, tx port.Tx, s port.Site, trees port.Trees) (*reach.Reach, error) {
	const moment = 10 * time.Second
	if kept := a.reach.Load(); kept != nil && kept.plan == s.PlanVersion && a.now().Sub(kept.at) < moment {
		return kept.Reach, nil
	}
	heads, err := tx.CheckedHeads(ctx)
	if err != nil {
		return nil, err
	}
	r := reachIn(trees.Next, trees.Ways.Next, heads, false)
	a.reach.Store(&keptReach{s.PlanVersion, a.now(), r})
	return r, nil
}

// WayTo gives the way to an entry of Next.
func (a *App) WayTo(ctx context.Context, who port.Person, entry string) (way []reach.Step, err error) {
	err = a.planning(ctx, who, func(tx port.Tx, s port.Site, trees port.Trees) error {
		i := trees.Next.Find(entry)
		if i == sitemap.None {
			return ErrNotFound
		}
		r, err := a.reachOfNext(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		way = r.Way(i)
		return nil
	})
	return way, err
}

// PlanTile puts a tile to a page on the home page's draft, as an act that can be
// undone.
func (a *App) PlanTile(ctx context.Context, who port.Person, key, to string) (PlanResult, error) {
	return a.onNext(ctx, who, key, to, func(tx port.Tx, s port.Site, trees port.Trees) (PlanResult, error) {
		if err := may(s, who, workflow.Write); err != nil {
			return PlanResult{}, err
		}
		t := trees.Next
		home, i := t.Home(), t.Find(to)
		if home == sitemap.None || i == sitemap.None || t.Served(i) == "" || i == home {
			return PlanResult{}, ErrNotFound
		}
		id := t.Ref(home).ID
		if err := a.openElsewhere(ctx, tx, who, t, id); err != nil {
			return PlanResult{}, err
		}
		w, err := a.writer(ctx, tx, who, t)
		if err != nil {
			return PlanResult{}, err
		}
		texts, err := latestTexts(ctx, tx, []string{id})
		if err != nil {
			return PlanResult{}, err
		}
		page, ok := content.WithTile(w.template(id), texts[id].Content, content.Tile{To: content.Scheme + to, Title: t.Ref(i).Name()})
		if !ok {
			return PlanResult{}, &Invalid{"", "The template of the home page takes no tiles. Choose another template, or link to the page in its text."}
		}
		if err := w.set(ctx, id, &page); err != nil {
			return PlanResult{}, err
		}
		res, err := a.recordAlso(ctx, tx, s, who, key, fmt.Sprintf("put a tile to %q on the home page", t.Ref(i).Title), trees, t, w.also)
		res.ID = to
		return res, err
	})
}

// BringVisits adds counts of visits, by address, to those of a day.
func (a *App) BringVisits(ctx context.Context, who port.Person, day time.Time, counts map[string]int) (pages int, unknown []string, err error) {
	err = a.store.Note(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.treesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		byEntry := map[string]int{}
		for at, n := range counts {
			normal, err := address.Normal(at)
			i := sitemap.None
			if err == nil {
				i = trees.Live.PageAt(normal)
			}
			if i == sitemap.None {
				unknown = append(unknown, at)
				continue
			}
			byEntry[trees.Live.Ref(i).ID] += n
		}
		pages = len(byEntry)
		slices.Sort(unknown)
		if pages == 0 {
			return errNoVisits
		}
		return tx.AddVisits(ctx, day, byEntry)
	})
	return pages, unknown, err
}

var errNoVisits = &Invalid{"file", "No address of the file is a live page. Nothing was counted."}
