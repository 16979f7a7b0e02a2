package sitemap

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// PlanAct is one act on the planned sitemap, as a client asks for it.
type PlanAct struct {
	Key  string // makes an act sent twice act once
	Seen int64  // the plan version that the client saw
	Do   string // add, paste, retitle, slug, kind, fact, facts, move, step, sort, sort-all, copy, refer, mend, remove, withdraw, return
	ID   string
	New  string   // add: the id of the new entry; empty: any
	IDs  []string // instead of ID, several: kind, fact, move, step, mend, remove, withdraw, return

	Parent, After string // add, move
	Last          bool   // move: after all that is below Parent
	Step          sitemap.Step
	Value         string            // the new title, slug, kind or fact; the pasted list; sort: by title or date
	Field         string            // fact, facts: which; mend: the rule that found something
	Values        map[string]string // facts: what to give each entry
	Confirmed     bool              // consequences were shown
}

// Plan does one act on Next.
func (a *Sitemap) Plan(ctx context.Context, who plan.Person, act PlanAct) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, act.Key, act.ID, func(tx Tx, s plan.Site, trees plan.Trees) (res plan.PlanResult, err error) {
		act, about, err := a.readied(ctx, tx, act)
		if err != nil {
			return res, err
		}
		next, label, id, err := perform(trees.Next, act, about)
		if errors.Is(err, sitemap.ErrNoEntry) {
			return res, a.whoRemoved(ctx, tx, act, err)
		}
		if err != nil {
			return res, err
		}
		var changed []string
		for _, p := range sitemap.Patches(trees.Next, next) {
			changed = append(changed, p.ID)
		}
		if err := a.Quicker(ctx, tx, who, act.Seen, changed...); err != nil {
			return res, err
		}
		if act.mayReaddress() {
			if ask, err := a.askFirst(ctx, tx, s, trees, next, act, &res); err != nil || ask {
				return res, err
			}
		}
		var also plan.Also
		if act.Do == "copy" {
			if also, err = a.copyContent(ctx, tx, who, next, act.ID, id); err != nil {
				return res, err
			}
		}
		res, err = a.RecordAlso(ctx, tx, s, who, act.Key, label, trees, next, also)
		res.ID = id
		return res, err
	})
}

// siteFacts is what some acts need to know of the site besides the tree.
type siteFacts struct {
	written map[string]time.Time // sort by date: when texts were written
	check   sitemap.CheckOptions // mend
}

// readied completes an act with what it needs of the site: templates by their
// key where people name them, for sorting by date when texts were written, and
// for mending what is checked.
func (a *Sitemap) readied(ctx context.Context, tx Tx, act PlanAct) (PlanAct, siteFacts, error) {
	var about siteFacts
	switch {
	case act.Do == "mend":
		var err error
		about.check, err = a.CheckOptions(ctx, tx)
		return act, about, err
	case act.Field == "readership" && (act.Do == "fact" || act.Do == "facts"):
		known, err := plan.KnownReaders(ctx, tx)
		if err != nil {
			return act, about, err
		}
		act, err = eachValue(act, func(v string) (string, error) { return plan.ParseReadership(v, known) })
		return act, about, err
	case act.Field == "template" && (act.Do == "fact" || act.Do == "facts"):
		templates, err := tx.Templates(ctx)
		if err != nil {
			return act, about, err
		}
		key := func(name string) (string, error) {
			i := slices.IndexFunc(templates, func(t content.Template) bool {
				return t.Key == name || strings.EqualFold(t.Name, strings.TrimSpace(name))
			})
			if i < 0 {
				return "", plan.Refuse("template", fmt.Sprintf("There is no template %q.", name))
			}
			return templates[i].Key, nil
		}
		act, err = eachValue(act, key)
		return act, about, err
	case strings.HasPrefix(act.Do, "sort") && act.Value == "date":
		heads, err := tx.Heads(ctx)
		about.written = plan.Outline{Heads: heads}.LastWritten()
		return act, about, err
	}
	return act, about, nil
}

// eachValue puts every value that an act gives through a function.
func eachValue(act PlanAct, f func(string) (string, error)) (PlanAct, error) {
	var err error
	if act.Do == "fact" {
		act.Value, err = f(act.Value)
		return act, err
	}
	values := make(map[string]string, len(act.Values))
	for id, v := range act.Values {
		if values[id], err = f(v); err != nil {
			return act, err
		}
	}
	act.Values = values
	return act, nil
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
	return a.Meanwhile(ctx, tx, other)
}

// mayReaddress tells acts that can change the addresses of what is there.
func (a PlanAct) mayReaddress() bool {
	switch a.Do {
	case "move", "step", "remove", "withdraw", "slug", "kind", "refer", "mend":
		return true
	case "facts":
		return a.Field == "kind" || a.Field == "slug"
	}
	return false
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
