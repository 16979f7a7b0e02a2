package editions

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/core/workflow"
)

// NotReady says that preflight found errors, so nothing was published.
type NotReady struct{ Findings []preflight.Finding }

func (e *NotReady) Error() string {
	n, _ := preflight.Errors(e.Findings)
	return fmt.Sprintf("preflight found %d %s; nothing was published", n, plan.Plural(n, "error", "errors"))
}

// ErrOwnWork says that a person may not publish what they made themselves.
var ErrOwnWork = errors.New("part of this is your own work; somebody else has to publish it")

// PublishAsk is the wish to publish.
type PublishAsk struct {
	Key     string
	Why     string
	Changes Select
	Form    *ChoiceForm // what the person had before them and chose, or nil: Changes
}

// Publish makes the next edition.
//
//  1. Hold the site and every draft: nothing else publishes or edits the
//     structure, and a text that is saved meanwhile becomes the next draft.
//  2. Ask the core for the edition: closure, tree, redirects.
//  3. Ask preflight; an error ends it here.
//  4. Write it all, number it, announce it, in the one transaction.
func (a *Editions) Publish(ctx context.Context, who plan.Person, ask PublishAsk) (plan.Edition, error) {
	ask.Why = strings.TrimSpace(ask.Why)
	if err := plan.CheckKey(ask.Key); err != nil {
		return plan.Edition{}, err
	}
	var out plan.Edition
	err := a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if done, err := tx.EditionByKey(ctx, ask.Key); err == nil {
			out = done
			return nil
		}
		if ask.Why == "" {
			return plan.Refuse("why", "Say in a sentence why this edition goes out.")
		}
		if err := tx.LockDrafts(ctx); err != nil {
			return err
		}
		if ask.Form != nil {
			ask.Changes = Select{Own: true}
			if err := a.keepChoice(ctx, tx, s, who, *ask.Form); err != nil {
				return err
			}
		}
		n, err := a.next(ctx, tx, s, who, ask.Changes)
		if err != nil {
			return err
		}
		if ask.Form != nil {
			if err := n.asLooked(ask.Form.Looked); err != nil {
				return err
			}
		}
		if err := mayPublish(n, who); err != nil {
			return err
		}
		if errs, _ := preflight.Errors(n.Findings); errs > 0 {
			return &NotReady{n.Findings}
		}
		if len(n.Chosen) == 0 {
			return plan.Refuse("changes", "Nothing is chosen, so there is nothing to publish.")
		}
		out, err = a.release(ctx, tx, n, plan.Edition{
			Number: s.Edition + 1, At: a.Now(), PersonID: who.ID, Why: ask.Why, ActKey: ask.Key,
			Told: n.told(n.Chosen),
		}, 0)
		if err != nil {
			return err
		}
		return tx.DropChoice(ctx, who.ID)
	})
	if err == nil {
		a.Counts.Editions.Add(1)
	}
	return out, err
}

func mayPublish(n NextEdition, who plan.Person) error {
	switch {
	case n.Site.Rights.MayPublish(who.Role, n.Own):
		return nil
	case n.Site.Rights.May(who.Role, workflow.Publish):
		return ErrOwnWork
	}
	return plan.ErrForbidden
}

// told words the changes of an edition for Past editions.
func (n *NextEdition) told(chosen change.Set) []plan.Told {
	out := []plan.Told{}
	trees := plan.Trees{Live: n.Trees.Live, Next: n.Draft.Tree, Ways: plan.Ways{Live: n.Trees.Ways.Live, Next: n.Ways}}
	for _, c := range n.All {
		if chosen[c.Key] {
			out = append(out, plan.Told{EntryID: c.ID, Title: trees.Title(c.ID), Aspect: c.Mark(), Words: change.Words(c, trees.Live, trees.Next)})
		}
	}
	return out
}

func (a *Editions) release(ctx context.Context, tx Tx, n NextEdition, e plan.Edition, restored int) (plan.Edition, error) {
	r := Release{
		Edition: e, Before: n.Trees.Live, After: n.Draft.Tree, Table: n.Draft.Table, Drafts: n.drafts, Restored: restored,
		Overlay: newOverlay(n.Trees, n.Draft), WaysBefore: n.Trees.Ways.Live, Ways: a.waysAfter(n.Trees, n.Ways, e.PersonID),
	}
	for id := range n.Decisions {
		if n.Draft.Tree.Find(id) == sitemap.None {
			r.Decisions = append(r.Decisions, id)
		}
	}
	slices.Sort(r.Decisions)
	r.Released = slices.Sorted(maps.Keys(n.released()))
	var err error
	if r.Rendered, err = a.renderAgain(ctx, tx, n); err != nil {
		return e, err
	}
	if err := tx.Release(ctx, r); err != nil {
		return e, fmt.Errorf("publish edition %d: %w", e.Number, err)
	}
	heads, err := headsAfter(ctx, tx, n, restored)
	if err != nil {
		return e, err
	}
	still := map[string]bool{}
	for _, p := range sitemap.Patches(n.Draft.Tree, n.Draft.Next) {
		still[p.ID] = true
	}
	for _, h := range heads {
		still[h.EntryID] = still[h.EntryID] || h.Draft
	}
	for id := range r.Ways.Planned {
		still[id] = true
	}
	if err := leaveOut(ctx, tx, n, r.Ways, heads, restored > 0); err != nil {
		return e, err
	}
	return e, tx.SettleActs(ctx, func(id string) bool { return still[id] })
}

// renderAgain renders the pages whose entry has another template from this
// edition on.
func (a *Editions) renderAgain(ctx context.Context, tx Tx, n NextEdition) ([]plan.PageVersion, error) {
	if len(n.stale) == 0 {
		return nil, nil
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	out := make([]plan.PageVersion, len(n.stale))
	var work errgroup.Group // the site waits for it
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i, old := range n.stale {
		work.Go(func() error {
			v, err := a.Rendered(n.templateOf(old.EntryID), old.Content, people)
			v.ID, v.EntryID, v.Version, v.PersonID, v.At = old.ID, old.EntryID, old.Version, old.PersonID, old.At
			out[i] = v
			return err
		})
	}
	return out, work.Wait()
}

// headsAfter gives the heads as they are once the edition is out.
func headsAfter(ctx context.Context, tx Tx, n NextEdition, restored int) ([]plan.PageHead, error) {
	if restored > 0 {
		return tx.Heads(ctx)
	}
	return slices.DeleteFunc(slices.Clone(n.heads), func(h plan.PageHead) bool {
		_, went := slices.BinarySearch(n.drafts, h.EntryID)
		return h.Draft && went
	}), nil
}

// leaveOut keeps the list of planned changes that nobody chose: those that were
// on it and are still planned and, after a rollback, what was taken back.
func leaveOut(ctx context.Context, tx Tx, n NextEdition, left plan.Ways, heads []plan.PageHead, rollback bool) error {
	before, err := tx.LeftOut(ctx)
	if err != nil {
		return err
	}
	if len(before) == 0 && !rollback {
		return nil
	}
	was := map[change.Key]bool{}
	for _, k := range before {
		was[k] = true
	}
	hadPlanned := map[change.Key]bool{}
	for _, c := range n.Planned {
		hadPlanned[c.Key] = true
	}
	var keys []change.Key
	trees := plan.Trees{Live: n.Draft.Tree, Next: n.Draft.Next, Ways: left}
	for k := range change.All(plan.PlannedChanges(trees, heads)) {
		if was[k] || rollback && !hadPlanned[k] {
			keys = append(keys, k)
		}
	}
	return tx.SetLeftOut(ctx, keys)
}

// newOverlay says how the planned rows change when Draft goes out. What stays
// planned stays planned by whom it was; what is taken back is planned by whoever
// publishes.
func newOverlay(trees plan.Trees, d edition.Draft) plan.Overlay {
	o := plan.OverlayOf(d.Tree, sitemap.Patches(d.Tree, d.Next))
	stays := map[string]bool{}
	for _, set := range [][]sitemap.Entry{o.Put, o.Remove} {
		for _, e := range set {
			stays[e.ID] = true
		}
	}
	as := func(e sitemap.Entry) bool { // planned like this already
		i := trees.Next.Find(e.ID)
		_, planned := trees.Planned[e.ID]
		return planned && i != sitemap.None && trees.Next.At(i) == e
	}
	o.Put = slices.DeleteFunc(o.Put, as)
	o.Forget, o.Makers = nil, trees.Planned
	for id := range trees.Planned {
		if !stays[id] {
			o.Forget = append(o.Forget, id)
		}
	}
	slices.Sort(o.Forget)
	return o
}

// Rollback makes a new edition equal to an earlier one. What it takes back
// returns to the plan.
func (a *Editions) Rollback(ctx context.Context, who plan.Person, key string, to int, why string) (plan.Edition, error) {
	why = strings.TrimSpace(why)
	if err := plan.CheckKey(key); err != nil {
		return plan.Edition{}, err
	}
	var out plan.Edition
	err := a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if done, err := tx.EditionByKey(ctx, key); err == nil {
			out = done
			return nil
		}
		if !s.Rights.May(who.Role, workflow.Publish) {
			return plan.ErrForbidden
		}
		if why == "" {
			return plan.Refuse("why", "Say in a sentence why you go back.")
		}
		if to < 1 || to >= s.Edition {
			return plan.Refuse("to", "Choose an edition before the one that is live.")
		}
		if err := tx.LockDrafts(ctx); err != nil {
			return err
		}
		n, err := a.takeBack(ctx, tx, s, who, to)
		if err != nil {
			return err
		}
		if errs, _ := preflight.Errors(n.Findings); errs > 0 {
			return &NotReady{n.Findings}
		}
		out, err = a.release(ctx, tx, n, plan.Edition{
			Number: s.Edition + 1, At: a.Now(), PersonID: who.ID, Why: why, ActKey: key, BackTo: to,
			Told: n.told(change.All(n.All)),
		}, to)
		return err
	})
	return out, err
}

// takeBack prepares the edition that equals an earlier one.
func (a *Editions) takeBack(ctx context.Context, tx Tx, s plan.Site, who plan.Person, to int) (NextEdition, error) {
	n := NextEdition{Site: s}
	var err error
	if n.Trees, err = a.TreesOf(ctx, tx, s); err != nil {
		return n, err
	}
	earlier, err := tx.TreeAt(ctx, to)
	if err != nil {
		return n, fmt.Errorf("load edition %d: %w", to, err)
	}
	if n.Table, err = tx.Table(ctx); err != nil {
		return n, err
	}
	if n.Decisions, err = tx.Decisions(ctx); err != nil {
		return n, err
	}
	live := edition.Live{Tree: n.Trees.Live, Table: n.Table}
	if n.Draft, err = edition.Rollback(live, earlier, n.Trees.Next, n.Decisions, s.Hosts); err != nil {
		return n, fmt.Errorf("prepare edition: %w", err)
	}
	heads, err := tx.Heads(ctx)
	if err != nil {
		return n, err
	}
	n.Planned = plan.PlannedChanges(n.Trees, heads)
	n.All = change.Diff(n.Trees.Live, n.Draft.Tree)
	edited, err := tx.ContentDiffers(ctx, s.Edition, to)
	if err != nil {
		return n, err
	}
	n.All = append(n.All, plan.ContentChanges(edited, n.Trees.Live, n.Draft.Tree)...)
	then, err := tx.WaysAt(ctx, to)
	if err != nil {
		return n, err
	}
	n.Ways = ways.Back(n.Trees.Ways.Live, then)
	n.All = append(n.All, ways.Diff(n.Trees.Ways.Live, n.Ways)...)
	n.Decisions = nil // they are about Next, which stays
	return n, a.preflight(ctx, tx, &n, nil, nil, true)
}

// PastEditions lists all editions, the newest first, with the people.
func (a *Editions) PastEditions(ctx context.Context, who plan.Person) (eds []plan.Edition, people map[string]plan.Person, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		if eds, err = tx.Editions(ctx); err != nil {
			return err
		}
		people, err = plan.PeopleByID(ctx, tx)
		return err
	})
	return eds, people, err
}
