package plan

import (
	"context"
	"time"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// VisitDays is over how many days visits are told.
const VisitDays = 30

// Visits gives the visits of the last days, today with them. Those of a page
// that went, or is planned to go, count for the page where its visitors belong.
func (a *Floor) Visits(ctx context.Context, tx Tx, trees Trees) (map[string]int, error) {
	n, err := tx.Visits(ctx, a.Now().Add(-(VisitDays-1)*24*time.Hour), a.Now())
	if err != nil {
		return nil, err
	}
	for id := range n {
		if trees.Next.Find(id) == sitemap.None {
			heirs, err := redirectSuccessors(ctx, tx, trees)
			if err != nil {
				return nil, err
			}
			heirs.Inherit(n)
			break
		}
	}
	return n, nil
}

// redirectSuccessors loads what tells where the visitors of pages that went are led.
func redirectSuccessors(ctx context.Context, tx Tx, trees Trees) (redirect.Heirs, error) {
	h := redirect.Heirs{Live: trees.Live, Next: trees.Next}
	var err error
	if h.Decisions, err = tx.Decisions(ctx); err != nil {
		return h, err
	}
	removed, err := tx.RemovedEntries(ctx)
	if err != nil {
		return h, err
	}
	h.Last = make(map[string]string, len(removed))
	for _, r := range removed {
		h.Last[r.Entry.ID] = r.Address
	}
	rows, err := tx.Table(ctx)
	if err != nil {
		return h, err
	}
	if table, err := redirect.NewTable(rows, trees.Live); err == nil { // else preflight tells about it
		h.Table = table
	}
	return h, nil
}
