package sitemap

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/consequence"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Merging is two pages side by side, before one goes into the other.
type Merging struct {
	Kept, Gone MergeSide
	Facts      []MergeFact // that differ
	Of         consequence.Of
	Links      int // that lead to the page that goes, on LinkPages pages
	LinkPages  int
	Moving     int      // entries that go below the page kept
	Shapes     []string // titles of menus and trails that lead to the page kept instead
	Narrows    bool     // who could read the page that goes may not read the one kept
	Readers    string   // who may read the page kept, where Shuts
	Visits     int      // of the page that goes
	Trees      plan.Trees
}

// MergeSide is one of two pages that are merged.
type MergeSide struct {
	Entry    sitemap.Entry
	Address  string
	Live     bool
	Template content.Template
	Mark     string // of the text that is shown
	Blocks   []MergeBlock
	Fields   map[string]string
}

// MergeBlock is one block to choose.
type MergeBlock struct {
	content.Take
	SlotName string
	Block    content.Block
	HTML     string // links to pages have the form page:ID
	Double   bool   // the page kept has the same block
}

// MergeFact is a fact in which two pages differ.
type MergeFact struct{ Field, Words, Kept, Gone string }

// MergeAsk is how two pages are merged.
type MergeAsk struct {
	Key                string
	Kept, Gone         string
	KeptMark, GoneMark string // of the texts that were seen
	Keep, Take         []content.Take
	Facts              []string // to have from the page that goes
}

// LookAtMerge shows two pages side by side and what merging them does.
func (a *Sitemap) LookAtMerge(ctx context.Context, who plan.Person, kept, gone string) (Merging, error) {
	var m Merging
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		o, err := a.LoadOutline(ctx, tx, s)
		if err != nil {
			return err
		}
		trees := o.Trees
		next, err := trees.Next.Join(kept, gone, false)
		if err != nil {
			return err
		}
		decisions, err := tx.Decisions(ctx)
		if err != nil {
			return err
		}
		decisions[gone] = redirect.Decision{To: redirect.Target{Entry: kept}}
		if m.Of, err = a.decidedConsequences(ctx, tx, s, trees, next, decisions, []string{gone}); err != nil {
			return err
		}
		if m.Links, m.LinkPages, err = tx.LinksTo(ctx, []string{gone}); err != nil {
			return err
		}
		w, err := a.Writer(ctx, tx, who, trees.Next)
		if err != nil {
			return err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{kept, gone})
		if err != nil {
			return err
		}
		if m.Kept, err = a.side(ctx, tx, s, w, trees, texts[kept], kept); err != nil {
			return err
		}
		if m.Gone, err = a.side(ctx, tx, s, w, trees, texts[gone], gone); err != nil {
			return err
		}
		m.compare(trees.Next)
		for _, p := range shape.Patches(trees.Shapes.Next, trees.Shapes.Next.Replaced(gone, kept)) {
			m.Shapes = append(m.Shapes, trees.Title(p.ID))
		}
		m.Visits, m.Trees = o.Visits[gone], trees
		return nil
	})
	return m, err
}

func (a *Sitemap) side(ctx context.Context, tx Tx, s plan.Site, w *plan.Writer, trees plan.Trees, v plan.PageVersion, entry string) (MergeSide, error) {
	i := trees.Next.Find(entry)
	side := MergeSide{Entry: trees.Next.At(i), Address: trees.Next.Address(i), Live: trees.Live.Find(entry) != sitemap.None, Template: w.Template(entry), Mark: plan.MarkOf(v), Fields: v.Content.Fields}
	for _, slot := range side.Template.Slots() {
		for k, b := range v.Content.Slots[slot.Key] {
			alone := content.Template{Parts: []content.Part{{Kind: content.Slot, Key: "one"}}}
			art, err := w.Floor.Markup.Article(alone, content.Page{Slots: map[string][]content.Block{"one": {b}}}, markup.Around{})
			if err != nil {
				return side, err
			}
			html, _, err := a.Composed(ctx, tx, s, art.HTML, plan.Listing{Tree: trees.Next, Entry: entry, Next: true})
			if err != nil {
				return side, err
			}
			side.Blocks = append(side.Blocks, MergeBlock{Take: content.Take{Slot: slot.Key, Block: k}, SlotName: slot.Called(), Block: b, HTML: html})
		}
	}
	return side, nil
}

func (m *Merging) compare(t *sitemap.Tree) {
	for i, b := range m.Gone.Blocks {
		m.Gone.Blocks[i].Double = slices.ContainsFunc(m.Kept.Blocks, func(o MergeBlock) bool {
			one := func(b content.Block) content.Page {
				return content.Page{Slots: map[string][]content.Block{"one": {b}}}
			}
			return content.Same(one(o.Block), one(b.Block))
		})
	}
	for _, f := range sitemap.Fields() {
		if a, b := f.Get(&m.Kept.Entry), f.Get(&m.Gone.Entry); f.Chosen && a != b {
			m.Facts = append(m.Facts, MergeFact{f.Key, f.Words, a, b})
		}
	}
	k, g := t.Find(m.Kept.Entry.ID), t.Find(m.Gone.Entry.ID)
	for range t.Children(g) {
		m.Moving++
	}
	m.Readers = readership.Of(t, k)
	m.Narrows = readership.Narrows(m.Readers, readership.Of(t, g))
}

// Merge takes one page into another in one act: the text that was chosen, what
// is below it, its topics and notes. Links, references and tiles lead to the
// page kept, and so does the address of the one that goes.
func (a *Sitemap) Merge(ctx context.Context, who plan.Person, ask MergeAsk) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, ask.Key, ask.Kept, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return plan.PlanResult{}, err
		}
		next, err := trees.Next.Join(ask.Kept, ask.Gone, false)
		if err != nil {
			return plan.PlanResult{}, err
		}
		gone := trees.Next.At(trees.Next.Find(ask.Gone))
		for _, key := range ask.Facts {
			f, _ := sitemap.FieldOf(key)
			if !f.Chosen {
				return plan.PlanResult{}, plan.Refuse(key, "This field cannot be taken from the other page.")
			}
			if next, err = next.Change(ask.Kept, func(e *sitemap.Entry) { f.Set(e, f.Get(&gone)) }); err != nil {
				return plan.PlanResult{}, err
			}
		}
		if err := a.OpenElsewhere(ctx, tx, who, trees.Next, ask.Kept, ask.Gone); err != nil {
			return plan.PlanResult{}, err
		}
		w, err := a.Writer(ctx, tx, who, next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if err := merge(ctx, w, ask); err != nil {
			return plan.PlanResult{}, err
		}
		ids := map[string]string{ask.Gone: ask.Kept}
		to := func(_, link string) string { return content.RelinkedTo(link, ids) }
		if _, err := w.Relink(ctx, ask.Gone, to, ask.Gone); err != nil {
			return plan.PlanResult{}, err
		}
		if err := inherit(ctx, w, trees.Live, ask); err != nil {
			return plan.PlanResult{}, err
		}
		w.SideEffects.Shapes = shape.Patches(trees.Shapes.Next, trees.Shapes.Next.Replaced(ask.Gone, ask.Kept))
		label := fmt.Sprintf("merged %q into %q", gone.Title, plan.TitleOf(next, ask.Kept))
		res, err := a.RecordWith(ctx, tx, s, who, ask.Key, label, trees, next, w.SideEffects)
		res.ID = ask.Kept
		return res, err
	})
}

// merge writes the text of the page kept.
func merge(ctx context.Context, w *plan.Writer, ask MergeAsk) error {
	texts, err := plan.LatestTexts(ctx, w.Tx, []string{ask.Kept, ask.Gone})
	if err != nil {
		return err
	}
	own, other := texts[ask.Kept], texts[ask.Gone]
	if plan.MarkOf(own) != ask.KeptMark || plan.MarkOf(other) != ask.GoneMark {
		return plan.Refuse("", "The text of one of the pages has changed meanwhile. Check both again.")
	}
	merged := content.Clean(content.Merged(w.Template(ask.Kept), own.Content, other.Content, ask.Keep, ask.Take))
	merged = content.Relinked(merged, map[string]string{ask.Gone: ask.Kept})
	if content.Same(merged, own.Content) || own.ID == "" && content.Same(merged, content.Page{}) {
		return nil
	}
	return w.Set(ctx, ask.Kept, &merged)
}

// inherit leads the visitors of the page that goes, and of pages that were to
// lead to it, to the page kept.
func inherit(ctx context.Context, w *plan.Writer, live *sitemap.Tree, ask MergeAsk) error {
	decisions, err := w.Tx.Decisions(ctx)
	if err != nil {
		return err
	}
	changed := redirect.Merge(decisions, ask.Kept, ask.Gone, live.Find(ask.Gone) != sitemap.None)
	for _, id := range slices.Sorted(maps.Keys(changed)) {
		var was *redirect.Decision
		if old, ok := decisions[id]; ok {
			was = &old
		}
		now := changed[id]
		if err := w.Decide(ctx, id, was, &now); err != nil {
			return err
		}
	}
	return nil
}
