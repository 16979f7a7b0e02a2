package account

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
)

// neighboursFor is how long a server that passed requests on is told of.
const neighboursFor = 7 * 24 * time.Hour

// SeeNeighbour notes that a server passes requests on without being trusted to say for whom.
func (a *Account) SeeNeighbour(ctx context.Context, address string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.SeeNeighbour(ctx, address, a.Now()) })
}

// Neighbours gives the servers that passed requests on lately without being trusted.
func (a *Account) Neighbours(ctx context.Context) (list []string, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		list, err = tx.Neighbours(ctx, a.Now().Add(-neighboursFor))
		return err
	})
	return list, err
}
