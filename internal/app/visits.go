package app

import (
	"context"
	"time"

	"candlepath/internal/app/port"
)

// visitDays is over how many days visits are told.
const visitDays = 30

// CountVisits adds visits of readers, by entry, to the counts of today.
func (a *App) CountVisits(ctx context.Context, n map[string]int) error {
	return a.store.Note(ctx, func(tx port.Tx, s port.Site) error {
		if s.ID == "" {
			return nil
		}
		return tx.AddVisits(ctx, a.now(), n)
	})
}

// visits gives the visits of the last days, today with them.
func (a *App) visits(ctx context.Context, tx port.Tx) (map[string]int, error) {
	return tx.Visits(ctx, a.now().Add(-(visitDays-1)*24*time.Hour))
}
