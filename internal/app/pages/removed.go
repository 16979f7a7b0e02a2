package pages

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// RemovedPage is an entry that left the site and can be brought back.
type RemovedPage struct {
	plan.RemovedEntry
	Path   []string // titles above it, from the top
	Below  []string // titles of what left with it
	Linked []string // titles of the pages that linked to it
	Back   string   // the address that it comes back to
	Until  time.Time
	Over   bool // it was kept long enough, and may be deleted for good
}

// RemovedAsk is which removed pages are looked for.
type RemovedAsk struct {
	Words string // in title or address
	By    string // person who published the removal
	Over  bool   // only those kept long enough
	Limit int
}

// RemovedList is the removed pages that fit.
type RemovedList struct {
	Pages    []RemovedPage // at most as many as asked for
	Total    int           // that fit
	All      int
	Over     int // of all, kept long enough
	By       map[string]int
	KeepDays int
	People   map[string]plan.Person
}

// Removed lists what left the site, the latest first.
func (a *Pages) Removed(ctx context.Context, who plan.Person, ask RemovedAsk) (RemovedList, error) {
	var out RemovedList
	err := a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		list, err := tx.RemovedEntries(ctx)
		if err != nil {
			return err
		}
		g := newGone(list)
		out = RemovedList{All: len(list), KeepDays: s.Settings.Number(setting.KeepRemoved), By: map[string]int{}}
		editions := map[string]int{} // of those shown
		for _, r := range list {
			until := r.At.AddDate(0, 0, s.Settings.Number(setting.KeepRemoved))
			over := !a.Now().Before(until)
			out.By[r.PersonID]++
			if over {
				out.Over++
			}
			if !ask.fits(r, over) {
				continue
			}
			if out.Total++; out.Total > ask.Limit {
				continue
			}
			out.Pages = append(out.Pages, g.page(r, trees.Next, until, over))
			editions[r.Entry.ID] = r.Edition
		}
		linked, err := tx.LinkedBefore(ctx, editions)
		if err != nil {
			return err
		}
		for i, p := range out.Pages {
			for _, id := range linked[p.Entry.ID] {
				out.Pages[i].Linked = append(out.Pages[i].Linked, g.title(id, trees.Next))
			}
		}
		out.People, err = plan.PeopleByID(ctx, tx)
		return err
	})
	return out, err
}

func (ask RemovedAsk) fits(r plan.RemovedEntry, over bool) bool {
	words := strings.ToLower(r.Entry.Title + " " + r.Address)
	return (ask.By == "" || ask.By == r.PersonID) && (!ask.Over || over) && strings.Contains(words, strings.ToLower(strings.TrimSpace(ask.Words)))
}

// DeleteRemoved deletes the texts of removed pages that were kept long enough;
// without ids, of all of them. Their addresses answer on. There is no way back.
func (a *Pages) DeleteRemoved(ctx context.Context, who plan.Person, ids ...string) (deleted int, err error) {
	err = a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		list, err := tx.RemovedEntries(ctx)
		if err != nil {
			return err
		}
		var over []string
		for _, r := range list {
			if !a.Now().Before(r.At.AddDate(0, 0, s.Settings.Number(setting.KeepRemoved))) && (len(ids) == 0 || slices.Contains(ids, r.Entry.ID)) {
				over = append(over, r.Entry.ID)
			}
		}
		if deleted = len(over); deleted == 0 {
			return plan.ErrNotFound
		}
		return tx.DeleteEntries(ctx, over, who.ID, a.Now())
	})
	return deleted, err
}

// BringBack plans a removed entry again, alone or with what left with it, with
// its content as a draft. It is one act that can be undone.
func (a *Pages) BringBack(ctx context.Context, who plan.Person, key, id string, all bool) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, id, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		list, err := tx.RemovedEntries(ctx)
		if err != nil {
			return plan.PlanResult{}, err
		}
		g := newGone(list)
		r, ok := g.by[id]
		if !ok {
			return plan.PlanResult{}, plan.ErrNotFound // or brought back already
		}
		entries := []sitemap.Entry{r.Entry}
		if all {
			entries = g.branch(id)
		}
		next, err := trees.Next.Restore(entries, g.above(r.Entry))
		if err != nil {
			return plan.PlanResult{}, err
		}
		ids := make([]string, len(entries))
		for i, e := range entries {
			ids[i] = e.ID
		}
		if err := tx.BringDraftsBack(ctx, ids); err != nil {
			return plan.PlanResult{}, err
		}
		res, err := a.Record(ctx, tx, s, who, key, fmt.Sprintf("brought back %q", r.Entry.Title), trees, next)
		res.ID = id
		return res, err
	})
}
