package store

import (
	"context"
	"time"
)

// AddVisits adds to the counts of a day.
func (t *tx) AddVisits(ctx context.Context, day time.Time, n map[string]int) error {
	if len(n) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `INSERT INTO visits (site_id, entry_id, day, n)
		SELECT ?, key, ?::date, value::integer FROM jsonb_each_text(?::jsonb)
		ON CONFLICT (site_id, entry_id, day) DO UPDATE SET n = visits.n + excluded.n`, t.site, day.Format(time.DateOnly), jsonText(n))
	return err
}

// NeverVisited gives those of the entries of which it is known that nobody ever
// opened them; none where no visits were counted yet.
func (t *tx) NeverVisited(ctx context.Context, entries []string) (map[string]bool, error) {
	var ids []string
	err := t.scan(ctx, &ids, `SELECT e FROM unnest(CAST(? AS text[])) AS e
		WHERE EXISTS (SELECT 1 FROM visits WHERE site_id = ?)
		AND NOT EXISTS (SELECT 1 FROM visits v WHERE v.site_id = ? AND v.entry_id = e)`, setText(entries), t.site, t.site)
	out := make(map[string]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

// Visits sums the counts up from a day to another, both included, by entry.
func (t *tx) Visits(ctx context.Context, from, to time.Time) (map[string]int, error) {
	var rows []struct {
		EntryID string
		N       int
	}
	err := t.scan(ctx, &rows, `SELECT entry_id, sum(n) AS n FROM visits WHERE site_id = ? AND day BETWEEN ?::date AND ?::date GROUP BY entry_id`,
		t.site, from.Format(time.DateOnly), to.Format(time.DateOnly))
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r.N
	}
	return out, err
}
