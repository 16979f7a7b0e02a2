package reading

import (
	"context"

	"candlepath/internal/app/plan"
)

// CountVisits adds visits of readers, by entry, to the counts of today.
func (a *Reading) CountVisits(ctx context.Context, n map[string]int) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.AddVisits(ctx, a.Now(), n)
	})
}
