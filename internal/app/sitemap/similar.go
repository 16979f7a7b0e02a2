package sitemap

import (
	"context"

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

// Similar lists the pages that are nearly the same, without those of which
// somebody said that they are different.
func (a *Sitemap) Similar(ctx context.Context, who plan.Person) (pairs []SimilarPair, o plan.Outline, err error) {
	var words map[string]string
	apart := map[[2]string]bool{}
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		var err error
		if o, err = a.LoadOutline(ctx, tx, s); err != nil {
			return err
		}
		different, err := tx.DifferentPages(ctx)
		if err != nil {
			return err
		}
		for _, d := range different {
			apart[d] = true
		}
		words, err = tx.Words(ctx)
		return err
	})
	if err != nil {
		return nil, o, err
	}
	t := o.Trees.Next
	var pages []content.Read
	var at []int
	for i := range t.Len() {
		if e := t.Ref(i); e.Kind.IsPage() && !e.Withdrawn {
			pages, at = append(pages, content.Read{ID: e.ID, Title: e.Title, Words: words[e.ID]}), append(at, i)
		}
	}
	for _, p := range content.Similar(pages) {
		x, y := pages[p.A].ID, pages[p.B].ID
		if !apart[[2]string{min(x, y), max(x, y)}] {
			pair := SimilarPair{at[p.A], at[p.B], p.Share, p.SameTitle}
			if pair.B == t.Home() || pair.A != t.Home() && o.Visits[y] > o.Visits[x] {
				pair.A, pair.B = pair.B, pair.A
			}
			pairs = append(pairs, pair)
		}
	}
	return pairs, o, nil
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
