package sitemap

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// SimilarPair is two pages of Next that are nearly the same; A is the one to keep,
// home or else the one that is read more.
type SimilarPair struct {
	A, B      int // indices in Next
	Share     float64
	SameTitle bool
}

// SimilarFound are the pages that were found to be nearly the same in one state of
// Next and its texts. The zero value says that nobody compared yet.
type SimilarFound struct {
	State string // of what was compared
	At    time.Time
	Pairs []FoundPair
}

// FoundPair is two entries that are nearly the same, A the one with the lesser id.
type FoundPair struct {
	A, B      string
	Share     float64
	SameTitle bool
}

// SimilarPages is what is known of similar pages.
type SimilarPages struct {
	Pairs   []SimilarPair
	Outline plan.Outline
	At      time.Time // when they were found; zero if never
	Working bool      // pages changed since, and are being compared again
}

// Similar lists the pages that are nearly the same, without those of which somebody
// said that they are different. Where pages changed since they were compared, it has
// a job compare them again.
func (a *Sitemap) Similar(ctx context.Context, who plan.Person) (out SimilarPages, err error) {
	var found SimilarFound
	apart := map[[2]string]bool{}
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		var err error
		if out.Outline, err = a.LoadOutline(ctx, tx, s); err != nil {
			return err
		}
		different, err := tx.DifferentPages(ctx)
		if err != nil {
			return err
		}
		for _, d := range different {
			apart[d] = true
		}
		if found, err = tx.FoundSimilar(ctx); err != nil {
			return err
		}
		out.Working = found.State != compared(s)
		return nil
	})
	if err == nil && out.Working {
		err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.Enqueue(ctx, plan.Job{Kind: plan.JobSimilar}) })
	}
	out.At = found.At
	out.fill(found.Pairs, apart)
	return out, err
}

// compared names the state of all that is compared.
func compared(s plan.Site) string {
	return s.Work.Of(plan.PartEntries, plan.PartDrafts, plan.PartShapes, plan.PartEditions)
}

func (p *SimilarPages) fill(found []FoundPair, apart map[[2]string]bool) {
	t := p.Outline.Trees.Next
	for _, f := range found {
		x, y := t.Find(f.A), t.Find(f.B)
		if x == sitemap.None || y == sitemap.None || apart[[2]string{f.A, f.B}] {
			continue
		}
		pair := SimilarPair{min(x, y), max(x, y), f.Share, f.SameTitle}
		visits := func(i int) int { return p.Outline.Visits[t.Ref(i).ID] }
		if pair.B == t.Home() || pair.A != t.Home() && visits(pair.B) > visits(pair.A) {
			pair.A, pair.B = pair.B, pair.A
		}
		p.Pairs = append(p.Pairs, pair)
	}
}

// FindSimilar compares all pages of Next and keeps which are nearly the same.
func (a *Sitemap) FindSimilar(ctx context.Context) error {
	var words map[string]string
	var trees plan.Trees
	found := SimilarFound{At: a.Now()}
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		var err error
		if trees, err = a.TreesOf(ctx, tx, s); err != nil {
			return err
		}
		found.State = compared(s)
		words, err = tx.Words(ctx)
		return err
	})
	if err != nil {
		return err
	}
	t := trees.Next
	var pages []content.Read
	for i := range t.Len() {
		if e := t.Ref(i); e.Kind.IsPage() && !e.Withdrawn {
			pages = append(pages, content.Read{ID: e.ID, Title: e.Title, Words: words[e.ID]})
		}
	}
	for _, p := range content.Similar(pages) {
		x, y := pages[p.A].ID, pages[p.B].ID
		found.Pairs = append(found.Pairs, FoundPair{min(x, y), max(x, y), p.Share, p.SameTitle})
	}
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.PutSimilar(ctx, found) })
}

// SayDifferent takes two pages off the list of those that are alike.
func (a *Sitemap) SayDifferent(ctx context.Context, who plan.Person, x, y string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if x == y || trees.Next.Find(x) == sitemap.None || trees.Next.Find(y) == sitemap.None {
			return plan.ErrNotFound
		}
		return tx.PutDifferent(ctx, x, y, who.ID, a.Now())
	})
}
