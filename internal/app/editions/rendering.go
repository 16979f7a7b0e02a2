package editions

import (
	"context"
	"fmt"
	"iter"
	"runtime"
	"slices"

	"golang.org/x/sync/errgroup"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/markup"
	"candlepath/internal/platform/background"
)

// RenderedPage is the version of a page that is laid out by its template.
type RenderedPage struct {
	plan.PageVersion
	edition.Relaid
}

// RenderedBatches are versions of pages, some at a time.
type RenderedBatches = iter.Seq2[[]RenderedPage, error]

// renderedAtOnce is how many pages are rendered while those before them are written.
const renderedAtOnce = 250

// relaid gives the pages that are laid out anew, with what their template finds in them.
func (n *NextEdition) relaid() []RenderedPage {
	how := make(map[string]edition.Relaid, len(n.Relaid))
	for _, r := range n.Relaid {
		how[r.Entry] = r
	}
	out := make([]RenderedPage, len(n.texts))
	for i, v := range n.texts {
		v.Report = n.Reports[v.EntryID]
		out[i] = RenderedPage{v, how[v.EntryID]}
	}
	return out
}

// rendering lays out the pages of an edition anew. Large editions, and those of a date, do it before they hold the
// site, and keep each page with what it was made of; whoever writes the edition takes what is still true of that.
type rendering struct {
	*Editions
	next   *NextEdition
	around markup.Around
	build  string
}

func (a *Editions) rendering(ctx context.Context, tx Tx, n *NextEdition) (r rendering, err error) {
	r = rendering{Editions: a, next: n, build: markup.Build()}
	r.around, err = a.AroundAll(ctx, tx, n.staleFiles())
	return r, err
}

// staleFiles gives the files that the pages to be rendered again show.
func (n *NextEdition) staleFiles() (ids []string) {
	for _, old := range n.texts {
		ids = append(ids, content.FilesOf(old.Content)...)
	}
	for _, t := range n.Templates {
		ids = append(ids, t.FixedFiles()...)
	}
	slices.Sort(ids)
	return slices.Compact(ids)
}

// madeOf names what a page is laid out of, but for what is around it.
func (r *rendering) madeOf(p RenderedPage) string {
	return fmt.Sprint(p.Version, " ", r.next.FormOf(p.EntryID), " ", p.Found, " ", r.build)
}

// renderedBefore is what is known of pages that are to be rendered.
type renderedBefore struct {
	slots map[string]plan.RenderedSlots // by the template they had
	ahead map[string]plan.RenderedAhead // by the one they get, and still true
}

// before reads what is known of some pages.
func (r *rendering) before(ctx context.Context, tx Tx, some []RenderedPage) (b renderedBefore, err error) {
	ids := make([]string, len(some))
	for i, p := range some {
		ids[i] = p.ID
	}
	if b.ahead, err = tx.RenderedAhead(ctx, ids); err != nil {
		return b, err
	}
	var missing []string
	for _, p := range some {
		if known, ok := b.ahead[p.ID]; !ok || known.MadeOf != r.madeOf(p) || !known.Asked.Holds(r.around) {
			delete(b.ahead, p.ID)
			missing = append(missing, p.ID)
		}
	}
	if len(missing) > 0 {
		b.slots, err = tx.Drawn(ctx, missing)
	}
	return b, err
}

// some lays out pages that were not laid out ahead.
func (r *rendering) some(ctx context.Context, pages []RenderedPage, b renderedBefore) ([]plan.RenderedAhead, error) {
	pages = slices.DeleteFunc(slices.Clone(pages), func(p RenderedPage) bool { _, done := b.ahead[p.ID]; return done })
	out := make([]plan.RenderedAhead, len(pages))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i, p := range pages {
		work.Go(func() (err error) {
			defer background.Recovered(&err)
			if ctx.Err() != nil {
				return ctx.Err()
			}
			out[i], err = r.RelaidAhead(r.next.TemplateOf(p.EntryID), p.PageVersion, r.around, b.slots[p.ID], p.Found)
			out[i].MadeOf = r.madeOf(p)
			return err
		})
	}
	return out, work.Wait()
}

// renderAgain renders the pages that are laid out in another way from this edition on. While
// some are written, the next ones are rendered: the site waits for both.
func (a *Editions) renderAgain(ctx context.Context, tx Tx, n *NextEdition, progress func(done int)) (RenderedBatches, error) {
	stale := n.relaid()
	if len(stale) == 0 {
		return func(func([]RenderedPage, error) bool) {}, nil
	}
	r, err := a.rendering(ctx, tx, n)
	if err != nil {
		return nil, err
	}
	return func(yield func([]RenderedPage, error) bool) {
		chunks := slices.Collect(slices.Chunk(stale, renderedAtOnce))
		ready, done := r.begin(ctx, tx, chunks[0]), 0
		for i := range chunks {
			got := <-ready
			if got.err == nil && i+1 < len(chunks) {
				ready = r.begin(ctx, tx, chunks[i+1])
			}
			if !yield(got.pages, got.err) || got.err != nil {
				return
			}
			if done += len(got.pages); progress != nil {
				progress(done)
			}
		}
	}, nil
}

// outcome is what rendering some pages gave.
type outcome struct {
	pages []RenderedPage
	err   error
}

// begin renders pages beside the transaction, of which it reads all it needs before it returns.
func (r *rendering) begin(ctx context.Context, tx Tx, pages []RenderedPage) <-chan outcome {
	ready := make(chan outcome, 1)
	b, err := r.before(ctx, tx, pages)
	if err != nil {
		ready <- outcome{nil, err}
		return ready
	}
	go func() {
		var o outcome
		func() {
			defer background.Recovered(&o.err)
			o.pages, o.err = r.finished(ctx, pages, b)
		}()
		ready <- o
	}()
	return ready
}

// finished gives pages as they are laid out, whenever that was done.
func (r *rendering) finished(ctx context.Context, pages []RenderedPage, b renderedBefore) ([]RenderedPage, error) {
	made, err := r.some(ctx, pages, b)
	if err != nil {
		return nil, err
	}
	for _, m := range made {
		b.ahead[m.VersionID] = m
	}
	out := make([]RenderedPage, len(pages))
	for i, p := range pages {
		out[i] = RenderedPage{plan.RelaidWith(r.next.TemplateOf(p.EntryID), p.PageVersion, b.ahead[p.ID]), p.Relaid}
	}
	return out, nil
}

// renderAhead renders the pages that an edition lays out anew before it holds the site, and keeps them, some at a
// time. What was kept before is not rendered again, so one that was cut off goes on where it was.
func (a *Editions) renderAhead(ctx context.Context, n *NextEdition, progress func(done int)) error {
	var r rendering
	stale := n.relaid()
	if len(stale) == 0 {
		return nil
	}
	err := a.Store.Read(ctx, func(tx Tx, _ plan.Site) (err error) {
		r, err = a.rendering(ctx, tx, n)
		return err
	})
	if err != nil {
		return err
	}
	done := 0
	for pages := range slices.Chunk(stale, renderedAtOnce) {
		if err := r.keep(ctx, pages); err != nil {
			return err
		}
		done += len(pages)
		progress(done)
	}
	return nil
}

// keep renders pages and keeps them. It reads where it writes, since what is kept is in no copy of the database.
func (r *rendering) keep(ctx context.Context, pages []RenderedPage) error {
	var b renderedBefore
	err := r.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) (err error) {
		b, err = r.before(ctx, tx, pages)
		return err
	})
	if err != nil {
		return err
	}
	made, err := r.some(ctx, pages, b)
	if err != nil || len(made) == 0 {
		return err
	}
	return r.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.KeepRendered(ctx, made) })
}
