package plan

import (
	"context"
	"time"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// visitDays is over how many days visits are told.
const visitDays = 30

// Visits gives the visits of the last days, today with them. Those of a page
// that went, or is planned to go, count for the page where its visitors belong.
func (a *Floor) Visits(ctx context.Context, tx Tx, trees Trees) (map[string]int, error) {
	n, err := tx.Visits(ctx, a.Now().Add(-(visitDays-1)*24*time.Hour))
	if err != nil {
		return nil, err
	}
	var left []string
	for id := range n {
		if trees.Next.Find(id) == sitemap.None {
			left = append(left, id)
		}
	}
	if len(left) == 0 {
		return n, nil
	}
	heir, err := heirs(ctx, tx, trees)
	if err != nil {
		return nil, err
	}
	for _, id := range left {
		if to := heir(id); to != "" {
			n[to] += n[id]
		}
	}
	return n, nil
}

// heirs gives a function that names the page of Next to which the visitors of a
// page that went are led.
func heirs(ctx context.Context, tx Tx, trees Trees) (func(id string) string, error) {
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return nil, err
	}
	removed, err := tx.RemovedEntries(ctx)
	if err != nil {
		return nil, err
	}
	rows, err := tx.Table(ctx)
	if err != nil {
		return nil, err
	}
	table, err := redirect.NewTable(rows, trees.Live)
	if err != nil {
		table = nil // preflight tells about it
	}
	last := make(map[string]string, len(removed))
	for _, r := range removed {
		last[r.Entry.ID] = r.Address
	}
	inNext := func(id string) string {
		if trees.Next.Find(id) == sitemap.None {
			return ""
		}
		return id
	}
	return func(id string) string {
		if to := decisions[id].To.Entry; to != "" {
			return inNext(to)
		}
		if last[id] == "" || table == nil {
			return ""
		}
		if i := table.Resolve(table.Resolve(last[id]).Location).Page; i != sitemap.None {
			return inNext(trees.Live.Ref(i).ID)
		}
		return ""
	}, nil
}
