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
	Was           *string           // what stood in the field where it was; nil: not told
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
		if err := a.checkSeen(ctx, tx, who, act, trees.Next, next, changed); err != nil {
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

// checkSeen tells the later of two planners. Who writes a fact of one entry may do that while what
// stood there still does, whatever else changed; else the version of the plan decides that they looked at.
func (a *Sitemap) checkSeen(ctx context.Context, tx Tx, who plan.Person, act PlanAct, now, wanted *sitemap.Tree, changed []string) error {
	f, known := sitemap.FieldOf(act.Field)
	i, k := now.Find(act.ID), wanted.Find(act.ID)
	if act.Was == nil || !known || i == sitemap.None || k == sitemap.None {
		return withBoth(a.CheckConflicts(ctx, tx, who, act.Seen, changed...), now, wanted, changed)
	}
	before, after := now.At(i), wanted.At(k)
	theirs, mine := f.Get(&before), f.Get(&after)
	if theirs == *act.Was || theirs == mine {
		return nil
	}
	other, err := tx.ActOn(ctx, 0, who.ID, []string{act.ID}, false)
	if errors.Is(err, plan.ErrNotFound) || err == nil && !puts(other, act.ID, f, theirs) {
		return nil // it is the person's own
	}
	if err != nil {
		return err
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	return &plan.EditConflict{Who: people[other.PersonID].Name, Both: &plan.BothValues{Field: f.Words, Theirs: theirs, Mine: mine}}
}

// puts tells whether an act put a value into a fact of an entry.
func puts(act plan.Act, id string, f sitemap.Field, value string) bool {
	return slices.ContainsFunc(act.Patches, func(p sitemap.Patch) bool { return p.ID == id && p.After != nil && f.Get(p.After) == value })
}

// withBoth tells of a conflict over one fact of one entry what stands there and what was to.
func withBoth(err error, now, wanted *sitemap.Tree, changed []string) error {
	var conflict *plan.EditConflict
	if !errors.As(err, &conflict) || len(changed) != 1 {
		return err
	}
	i, k := now.Find(changed[0]), wanted.Find(changed[0])
	if i == sitemap.None || k == sitemap.None {
		return err
	}
	theirs, mine := now.At(i), wanted.At(k)
	for _, f := range sitemap.Fields() { // the title first: it may take the slug along
		if was, is := f.Get(&theirs), f.Get(&mine); was != is {
			conflict.Both = &plan.BothValues{Field: f.Words, Theirs: was, Mine: is}
			break
		}
	}
	return err
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
