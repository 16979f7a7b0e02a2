package sitemap

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
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

// orderOf is the order in which an act sorts.
func orderOf(act PlanAct, written map[string]time.Time) (order sitemap.Order, words string) {
	if act.Value == "date" {
		return sitemap.ByDate(func(id string) time.Time { return written[id] }), " by date"
	}
	return sitemap.ByTitle(), ""
}

// perform asks the core for the tree after an act, words the act, and names
// the entry it was on.
func perform(t *sitemap.Tree, act PlanAct, about siteFacts) (next *sitemap.Tree, label, id string, err error) {
	id = act.ID
	title := func() string { return strconv.Quote(plan.TitleOf(t, id)) }
	several := func() string {
		if len(act.IDs) > 1 {
			return fmt.Sprintf("%d entries", len(act.IDs))
		}
		return strconv.Quote(plan.TitleOf(t, act.on()[0]))
	}
	switch act.Do {
	case "add":
		if id = act.New; id == "" {
			id = plan.NewID()
		}
		if _, bad := uuid.Parse(id); bad != nil || t.Find(id) != sitemap.None {
			return nil, "", "", plan.Refuse("id", "This entry cannot be added under that id. Load the page again.")
		}
		e := sitemap.Entry{ID: id, Title: sitemap.CleanTitle(act.Value), Kind: sitemap.Page, Template: inherited(t, act.Parent)}
		next, err = t.Add(e, sitemap.Spot{Parent: act.Parent, After: act.After})
		label = fmt.Sprintf("added %q", e.Title)
	case "paste":
		var got *sitemap.Brought
		if got, err = t.Paste(act.Value, act.Parent, plan.NewID); err == nil {
			next, id = got.Tree, act.Parent
			label = fmt.Sprintf("pasted %d %s", got.Count[sitemap.IsAdded], plan.Plural(got.Count[sitemap.IsAdded], "entry", "entries"))
			if n := got.Count[sitemap.IsRefused]; n > 0 {
				label += fmt.Sprintf("; %d %s there already", n, plan.Plural(n, "was", "were"))
			}
		}
	case "retitle":
		next, err = t.Retitle(id, sitemap.CleanTitle(act.Value))
		label = fmt.Sprintf("renamed %s to %q", title(), sitemap.CleanTitle(act.Value))
	case "slug":
		next, err = changeFact(t, act.on(), "slug", act.Value)
		if err == nil {
			label = fmt.Sprintf("gave %s the slug %s", title(), next.Ref(next.Find(id)).Slug)
		}
	case "kind":
		next, err = changeFact(t, act.on(), "kind", act.Value)
		label = fmt.Sprintf("turned %s into %s", several(), sitemap.Kind(act.Value).Label())
	case "fact":
		next, err = changeFact(t, act.on(), act.Field, act.Value)
		label = fmt.Sprintf("changed the %s of %s", fieldWords[act.Field], several())
	case "facts":
		if id = ""; len(act.Values) == 0 || len(act.Values) > MaxFilled {
			return nil, "", "", plan.Refuse("values", fmt.Sprintf("At most %d entries are filled at once.", MaxFilled))
		}
		next, err = fillFacts(t, act.Field, act.Values)
		label = fmt.Sprintf("changed the %s of %d %s", fieldWords[act.Field], len(act.Values), plan.Plural(len(act.Values), "entry", "entries"))
	case "move":
		spot := sitemap.Spot{Parent: act.Parent, After: act.After}
		if act.Last {
			spot = t.Last(act.Parent)
		}
		next, err = t.MoveAll(act.on(), spot)
		label = "moved " + several()
	case "step":
		next, err = t.StepAll(act.on(), act.Step)
		label = fmt.Sprintf("moved %s %s", several(), act.Step)
	case "sort", "sort-all":
		order, words := orderOf(act, about.written)
		next, err = t.SortBelow(id, act.Do == "sort-all", order)
		label = fmt.Sprintf("sorted what is below %s%s", title(), words)
	case "refer":
		next, err = t.Join(act.Value, id, true)
		label = fmt.Sprintf("made %s a reference to %q", title(), plan.TitleOf(t, act.Value))
	case "mend":
		var done string
		if next, done, err = mendAll(t, sitemap.Rule(act.Field), act.on(), about.check); len(act.IDs) > 1 {
			done = "mended"
		}
		label = strings.TrimSpace(several() + " " + done)
	case "copy":
		label = fmt.Sprintf("copied %s", title())
		next, id, err = t.Copy(id, plan.NewID)
	case "remove":
		next, err = t.RemoveAll(act.on())
		label = "removed " + several()
	case "withdraw", "return":
		next, err = t.ChangeAll(act.on(), func(e *sitemap.Entry) { e.Withdrawn = act.Do == "withdraw" && e.Kind.IsPage() })
		label = map[string]string{"withdraw": "withdrew ", "return": "brought back "}[act.Do] + several()
	default:
		err = plan.Refuse("do", "This act is not known.")
	}
	return next, label, id, err
}

// inherited is the template that a new page takes over from its surroundings.
func inherited(t *sitemap.Tree, parent string) string {
	if i := t.Find(parent); i != sitemap.None {
		return t.Ref(i).Template
	}
	if h := t.Home(); h != sitemap.None {
		return t.Ref(h).Template
	}
	return ""
}

// MaxFilled is the most entries that are given values in one act.
const MaxFilled = 5_000

// fieldWords are the facts of an entry that an act can change, in words.
var fieldWords = map[string]string{
	"title": "title", "kind": "kind", "slug": "slug", "short": "short title", "owner": "owner", "template": "template", "listed": "place in menus", "notes": "notes",
	"review": "review date", "readership": "readership", "topics": "topics", "target": "target", "source": "source",
}

func changeFact(t *sitemap.Tree, ids []string, field, value string) (*sitemap.Tree, error) {
	values := make(map[string]string, len(ids))
	for _, id := range ids {
		values[id] = value
	}
	return fillFacts(t, field, values)
}

// fillFacts gives each of several entries a value of its own; all or none
// change.
func fillFacts(t *sitemap.Tree, field string, values map[string]string) (*sitemap.Tree, error) {
	clean := make(map[string]string, len(values))
	for id, v := range values {
		i := t.Find(id)
		if i == sitemap.None {
			return nil, sitemap.ErrNoEntry
		}
		var err error
		if clean[id], err = readFact(t.Ref(i), field, strings.TrimSpace(v)); err != nil {
			return nil, err
		}
	}
	return t.ChangeAll(slices.Sorted(maps.Keys(clean)), func(e *sitemap.Entry) { setFact(e, field, clean[e.ID]) })
}

// readFact checks what somebody typed as a fact of an entry.
func readFact(e *sitemap.Entry, field, v string) (string, error) {
	switch {
	case fieldWords[field] == "":
		return "", plan.Refuse("field", "This fact is not known.")
	case len(v) > 4000:
		return "", plan.Refuse(field, "This is too long; it takes at most 4,000 characters.")
	case field == "target" && e.Kind == sitemap.Outside && !address.IsURL(v):
		return "", plan.Refuse(field, "An outside link needs a URL that begins with https://.")
	case field == "review" && v != "":
		d, ok := sitemap.ParseDate(v)
		if !ok {
			return "", plan.Refuse(field, fmt.Sprintf("%q is no date. Write it like 2026-11-24.", v))
		}
		return d, nil
	case field == "slug" && v == "" && e.Kind.IsPage():
		return "", sitemap.ErrSlug
	case field == "topics":
		return sitemap.JoinTopics(v), nil
	case field == "title":
		return sitemap.CleanTitle(v), nil
	case field == "kind":
		k, ok := sitemap.ParseKind(v)
		if !ok {
			return "", plan.Refuse(field, fmt.Sprintf("%q is no kind of entry.", v))
		}
		return string(k), nil
	}
	return v, nil
}

// textFact is the field of a fact that is nothing but its text; nil for others.
func textFact(e *sitemap.Entry, field string) *string {
	switch field {
	case "short":
		return &e.Short
	case "owner":
		return &e.Owner
	case "template":
		return &e.Template
	case "notes":
		return &e.Notes
	case "review":
		return &e.Review
	case "readership":
		return &e.Readership
	case "topics":
		return &e.Topics
	case "target":
		return &e.Target
	case "source":
		return &e.Source
	}
	return nil
}

func setFact(e *sitemap.Entry, field, v string) {
	switch field {
	case "title":
		e.Retitle(v)
	case "kind":
		e.Turn(sitemap.Kind(v))
	case "slug":
		e.Slug, e.SlugHeld = v, true
	case "listed":
		e.Unlisted = sitemap.ParseNo(v)
	default:
		if at := textFact(e, field); at != nil {
			*at = v
		}
	}
}

// factOf gives a fact as setFact takes it.
func factOf(e *sitemap.Entry, field string) string {
	switch field {
	case "title":
		return e.Title
	case "listed":
		if e.Unlisted {
			return "no"
		}
		return "yes"
	}
	if at := textFact(e, field); at != nil {
		return *at
	}
	return ""
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
