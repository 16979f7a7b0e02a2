package navigation

import (
	"context"
	"fmt"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
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
	Trees   plan.Trees
	Most    int // clicks that are not too many
}

// Leading is what leads to a page, besides the breadcrumbs of those below it.
type Leading struct {
	Menus        []string // titles
	Links, Tiles int
	Lists        int      // inside pages
	Trails       []string // titles
}

// LeadsTo tells what leads to each page.
func (r Reached) LeadsTo() func(i int) Leading {
	by := make([]Leading, r.Tree.Len())
	for i := range r.Links {
		l := &r.Links[i]
		at := &by[l.To]
		switch l.Via {
		case reach.Tile:
			at.Tiles++
		case reach.List:
			at.Lists++
		case reach.Trail:
			if !slices.Contains(at.Trails, l.Words) {
				at.Trails = append(at.Trails, l.Words)
			}
		default:
			at.Links++
		}
	}
	return func(i int) Leading {
		out := by[i]
		for _, id := range r.Menus.Of(i) {
			out.Menus = append(out.Menus, menu.Title(id, r.Tree))
		}
		return out
	}
}

const savingsTold = 8

// Reach computes how readers get to every page of Next, or of Live.
func (a *Navigation) Reach(ctx context.Context, who plan.Person, live bool) (Reached, error) {
	var r Reached
	err := a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		r.Trees, r.Most = trees, s.Settings.Number(setting.MostClicks)
		t, set := r.Trees.Next, r.Trees.Shapes.Next
		if live {
			t, set = r.Trees.Live, r.Trees.Shapes.Live
		}
		summaries, err := a.Summaries(ctx, tx, s)
		if err != nil {
			return err
		}
		r.Links, r.Options = a.Clickable(t, trees.Live, set, summaries, live)
		r.Reach = reach.From(t, r.Links, r.Options)
		r.Menus = menu.For(t, set.Menus())
		r.Visits, err = a.Visits(ctx, tx, r.Trees)
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

// WayTo gives the way to an entry of Next.
func (a *Navigation) WayTo(ctx context.Context, who plan.Person, entry string) (way []reach.Step, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		i := trees.Next.Find(entry)
		if i == sitemap.None {
			return plan.ErrNotFound
		}
		r, err := a.ReachOfNext(ctx, tx, s, trees)
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
func (a *Navigation) PlanTile(ctx context.Context, who plan.Person, key, to string) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, to, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return plan.PlanResult{}, err
		}
		t := trees.Next
		home, i := t.Home(), t.Find(to)
		if home == sitemap.None || i == sitemap.None || t.Served(i) == "" || i == home {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		id := t.Ref(home).ID
		if err := a.OpenElsewhere(ctx, tx, who, t, id); err != nil {
			return plan.PlanResult{}, err
		}
		w, err := a.Writer(ctx, tx, who, t)
		if err != nil {
			return plan.PlanResult{}, err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{id})
		if err != nil {
			return plan.PlanResult{}, err
		}
		page, ok := content.WithTile(w.Template(id), texts[id].Content, content.Values{"to": content.Scheme + to, "title": t.Ref(i).Name()})
		if !ok {
			return plan.PlanResult{}, plan.Refuse("", "The template of the home page takes no tiles. Choose another template, or link to the page in its text.")
		}
		if err := w.Set(ctx, id, &page); err != nil {
			return plan.PlanResult{}, err
		}
		res, err := a.RecordWith(ctx, tx, s, who, key, fmt.Sprintf("put a tile to %q on the home page", t.Ref(i).Title), trees, t, w.SideEffects)
		res.ID = to
		return res, err
	})
}

// BringVisits adds counts of visits, by address, to those of a day.
func (a *Navigation) BringVisits(ctx context.Context, who plan.Person, day time.Time, counts map[string]int) (pages int, unknown []string, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
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

var errNoVisits = plan.Refuse("file", "No address of the file is a live page. Nothing was counted.")
