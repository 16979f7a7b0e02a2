package addresses

import (
	"context"

	"candlepath/internal/app/plan"
)

// VisitsOfMoves gives the visits of the last month by entry, to tell what is at stake where
// addresses change.
func (a *Addresses) VisitsOfMoves(ctx context.Context, who plan.Person) (visits map[string]int, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, _ plan.Trees) error {
		visits, err = tx.Visits(ctx, a.Now().AddDate(0, 0, 1-plan.VisitDays), a.Now())
		return err
	})
	return visits, err
}
