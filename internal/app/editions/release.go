package editions

import (
	"context"
	"fmt"
	"iter"
	"maps"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/markup"
	"candlepath/internal/platform/background"
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
func (a *Editions) release(ctx context.Context, tx Tx, v Verdict, e plan.Edition) (plan.Edition, error) {
	if err := v.Err(); err != nil {
		return e, err
	}
	n := *v.next
	e.Proof = &n.Proof
	r := Release{
		Edition: e, Before: n.Trees.Live, After: n.Draft.Tree, Table: n.Draft.Table, Drafts: n.drafts, Texts: n.texts,
		Overlay: plan.Overlay{
			Overlay: n.Draft.Overlay(n.Trees.Next, slices.Collect(maps.Keys(n.Trees.Planned))), Makers: n.Trees.Planned,
		},
		ShapesBefore: n.Trees.Shapes.Live, Shapes: a.shapesAfter(n.Trees, n.Shapes, e.PersonID),
	}
	if r.WordsNow = len(r.Drafts) <= wordsAtOnce; !r.WordsNow {
		if err := tx.Enqueue(ctx, plan.Job{Kind: plan.JobFinishDrafts}); err != nil {
			return e, err
		}
	}
	for id := range n.Decisions {
		if n.Draft.Tree.Find(id) == sitemap.None {
			r.Decisions = append(r.Decisions, id)
		}
	}
	slices.Sort(r.Decisions)
	r.Leaving = leaving(n.Trees.LiveMayBeRead(), r.After)
	r.Released = slices.Sorted(maps.Keys(n.released()))
	for _, row := range n.chosenRedirects() {
		r.Redirects = append(r.Redirects, row.Key())
	}
	for _, id := range n.drafts {
		r.Out = append(r.Out, change.Key{ID: id, Aspect: change.Content})
	}
	for k := range n.Chosen {
		if e.BackTo > 0 {
			break // what is planned stays where it stands
		}
		r.Out = append(r.Out, k)
		if _, put := n.ApprovalStates[k]; put {
			r.Gone = append(r.Gone, k)
		}
	}
	var err error
	if r.TableBefore, err = a.RedirectsOf(ctx, tx, n.Site); err != nil {
		return e, err
	}
	if r.Rendered, err = a.renderAgain(ctx, tx, n); err != nil {
		return e, err
	}
	if err := tx.Release(ctx, r); err != nil {
		return e, fmt.Errorf("publish edition %d: %w", e.Number, err)
	}
	summaries, err := a.summariesAfter(ctx, tx, n, e)
	if err != nil {
		return e, err
	}
	still := map[string]bool{}
	for _, p := range sitemap.Patches(n.Draft.Tree, n.Draft.Next) {
		still[p.ID] = true
	}
	for i := range summaries.Drafts {
		still[summaries.Drafts[i].EntryID] = true
	}
	for id := range r.Shapes.Planned {
		still[id] = true
	}
	for _, c := range n.redirectsLeft() {
		still[c.ID] = true
	}
	if err := leaveOut(ctx, tx, n, r.Shapes, summaries, e.BackTo > 0); err != nil {
		return e, err
	}
	return e, tx.SettleActs(ctx, func(id string) bool { return still[id] })
}

// leaving gives the entries of Live whose page an edition takes away, with who may read each until then.
func leaving(live readership.State, after *sitemap.Tree) map[string][]string {
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

// RenderedPage is the version of a page that is laid out by its template.
type RenderedPage struct {
	plan.PageVersion
	Fits  bool // it lacked its HTML alone: what else is known of it was found by the same template
	Found bool // its template is another and asks for the same: what is found in its text stays
}

// RenderedBatches are versions of pages, some at a time.
type RenderedBatches = iter.Seq2[[]RenderedPage, error]

// renderedAtOnce is how many pages are rendered while those before them are written.
const renderedAtOnce = 250

// renderAgain renders the pages that are laid out in another way from this edition on. While
// some are written, the next ones are rendered: the site waits for both.
func (a *Editions) renderAgain(ctx context.Context, tx Tx, n NextEdition) (RenderedBatches, error) {
	if len(n.stale) == 0 {
		return func(func([]RenderedPage, error) bool) {}, nil
	}
	around, err := a.AroundAll(ctx, tx, n.staleFiles())
	if err != nil {
		return nil, err
	}
	type rendered struct {
		versions []RenderedPage
		err      error
	}
	return func(yield func([]RenderedPage, error) bool) {
		ready := make(chan rendered, 1)
		begin := func(some []RenderedPage) {
			before, err := tx.Drawn(ctx, versionsOf(some))
			if err != nil {
				ready <- rendered{nil, err}
				return
			}
			go func() {
				var r rendered
				func() {
					defer background.Recovered(&r.err)
					r.versions, r.err = a.renderSome(n, some, before, around)
				}()
				ready <- r
			}()
		}
		chunks := slices.Collect(slices.Chunk(n.stale, renderedAtOnce))
		begin(chunks[0])
		done := 0
		for i := range chunks {
			r := <-ready
			if r.err == nil && i+1 < len(chunks) {
				begin(chunks[i+1])
			}
			if !yield(r.versions, r.err) || r.err != nil {
				return
			}
			if done += len(r.versions); n.progress != nil {
				n.progress(done)
			}
		}
	}, nil
}

func versionsOf(some []RenderedPage) []string {
	ids := make([]string, len(some))
	for i, v := range some {
		ids[i] = v.ID
	}
	return ids
}

// staleFiles gives the files that the pages to be rendered again show.
func (n *NextEdition) staleFiles() (ids []string) {
	for _, old := range n.stale {
		ids = append(ids, content.FilesOf(old.Content)...)
	}
	for _, t := range n.Templates {
		ids = append(ids, t.FixedFiles()...)
	}
	slices.Sort(ids)
	return slices.Compact(ids)
}

func (a *Editions) renderSome(n NextEdition, some []RenderedPage, before map[string]plan.RenderedSlots, around markup.Around) ([]RenderedPage, error) {
	out := make([]RenderedPage, len(some))
	var work errgroup.Group
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i, old := range some {
		work.Go(func() (err error) {
			defer background.Recovered(&err)
			v, err := a.Relaid(n.templateOf(old.EntryID), old.PageVersion, around, before[old.ID], old.Found)
			out[i] = RenderedPage{v, old.Fits, old.Found}
			return err
		})
	}
	return out, work.Wait()
}

// summariesAfter gives the summaries as they are once the edition is out.
func (a *Editions) summariesAfter(ctx context.Context, tx Tx, n NextEdition, e plan.Edition) (plan.Summaries, error) {
	if e.BackTo > 0 {
		return a.Summaries(ctx, tx, plan.Site{ID: n.Site.ID, Edition: e.Number})
	}
	after := n.pageSummaries
	after.Drafts = slices.DeleteFunc(slices.Clone(after.Drafts), func(h plan.PageSummary) bool {
		_, went := slices.BinarySearch(n.drafts, h.EntryID)
		return went
	})
	return after, nil
}

// leaveOut keeps the list of planned changes that nobody chose: those that were
// on it and are still planned and, after a rollback, what was taken back.
func leaveOut(ctx context.Context, tx Tx, n NextEdition, left plan.Shapes, summaries plan.Summaries, rollback bool) error {
	before, err := tx.LeftOut(ctx)
	if err != nil {
		return err
	}
	if len(before) == 0 && !rollback {
		return nil
	}
	after := plan.Trees{Live: n.Draft.Tree, Next: n.Draft.Next, Shapes: left}
	keys := change.StaysOut(append(plan.PlannedChanges(after, summaries), n.redirectsLeft()...), before, rollback, n.Planned)
	if !rollback && len(keys) == len(before) {
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
