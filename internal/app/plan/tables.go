package plan

import (
	"context"

	"candlepath/internal/core/redirect"
)

// RedirectsOf gives the redirects of Live, in the order of their addresses; they must not be
// changed.
func (a *Floor) RedirectsOf(ctx context.Context, tx Tx, s Site) ([]redirect.Row, error) {
	if rows, ok := a.table.Get(s, ""); ok {
		return rows, nil
	}
	rows, err := tx.Table(ctx)
	if err == nil {
		a.table.Put(tx, s, "", rows)
	}
	return rows, err
}
