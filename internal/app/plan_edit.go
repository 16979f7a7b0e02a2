package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
	"candlepath/internal/core/consequence"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// PlanAct is one act on the planned sitemap, as a client asks for it.
type PlanAct struct {
	Key  string // makes an act sent twice act once
	Seen int64  // the plan version that the client saw
	Do   string // add, paste, retitle, slug, kind, fact, move, step, sort, sort-all, copy, remove, withdraw, return
	ID   string
	IDs  []string // instead of ID, several: kind, fact, move, remove, withdraw, return

	Parent, After string // add, move
	Last          bool   // move: after all that is below Parent
	Step          sitemap.Step
	Value         string // the new title, slug, kind or fact; the pasted list
	Field         string // fact: which
	Confirmed     bool   // consequences were shown
}

// on gives the ids of the entries that the act is on.
func (a PlanAct) on() []string {
	if len(a.IDs) > 0 {
		return a.IDs
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
	Spot      sitemap.Spot // with Confirm: where the entry would go
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
	err := a.store.Write(ctx, func(tx port.Tx, s port.Site) error {
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
		a.trees.Store(nil)
	}
	return res, err
}

// Plan does one act on Next.
func (a *App) Plan(ctx context.Context, who port.Person, act PlanAct) (PlanResult, error) {
	return a.onNext(ctx, who, act.Key, act.ID, func(tx port.Tx, s port.Site, trees port.Trees) (res PlanResult, err error) {
		next, label, id, err := perform(trees.Next, act)
		if errors.Is(err, sitemap.ErrNoEntry) {
			return res, a.whoRemoved(ctx, tx, act, err)
		}
		if err != nil {
			return res, err
		}
		if err := a.quicker(ctx, tx, who, act.Seen, sitemap.Patches(trees.Next, next)); err != nil {
			return res, err
		}
		if act.mayReaddress() {
			if ask, err := a.askFirst(ctx, tx, s, trees, next, act, &res); err != nil || ask {
				return res, err
			}
		}
		res, err = a.record(ctx, tx, s, who, act.Key, label, trees, next)
		res.ID = id
		if err == nil && act.Do == "copy" {
			err = a.copyContent(ctx, tx, who, next, act.ID, id)
		}
		return res, err
	})
}

// perform asks the core for the tree after an act, words the act, and names
// the entry it was on.
func perform(t *sitemap.Tree, act PlanAct) (next *sitemap.Tree, label, id string, err error) {
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
		id = newID()
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
		next, err = t.Change(id, func(e *sitemap.Entry) { e.Slug, e.SlugHeld = strings.TrimSpace(act.Value), true })
		label = fmt.Sprintf("gave %s the slug %s", title(), act.Value)
		if err == nil && act.Value == "" && t.At(t.Find(id)).Kind.IsPage() {
			err = sitemap.ErrSlug
		}
	case "kind":
		next, err = changeKind(t, act.on(), sitemap.Kind(act.Value))
		label = fmt.Sprintf("turned %s into %s", several(), sitemap.Kind(act.Value).Label())
	case "fact":
		next, err = changeFact(t, act.on(), act.Field, act.Value)
		label = fmt.Sprintf("changed the %s of %s", act.Field, several())
	case "move":
		spot := sitemap.Spot{Parent: act.Parent, After: act.After}
		if act.Last {
			spot = t.Last(act.Parent)
		}
		next, err = t.MoveAll(act.on(), spot)
		label = "moved " + several()
	case "step":
		var spot sitemap.Spot
		if spot, err = t.StepSpot(id, act.Step); err == nil {
			next, err = t.Move(id, spot)
		}
		label = fmt.Sprintf("moved %s %s", title(), act.Step)
	case "sort", "sort-all":
		next, err = t.SortBelow(id, act.Do == "sort-all")
		label = fmt.Sprintf("sorted what is below %s", title())
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

func changeKind(t *sitemap.Tree, ids []string, k sitemap.Kind) (*sitemap.Tree, error) {
	if !slices.Contains(sitemap.Kinds(), k) {
		return nil, &Invalid{"value", "This is no kind of entry."}
	}
	return t.ChangeAll(ids, func(e *sitemap.Entry) {
		e.Kind = k
		if k == sitemap.Group {
			e.Slug = ""
		}
		if !k.IsPage() {
			e.Withdrawn = false
			if !e.IsHome() {
				e.Fixed = ""
			}
		}
		if k == sitemap.Reference || k == sitemap.Outside || k == sitemap.File {
			e.Target = ""
		}
	})
}

func changeFact(t *sitemap.Tree, ids []string, field, value string) (*sitemap.Tree, error) {
	value = strings.TrimSpace(value)
	if len(value) > 4000 {
		return nil, &Invalid{field, "This is too long; it takes at most 4,000 characters."}
	}
	if field == "target" {
		for _, id := range ids {
			if i := t.Find(id); i != sitemap.None && t.Ref(i).Kind == sitemap.Outside && !address.IsURL(value) {
				return nil, &Invalid{field, "An outside link needs a URL that begins with https://."}
			}
		}
	}
	known := true
	next, err := t.ChangeAll(ids, func(e *sitemap.Entry) {
		switch field {
		case "short":
			e.Short = value
		case "owner":
			e.Owner = value
		case "template":
			e.Template = value
		case "listed":
			e.Unlisted = value == "no"
		case "notes":
			e.Notes = value
		case "review":
			e.Review = value
		case "readership":
			e.Readership = value
		case "topics":
			e.Topics = value
		case "target":
			e.Target = value
		case "source":
			e.Source = value
		default:
			known = false
		}
	})
	if !known {
		return nil, &Invalid{"field", "This fact is not known."}
	}
	return next, err
}

// quicker tells the later of two planners: an entry that the act changes was
// changed by somebody else after this client last looked.
func (a *App) quicker(ctx context.Context, tx port.Tx, who port.Person, seen int64, patches []sitemap.Patch) error {
	if seen == 0 {
		return nil
	}
	since, err := tx.ActsSince(ctx, seen)
	if err != nil {
		return err
	}
	mine := make(map[string]bool, len(patches))
	for _, p := range patches {
		mine[p.ID] = true
	}
	for _, other := range since {
		if other.PersonID == who.ID {
			continue
		}
		for _, p := range other.Patches {
			if mine[p.ID] {
				return a.meanwhile(ctx, tx, other)
			}
		}
	}
	return nil
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
	since, err2 := tx.ActsSince(ctx, max(act.Seen, 0))
	if err2 != nil {
		return err2
	}
	for _, other := range slices.Backward(since) {
		for _, p := range other.Patches {
			if p.After == nil && (slices.Contains(act.on(), p.ID) || p.ID == act.Parent || p.ID == act.After) {
				return a.meanwhile(ctx, tx, other)
			}
		}
	}
	return err
}

// mayReaddress tells acts that can change the addresses of what is there.
func (a PlanAct) mayReaddress() bool {
	switch a.Do {
	case "move", "step", "remove", "withdraw", "slug", "kind":
		return true
	}
	return false
}

// askFirst tells the consequences of an act that changes addresses colleagues
// use, unless they were confirmed.
func (a *App) askFirst(ctx context.Context, tx port.Tx, s port.Site, trees port.Trees, next *sitemap.Tree, act PlanAct, res *PlanResult) (bool, error) {
	if act.Confirmed {
		return false, nil
	}
	of, err := a.consequences(ctx, tx, s, trees, next, act.on())
	if err != nil || !of.AsksFirst() {
		return false, err
	}
	links, pages, err := tx.LinksTo(ctx, of.Readdressed)
	if err != nil {
		return false, err
	}
	*res = PlanResult{Version: s.PlanVersion, ID: act.ID, Trees: trees, Confirm: &of, Links: links, LinkPages: pages}
	if i := next.Find(act.ID); i != sitemap.None {
		res.Spot = next.SpotOf(i)
	}
	return true, nil
}

func (a *App) consequences(ctx context.Context, tx port.Tx, s port.Site, trees port.Trees, next *sitemap.Tree, ids []string) (consequence.Of, error) {
	table, err := tx.Table(ctx)
	if err != nil {
		return consequence.Of{}, err
	}
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return consequence.Of{}, err
	}
	of, err := consequence.Move(trees.Live, trees.Next, next, table, decisions, s.Hosts, ids...)
	if errors.Is(err, redirect.ErrTable) {
		return of, nil // preflight tells about the table
	}
	return of, err
}

// record writes the difference between two states of Next, and the act.
func (a *App) record(ctx context.Context, tx port.Tx, s port.Site, who port.Person, key, label string, trees port.Trees, next *sitemap.Tree) (PlanResult, error) {
	patches := sitemap.Patches(trees.Next, next)
	if len(patches) == 0 {
		return PlanResult{Version: s.PlanVersion, Trees: trees, Label: label}, nil
	}
	version, err := a.saveNext(ctx, tx, s, who, trees, next, patches)
	if err != nil {
		return PlanResult{}, err
	}
	if err := tx.DropUndone(ctx, who.ID); err != nil {
		return PlanResult{}, err
	}
	act := port.Act{Key: key, PersonID: who.ID, At: a.now(), Label: label, Patches: patches, Version: version}
	if err := tx.AddAct(ctx, act); err != nil {
		return PlanResult{}, err
	}
	return PlanResult{Version: version, Patches: patches, Trees: a.trees.Load().trees, Label: label}, nil
}

// saveNext writes patches to Next and gives the new version of the plan.
func (a *App) saveNext(ctx context.Context, tx port.Tx, s port.Site, who port.Person, trees port.Trees, next *sitemap.Tree, patches []sitemap.Patch) (int64, error) {
	by := port.Planned{PersonID: who.ID, At: a.now()}
	o := overlay(trees.Live, patches)
	if err := tx.SaveOverlay(ctx, o, by); err != nil {
		return 0, fmt.Errorf("save plan: %w", err)
	}
	version, err := tx.BumpPlan(ctx)
	if err != nil {
		return 0, fmt.Errorf("save plan: %w", err)
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
	a.trees.Store(&cachedTrees{s.ID, s.Edition, version, port.Trees{Live: trees.Live, Next: next, Planned: planned}})
	return version, nil
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
