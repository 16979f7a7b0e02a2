package app

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

	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
	"candlepath/internal/core/consequence"
	"candlepath/internal/core/content"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
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

// PlanResult is what an act did.
type PlanResult struct {
	Version   int64
	ID        string // what is to be selected now
	Patches   []sitemap.Patch
	Trees     port.Trees
	Label     string
	Confirm   *consequence.Of // set: nothing was done, confirmation is wanted
	Links     int             // with Confirm: links that follow by themselves
	LinkPages int
	Reach     reach.Moved  // with Confirm: pages that come nearer to home, or farther
	Spot      sitemap.Spot // with Confirm: where the entry would go
	Losing    []string     // with Confirm: titles of menus and trails that lead to what goes
}

// Meanwhile says that somebody else changed the same entry after the client
// last looked.
type Meanwhile struct {
	Who, Label string
}

func (e *Meanwhile) Error() string {
	return fmt.Sprintf("%s was quicker: %s. Look at it and try again.", e.Who, e.Label)
}

// onNext runs an act of a planner on Next. An act whose form came twice is not
// run again, and answers what it answered.
func (a *App) onNext(ctx context.Context, who port.Person, key, id string, run func(port.Tx, port.Site, port.Trees) (PlanResult, error)) (PlanResult, error) {
	if err := checkKey(key); err != nil {
		return PlanResult{}, err
	}
	var res PlanResult
	var site port.Site
	err := a.store.Write(ctx, func(tx port.Tx, s port.Site) error {
		site = s
		if err := may(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.treesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if done, err := tx.ActByKey(ctx, key); err == nil {
			res = PlanResult{Version: s.PlanVersion, ID: id, Trees: trees, Label: done.Label, Patches: done.Patches}
			return nil
		}
		res, err = run(tx, s, trees)
		return err
	})
	if err != nil {
		return PlanResult{}, err
	}
	a.keep(site, res.Version, res.Trees)
	a.Counts.Acts.Add(1)
	return res, nil
}

// Plan does one act on Next.
func (a *App) Plan(ctx context.Context, who port.Person, act PlanAct) (PlanResult, error) {
	return a.onNext(ctx, who, act.Key, act.ID, func(tx port.Tx, s port.Site, trees port.Trees) (res PlanResult, err error) {
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
		if err := a.quicker(ctx, tx, who, act.Seen, changed...); err != nil {
			return res, err
		}
		if act.mayReaddress() {
			if ask, err := a.askFirst(ctx, tx, s, trees, next, act, &res); err != nil || ask {
				return res, err
			}
		}
		var also port.Also
		if act.Do == "copy" {
			if also, err = a.copyContent(ctx, tx, who, next, act.ID, id); err != nil {
				return res, err
			}
		}
		res, err = a.recordAlso(ctx, tx, s, who, act.Key, label, trees, next, also)
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
func (a *App) readied(ctx context.Context, tx port.Tx, act PlanAct) (PlanAct, siteFacts, error) {
	var about siteFacts
	switch {
	case act.Do == "mend":
		var err error
		about.check, err = a.checkOptions(ctx, tx)
		return act, about, err
	case act.Field == "readership" && (act.Do == "fact" || act.Do == "facts"):
		known, err := knownReaders(ctx, tx)
		if err != nil {
			return act, about, err
		}
		act, err = eachValue(act, func(v string) (string, error) { return parseReadership(v, known) })
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
				return "", &Invalid{"template", fmt.Sprintf("There is no template %q.", name)}
			}
			return templates[i].Key, nil
		}
		act, err = eachValue(act, key)
		return act, about, err
	case strings.HasPrefix(act.Do, "sort") && act.Value == "date":
		heads, err := tx.Heads(ctx)
		about.written = Outline{Heads: heads}.written()
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

// knownReaders tells whom a readership can name.
func knownReaders(ctx context.Context, tx port.Tx) (func(string) bool, error) {
	people, err := tx.People(ctx)
	known := make(map[string]bool, 2*len(people))
	for _, p := range people {
		known[strings.ToLower(p.Name)], known[p.Login] = true, true
	}
	for _, role := range workflow.Roles() {
		known[string(role)] = true
	}
	return func(name string) bool { return known[strings.ToLower(name)] }, err
}

func parseReadership(v string, known func(string) bool) (string, error) {
	parsed, err := readership.Parse(v, known)
	if err != nil {
		return "", &Invalid{"readership", err.Error()}
	}
	return parsed, nil
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
	title := func() string { return strconv.Quote(titleOf(t, id)) }
	several := func() string {
		if len(act.IDs) > 1 {
			return fmt.Sprintf("%d entries", len(act.IDs))
		}
		return strconv.Quote(titleOf(t, act.on()[0]))
	}
	switch act.Do {
	case "add":
		if id = act.New; id == "" {
			id = newID()
		}
		if _, bad := uuid.Parse(id); bad != nil || t.Find(id) != sitemap.None {
			return nil, "", "", &Invalid{"id", "This entry cannot be added under that id. Load the page again."}
		}
		e := sitemap.Entry{ID: id, Title: sitemap.CleanTitle(act.Value), Kind: sitemap.Page, Template: inherited(t, act.Parent)}
		next, err = t.Add(e, sitemap.Spot{Parent: act.Parent, After: act.After})
		label = fmt.Sprintf("added %q", e.Title)
	case "paste":
		var got *sitemap.Brought
		if got, err = t.Paste(act.Value, act.Parent, newID); err == nil {
			next, id = got.Tree, act.Parent
			label = fmt.Sprintf("pasted %d %s", got.Count[sitemap.IsAdded], plural(got.Count[sitemap.IsAdded], "entry", "entries"))
			if n := got.Count[sitemap.IsRefused]; n > 0 {
				label += fmt.Sprintf("; %d %s there already", n, plural(n, "was", "were"))
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
			return nil, "", "", &Invalid{"values", fmt.Sprintf("At most %d entries are filled at once.", MaxFilled)}
		}
		next, err = fillFacts(t, act.Field, act.Values)
		label = fmt.Sprintf("changed the %s of %d %s", fieldWords[act.Field], len(act.Values), plural(len(act.Values), "entry", "entries"))
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
		label = fmt.Sprintf("made %s a reference to %q", title(), titleOf(t, act.Value))
	case "mend":
		var done string
		if next, done, err = mendAll(t, sitemap.Rule(act.Field), act.on(), about.check); len(act.IDs) > 1 {
			done = "mended"
		}
		label = strings.TrimSpace(several() + " " + done)
	case "copy":
		label = fmt.Sprintf("copied %s", title())
		next, id, err = t.Copy(id, newID)
	case "remove":
		next, err = t.RemoveAll(act.on())
		label = "removed " + several()
	case "withdraw", "return":
		next, err = t.ChangeAll(act.on(), func(e *sitemap.Entry) { e.Withdrawn = act.Do == "withdraw" && e.Kind.IsPage() })
		label = map[string]string{"withdraw": "withdrew ", "return": "brought back "}[act.Do] + several()
	default:
		err = &Invalid{"do", "This act is not known."}
	}
	return next, label, id, err
}

func titleOf(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Ref(i).Title
	}
	return id
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
		return "", &Invalid{"field", "This fact is not known."}
	case len(v) > 4000:
		return "", &Invalid{field, "This is too long; it takes at most 4,000 characters."}
	case field == "target" && e.Kind == sitemap.Outside && !address.IsURL(v):
		return "", &Invalid{field, "An outside link needs a URL that begins with https://."}
	case field == "review" && v != "":
		d, ok := sitemap.ParseDate(v)
		if !ok {
			return "", &Invalid{field, fmt.Sprintf("%q is no date. Write it like 2026-11-24.", v)}
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
			return "", &Invalid{field, fmt.Sprintf("%q is no kind of entry.", v)}
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

// quicker tells the later of two planners: what the act changes, entries or a
// trail, was changed by somebody else after this client last looked.
func (a *App) quicker(ctx context.Context, tx port.Tx, who port.Person, seen int64, changed ...string) error {
	if seen == 0 {
		return nil
	}
	other, err := tx.ActOn(ctx, seen, who.ID, changed, false)
	switch {
	case errors.Is(err, port.ErrNotFound):
		return nil
	case err != nil:
		return err
	}
	return a.meanwhile(ctx, tx, other)
}

func (a *App) meanwhile(ctx context.Context, tx port.Tx, act port.Act) error {
	people, err := peopleByID(ctx, tx)
	if err != nil {
		return err
	}
	return &Meanwhile{people[act.PersonID].Name, act.Label}
}

// whoRemoved explains an act on an entry that is gone.
func (a *App) whoRemoved(ctx context.Context, tx port.Tx, act PlanAct, err error) error {
	other, err2 := tx.ActOn(ctx, act.Seen, "", append(slices.Clone(act.on()), act.Parent, act.After), true)
	switch {
	case errors.Is(err2, port.ErrNotFound):
		return err
	case err2 != nil:
		return err2
	}
	return a.meanwhile(ctx, tx, other)
}

// record writes the difference between two states of Next, and the act.
func (a *App) record(ctx context.Context, tx port.Tx, s port.Site, who port.Person, key, label string, trees port.Trees, next *sitemap.Tree) (PlanResult, error) {
	return a.recordAlso(ctx, tx, s, who, key, label, trees, next, port.Also{})
}

// recordAlso writes an act that did something besides to drafts and decisions.
func (a *App) recordAlso(ctx context.Context, tx port.Tx, s port.Site, who port.Person, key, label string, trees port.Trees, next *sitemap.Tree, also port.Also) (PlanResult, error) {
	patches := sitemap.Patches(trees.Next, next)
	if len(patches)+len(also.Texts)+len(also.Decisions)+len(also.Ways) == 0 {
		return PlanResult{Version: s.PlanVersion, Trees: trees, Label: label}, nil
	}
	var err error
	if trees.Ways, err = a.saveWays(ctx, tx, who, trees.Ways, also.Ways); err != nil {
		return PlanResult{}, err
	}
	trees, version, err := a.saveNext(ctx, tx, who, trees, next, patches)
	if err != nil {
		return PlanResult{}, err
	}
	if err := tx.DropUndone(ctx, who.ID); err != nil {
		return PlanResult{}, err
	}
	act := port.Act{Key: key, PersonID: who.ID, At: a.now(), Label: label, Patches: patches, Version: version, Also: also}
	if err := tx.AddAct(ctx, act); err != nil {
		return PlanResult{}, err
	}
	return PlanResult{Version: version, Patches: patches, Trees: trees, Label: label}, nil
}

// saveNext writes patches to Next and gives the trees as they are then, and the
// new version of the plan.
func (a *App) saveNext(ctx context.Context, tx port.Tx, who port.Person, trees port.Trees, next *sitemap.Tree, patches []sitemap.Patch) (port.Trees, int64, error) {
	by := port.Planned{PersonID: who.ID, At: a.now()}
	o := overlay(trees.Live, patches)
	if err := tx.SaveOverlay(ctx, o, by); err != nil {
		return trees, 0, fmt.Errorf("save plan: %w", err)
	}
	version, err := tx.BumpPlan(ctx)
	if err != nil {
		return trees, 0, fmt.Errorf("save plan: %w", err)
	}
	planned := make(map[string]port.Planned, len(trees.Planned))
	for id, p := range trees.Planned {
		planned[id] = p
	}
	for _, id := range o.Forget {
		delete(planned, id)
	}
	for _, e := range slices.Concat(o.Put, o.Remove) {
		planned[e.ID] = by
	}
	return port.Trees{Live: trees.Live, Next: next, Planned: planned, Ways: trees.Ways}, version, nil
}

// overlay says which planned rows patches make and which they make needless.
func overlay(live *sitemap.Tree, patches []sitemap.Patch) port.Overlay {
	var o port.Overlay
	for _, p := range patches {
		i := live.Find(p.ID)
		switch {
		case p.After == nil && i == sitemap.None:
			o.Forget = append(o.Forget, p.ID)
		case p.After == nil:
			o.Remove = append(o.Remove, live.At(i))
		case i != sitemap.None && live.At(i) == *p.After:
			o.Forget = append(o.Forget, p.ID)
		default:
			o.Put = append(o.Put, *p.After)
		}
	}
	return o
}
