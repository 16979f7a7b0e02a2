package store

import (
	"context"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
)

// LargeEdition gives an edition that a job publishes.
func (t *tx) LargeEdition(ctx context.Context, id string) (l editions.LargeEdition, err error) {
	var rows []struct {
		ID, PersonID, Why, Note, Looked, State, Problem string
		Changes, Done, Total, Edition                   int
		At                                              time.Time
	}
	err = t.scan(ctx, &rows, `SELECT id, person_id, why, note, looked, state, problem, changes, done, total, edition, at FROM large_editions WHERE site_id = ? AND id::text = ?`, t.site, id)
	if err == nil && len(rows) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return l, err
	}
	r := rows[0]
	return editions.LargeEdition{
		ID: r.ID, PersonID: r.PersonID, Why: r.Why, Note: r.Note, Reviewed: r.Looked, Changes: r.Changes, State: editions.LargeState(r.State), Done: r.Done, Total: r.Total,
		Edition: r.Edition, Problem: r.Problem, At: r.At,
	}, nil
}

// PutLargeEdition keeps an edition that a job publishes, or how it ended.
func (t *tx) PutLargeEdition(ctx context.Context, l editions.LargeEdition) error {
	_, err := t.exec(ctx, `INSERT INTO large_editions (id, site_id, person_id, why, note, looked, changes, state, done, total, edition, problem, at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (id) DO UPDATE SET state = excluded.state, done = excluded.done, edition = excluded.edition, problem = excluded.problem, looked = ''`,
		l.ID, t.site, l.PersonID, l.Why, l.Note, l.Reviewed, l.Changes, string(l.State), l.Done, l.Total, l.Edition, l.Problem, l.At)
	return err
}

// LargeProgress notes how many pages of it are rendered, and tells whether it still waits to go out.
func (t *tx) LargeProgress(ctx context.Context, id string, done int) (waits bool, err error) {
	n, err := t.exec(ctx, `UPDATE large_editions SET done = ? WHERE site_id = ? AND id = ? AND state = ?`, done, t.site, id, string(editions.LargeWaiting))
	return n > 0, err
}
