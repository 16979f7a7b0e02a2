package editions

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// Release is everything that publishing an edition writes.
type Release struct {
	Edition     plan.Edition
	Before      *sitemap.Tree // Live until now
	After       *sitemap.Tree
	Table       []redirect.Row
	TableBefore []redirect.Row  // Live until now
	Drafts      []string        // entries whose draft goes live
	WordsNow    bool            // the words of drafts that lack them are found at once, else by a job
	Rendered    RenderedBatches // rendered again, because their template is another now
	Texts       edition.Texts   // of a rollback
	Overlay     plan.Overlay
	Decisions   []string            // entries whose decision is used up
	Released    []string            // addresses that are given up
	Redirects   []redirect.Key      // planned by hand, that go out
	Leaving     map[string][]string // live entries that lose their page, by who may read it, see readership.Bearing
	Gone        []change.Key        // changes that are out and stand nowhere any more
	Out         []change.Key        // changes that are out

	ShapesBefore shape.Set   // Live until now
	Shapes       plan.Shapes // as they are then
}

// wordsAtOnce is how many drafts may be published whose words for the search are found in the same
// transaction. Of more, those that somebody wrote on in the last minute are found right after it.
const wordsAtOnce = 50

// release writes an edition that nothing stands in the way of. Every edition passes here, whatever its road.
// progress is told how many pages were rendered anew; nil: nobody asks.
func (a *Editions) release(ctx context.Context, tx Tx, v Verdict, e plan.Edition, progress func(done int)) (plan.Edition, error) {
	if err := v.Err(); err != nil {
		return e, err
	}
	n := v.next
	e.Proof, e.Changes = &n.Proof, n.summaries()
	r, err := a.written(ctx, tx, n, e, progress)
	if err != nil {
		return e, err
	}
	if !r.WordsNow {
		if err := tx.Enqueue(ctx, plan.Job{Kind: plan.JobFinishDrafts}); err != nil {
			return e, err
		}
	}
	if err := tx.Release(ctx, r); err != nil {
		return e, fmt.Errorf("publish edition %d: %w", e.Number, err)
	}
	drafts, err := a.draftsAfter(ctx, tx, n, e)
	if err != nil {
		return e, err
	}
	after := plan.Trees{Live: n.Draft.Tree, Next: n.Draft.Next, Shapes: r.Shapes}
	left := append(edition.Planned(after, drafts), n.RedirectsLeft()...)
	if err := leaveOut(ctx, tx, n, left); err != nil {
		return e, err
	}
	still := map[string]bool{}
	for _, p := range sitemap.Patches(after.Live, after.Next) {
		still[p.ID] = true
	}
	for i := range drafts {
		still[drafts[i].EntryID] = true
	}
	for id := range r.Shapes.Planned {
		still[id] = true
	}
	for _, c := range n.RedirectsLeft() {
		still[c.ID] = true
	}
	return e, tx.SettleActs(ctx, func(id string) bool { return still[id] })
}

// written gives what an edition writes.
func (a *Editions) written(ctx context.Context, tx Tx, n *NextEdition, e plan.Edition, progress func(int)) (Release, error) {
	r := Release{
		Edition: e, Before: n.Trees.Live, After: n.Draft.Tree, Table: n.Draft.Table, TableBefore: n.Table, Drafts: n.Outgoing, Texts: n.Restored,
		WordsNow: len(n.Outgoing) <= wordsAtOnce,
		Overlay: plan.Overlay{
			Overlay: n.Draft.Overlay(n.Trees.Next, slices.Collect(maps.Keys(n.Trees.Planned))), Makers: n.Trees.Planned,
		},
		ShapesBefore: n.Trees.Shapes.Live, Shapes: a.shapesAfter(n.Trees, n.Shapes, e.PersonID),
		Decisions: n.UsedUp, Leaving: leavingPages(n.Trees.LiveMayBeRead(), n.Draft.Tree), Released: slices.Sorted(maps.Keys(n.Releases())), Out: n.Carries(),
	}
	for _, row := range n.Redirects() {
		r.Redirects = append(r.Redirects, row.Key())
	}
	for _, k := range r.Out {
		if _, put := n.ApprovalStates[k]; put && n.Chosen[k] {
			r.Gone = append(r.Gone, k)
		}
	}
	var err error
	r.Rendered, err = a.renderAgain(ctx, tx, n, progress)
	return r, err
}

// leavingPages gives the entries of Live whose page an edition takes away, with who may read each until then.
func leavingPages(live readership.State, after *sitemap.Tree) map[string][]string {
	out := map[string][]string{}
	for i := range live.Tree.Len() {
		id := live.Tree.Ref(i).ID
		if live.Tree.Served(i) == "" {
			continue
		}
		if j := after.Find(id); j == sitemap.None || after.Served(j) == "" {
			out[id] = readership.Bearing(live.Tree, i, live.Also)
		}
	}
	return out
}

// draftsAfter gives the drafts that there are once the edition is out.
func (a *Editions) draftsAfter(ctx context.Context, tx Tx, n *NextEdition, e plan.Edition) ([]plan.PageSummary, error) {
	if n.BackTo > 0 {
		after, err := a.Summaries(ctx, tx, plan.Site{ID: n.Site.ID, Edition: e.Number})
		return after.Drafts, err
	}
	return slices.DeleteFunc(slices.Clone(n.Drafts), func(h plan.PageSummary) bool {
		_, went := slices.BinarySearch(n.Outgoing, h.EntryID)
		return went
	}), nil
}

// leaveOut keeps the list of planned changes that nobody chose: those that were
// on it and are still planned and, after a restore, what was taken back.
func leaveOut(ctx context.Context, tx Tx, n *NextEdition, left []change.Change) error {
	before, restored := n.LeftOut, n.BackTo > 0
	if len(before) == 0 && !restored {
		return nil
	}
	keys := change.StaysOut(left, before, restored, n.All)
	if !restored && len(keys) == len(before) {
		return nil // nothing is added, so they are the same
	}
	return tx.SetLeftOut(ctx, keys)
}

// shapesAfter gives the ways of an edition and what stays planned of them. What
// was planned stays planned by whom it was; what is taken back is planned by
// whoever publishes.
func (a *Editions) shapesAfter(trees plan.Trees, live shape.Set, who string) plan.Shapes {
	w := plan.Shapes{Live: live, Next: trees.Shapes.Next, Planned: map[string]plan.Planned{}}
	for _, p := range shape.Patches(w.Live, w.Next) {
		by, planned := trees.Shapes.Planned[p.ID]
		if !planned {
			by = plan.Planned{PersonID: who, At: a.Now()}
		}
		w.Planned[p.ID] = by
	}
	return w
}
