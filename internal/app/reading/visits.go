package reading

import (
	"context"

	"candlepath/internal/app/plan"
)

// AskForVisits asks every instance to write down the visits that it counted.
func (a *Reading) AskForVisits(ctx context.Context) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.AskForVisits(ctx) })
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
