package addresses

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
)

// HitDay is how often a redirect answered on a day.
type HitDay struct {
	Key string
	Day time.Time
	N   int
}

// HitsFor is over how many days uses of redirects are told.
const HitsFor = 30

// HitDays gives how often redirects answered on each of the last days, by their ids; the latest
// day last.
func (a *Addresses) HitDays(ctx context.Context, who plan.Person, ids []string) (out map[string][]int, err error) {
	first := a.Now().AddDate(0, 0, 1-HitsFor)
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, _ plan.Trees) error {
		days, err := tx.HitDays(ctx, ids, first)
		out = map[string][]int{}
		for _, d := range days {
			if out[d.Key] == nil {
				out[d.Key] = make([]int, HitsFor)
			}
			if at := daysBetween(first, d.Day); at >= 0 && at < HitsFor {
				out[d.Key][at] += d.N
			}
		}
		return err
	})
	return out, err
}

func daysBetween(from, to time.Time) int {
	day := func(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC) }
	return int(day(to).Sub(day(from)).Hours() / 24)
}
