package reading

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/unanswered"
)

// AskForVisits asks every instance to write down the visits that it counted.
func (a *Reading) AskForVisits(ctx context.Context) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.AskForVisits(ctx) })
}

// CountUnanswered adds addresses that answered nothing to the counts of today.
func (a *Reading) CountUnanswered(ctx context.Context, n unanswered.Count) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.AddUnanswered(ctx, a.Now(), n)
	})
}

// CountHits adds to how often redirects answered today.
func (a *Reading) CountHits(ctx context.Context, n map[redirect.Key]int) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.AddHits(ctx, a.Now(), n)
	})
}

// CountVisits adds visits of readers, by entry, to the counts of today.
func (a *Reading) CountVisits(ctx context.Context, n map[string]int) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.AddVisits(ctx, a.Now(), n)
	})
}
