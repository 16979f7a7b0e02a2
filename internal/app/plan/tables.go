package plan

import (
	"context"

	"candlepath/internal/core/redirect"
)

// cachedTable are the redirects of one edition, which never change.
type cachedTable struct {
	site    string
	edition int
	rows    []redirect.Row
}

// RedirectsOf gives the redirects of Live, in the order of their addresses; they must not be
// changed.
func (a *Floor) RedirectsOf(ctx context.Context, tx Tx, s Site) ([]redirect.Row, error) {
	if c := a.table.Load(); c != nil && c.site == s.ID && c.edition == s.Edition {
		return c.rows, nil
	}
	rows, err := tx.Table(ctx)
	if err == nil && tx.Steady() {
		a.table.Store(&cachedTable{s.ID, s.Edition, rows})
	}
	return rows, err
}
