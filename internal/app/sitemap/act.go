package sitemap

import (
	"context"
	"errors"
	"maps"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// PlanAct is one act on the planned sitemap, as a client asks for it.
type PlanAct struct {
	Key  string // makes an act sent twice act once
	Seen int64  // the plan version that the client saw
	Do   string // a key of the table of acts
	ID   string
	New  string   // the id that a new entry is to have; empty: any
	IDs  []string // instead of ID, several

	Parent, After string // where to
	Last          bool   // after all that is below Parent
	Step          sitemap.Step
	Value         string            // what was typed or chosen
	Field         string            // the key of a field, or of a rule that found something
	Values        map[string]string // what to give each entry
	Confirmed     bool              // consequences were shown
}

// Plan does one act on Next.
func (a *Sitemap) Plan(ctx context.Context, who plan.Person, act PlanAct) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, act.Key, act.ID, func(tx Tx, s plan.Site, trees plan.Trees) (res plan.PlanResult, err error) {
		row, known := acts[act.Do]
		if !known {
			return res, plan.Refuse("do", "There is no such act. Load the page again.")
		}
		done, err := row.parse(act).perform(trees.Next, siteFacts{a, ctx, tx, s})
		if errors.Is(err, sitemap.ErrNoEntry) {
			return res, a.whoRemoved(ctx, tx, act, err)
		}
		if err != nil {
			return res, asInvalid(err)
		}
		next, id := done.next, done.id
		var changed []string
		for _, p := range sitemap.Patches(trees.Next, next) {
			changed = append(changed, p.ID)
		}
		if err := a.CheckConflicts(ctx, tx, who, act.Seen, changed...); err != nil {
			return res, err
		}
		if row.asks != nil && row.asks(act) {
			if ask, err := a.askFirst(ctx, tx, s, trees, next, act, &res); err != nil || ask {
				return res, err
			}
		}
		var also plan.SideEffects
		if done.copyOf != "" {
			if also, err = a.copyContent(ctx, tx, who, next, done.copyOf, id); err != nil {
				return res, err
			}
		}
		res, err = a.RecordWith(ctx, tx, s, who, act.Key, done.label, trees, next, also)
		res.ID = id
		return res, err
	})
}

// whoRemoved explains an act on an entry that is gone.
func (a *Sitemap) whoRemoved(ctx context.Context, tx Tx, act PlanAct, err error) error {
	other, err2 := tx.ActOn(ctx, act.Seen, "", append(slices.Clone(act.on()), act.Parent, act.After), true)
	switch {
	case errors.Is(err2, plan.ErrNotFound):
		return err
	case err2 != nil:
		return err2
	}
	return a.ConflictWith(ctx, tx, other)
}

// on gives the ids of the entries that the act is on.
func (a PlanAct) on() []string {
	if len(a.IDs) > 0 {
		return a.IDs
	}
	if len(a.Values) > 0 {
		return slices.Sorted(maps.Keys(a.Values))
	}
	return []string{a.ID}
}
