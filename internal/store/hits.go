package store

import (
	"context"
	"time"

	"candlepath/internal/app/addresses"
	"candlepath/internal/core/redirect"
)

// AddHits adds to how often redirects answered on a day.
func (t *tx) AddHits(ctx context.Context, day time.Time, n map[redirect.Key]int) error {
	if len(n) == 0 {
		return nil
	}
	byID := make(map[string]int, len(n))
	for k, times := range n {
		byID[k.ID()] = times
	}
	_, err := t.exec(ctx, `INSERT INTO redirect_hits (site_id, key, day, n)
		SELECT ?, key, ?::date, value::integer FROM jsonb_each_text(?::jsonb)
		ON CONFLICT (site_id, key, day) DO UPDATE SET n = redirect_hits.n + excluded.n`, t.site, day.Format(time.DateOnly), jsonText(byID))
	return err
}

// Hits gives when each redirect answered last, and how often since a day.
func (t *tx) Hits(ctx context.Context, since time.Time) (map[redirect.Key]redirect.Use, error) {
	var rows []struct {
		Key  string
		N    int
		Last time.Time
	}
	err := t.scan(ctx, &rows, `SELECT key, coalesce(sum(n) FILTER (WHERE day >= ?::date), 0) AS n, max(day) AS last FROM redirect_hits WHERE site_id = ? GROUP BY key`,
		since.Format(time.DateOnly), t.site)
	out := make(map[redirect.Key]redirect.Use, len(rows))
	for _, r := range rows {
		if k, ok := redirect.ParseKey(r.Key); ok {
			out[k] = redirect.Use{N: r.N, Last: r.Last.Format(time.DateOnly)}
		}
	}
	return out, err
}

// HitDays gives how often some redirects answered on each day since one.
func (t *tx) HitDays(ctx context.Context, keys []string, since time.Time) ([]addresses.HitDay, error) {
	var rows []addresses.HitDay
	err := t.scan(ctx, &rows, `SELECT key, day, n FROM redirect_hits WHERE site_id = ? AND day >= ?::date AND key `+inSet+` ORDER BY day`,
		t.site, since.Format(time.DateOnly), setText(keys))
	return rows, err
}
