package editions

import (
	"context"
	"fmt"
	"maps"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Release is everything that publishing an edition writes.
type Release struct {
	Edition   plan.Edition
	Before    *sitemap.Tree // Live until now
	After     *sitemap.Tree
	Table     []redirect.Row
	Drafts    []string           // entries whose draft goes live
	Rendered  []plan.PageVersion // rendered again, because their entry has another template now
	Restored  int                // edition whose content is restored, or 0
	Overlay   plan.Overlay
	Decisions []string // entries whose decision is used up
	Released  []string // addresses that are given up

	WaysBefore navigation.Set  // Live until now
	Navigation plan.Navigation // as they are then
}

func (a *Editions) release(ctx context.Context, tx Tx, n NextEdition, e plan.Edition, restored int) (plan.Edition, error) {
	r := Release{
		Edition: e, Before: n.Trees.Live, After: n.Draft.Tree, Table: n.Draft.Table, Drafts: n.drafts, Restored: restored,
		Overlay: newOverlay(n.Trees, n.Draft), WaysBefore: n.Trees.Navigation.Live, Navigation: a.waysAfter(n.Trees, n.Navigation, e.PersonID),
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
	heads, err := summariesAfter(ctx, tx, n, restored)
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
	for id := range r.Navigation.Planned {
		still[id] = true
	}
	if err := leaveOut(ctx, tx, n, r.Navigation, heads, restored > 0); err != nil {
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
func summariesAfter(ctx context.Context, tx Tx, n NextEdition, restored int) ([]plan.PageSummary, error) {
	if restored > 0 {
		return tx.Summaries(ctx)
	}
	return slices.DeleteFunc(slices.Clone(n.pageSummaries), func(h plan.PageSummary) bool {
		_, went := slices.BinarySearch(n.drafts, h.EntryID)
		return h.Draft && went
	}), nil
}

// leaveOut keeps the list of planned changes that nobody chose: those that were
// on it and are still planned and, after a rollback, what was taken back.
func leaveOut(ctx context.Context, tx Tx, n NextEdition, left plan.Navigation, heads []plan.PageSummary, rollback bool) error {
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
	trees := plan.Trees{Live: n.Draft.Tree, Next: n.Draft.Next, Navigation: left}
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

// waysAfter gives the ways of an edition and what stays planned of them. What
// was planned stays planned by whom it was; what is taken back is planned by
// whoever publishes.
func (a *Editions) waysAfter(trees plan.Trees, live navigation.Set, who string) plan.Navigation {
	w := plan.Navigation{Live: live, Next: trees.Navigation.Next, Planned: map[string]plan.Planned{}}
	for _, p := range navigation.Patches(w.Live, w.Next) {
		by, planned := trees.Navigation.Planned[p.ID]
		if !planned {
			by = plan.Planned{PersonID: who, At: a.Now()}
		}
		w.Planned[p.ID] = by
	}
	return w
}
