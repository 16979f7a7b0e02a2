package store

import (
	"context"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/core/workflow"
)

// Clock is the time of the database, which is one for all instances.
func (t *tx) Clock(ctx context.Context) (now time.Time, err error) {
	return now, t.scan(ctx, &now, `SELECT clock_timestamp()`)
}

// Freezes gives the times in which nothing is published, the earliest first.
func (t *tx) Freezes(ctx context.Context) ([]workflow.Freeze, error) {
	var rows []struct {
		ID, Why, PersonID string
		Begins, Ends      time.Time
	}
	err := t.scan(ctx, &rows, `SELECT id, why, person_id, begins, ends FROM freezes WHERE site_id = ? ORDER BY begins, id`, t.site)
	out := make([]workflow.Freeze, len(rows))
	for i, r := range rows {
		out[i] = workflow.Freeze{ID: r.ID, Why: r.Why, Person: r.PersonID, Begins: r.Begins, Ends: r.Ends}
	}
	return out, err
}

// PutFreeze keeps a freeze.
func (t *tx) PutFreeze(ctx context.Context, f workflow.Freeze) error {
	_, err := t.exec(ctx, `INSERT INTO freezes (id, site_id, begins, ends, why, person_id) VALUES (?, ?, ?, ?, ?, ?)`, f.ID, t.site, f.Begins, f.Ends, f.Why, f.Person)
	return err
}

// EndFreeze ends a freeze at a time, or forgets one that did not begin by then.
func (t *tx) EndFreeze(ctx context.Context, id string, at time.Time) error {
	if _, err := t.exec(ctx, `DELETE FROM freezes WHERE site_id = ? AND id::text = ? AND begins >= ?`, t.site, id, at); err != nil {
		return err
	}
	_, err := t.exec(ctx, `UPDATE freezes SET ends = ? WHERE site_id = ? AND id::text = ? AND ends > ?`, at, t.site, id, at)
	return err
}

// Withdrawals gives the pages that are withdrawn at a minute, the earliest first.
func (t *tx) Withdrawals(ctx context.Context) ([]editions.Withdrawal, error) {
	var rows []struct {
		EntryID, PersonID, Zone, GoesTo, Says string
		GoAt                                  time.Time
	}
	err := t.scan(ctx, &rows, `SELECT entry_id, person_id, zone, goes_to, says, go_at FROM withdrawals WHERE site_id = ? ORDER BY go_at, entry_id`, t.site)
	out := make([]editions.Withdrawal, len(rows))
	for i, r := range rows {
		out[i] = editions.Withdrawal{Entry: r.EntryID, Person: r.PersonID, GoAt: r.GoAt, Zone: r.Zone, To: r.GoesTo, Says: r.Says}
	}
	return out, err
}

// PutWithdrawal keeps that a page is withdrawn at a minute.
func (t *tx) PutWithdrawal(ctx context.Context, w editions.Withdrawal) error {
	_, err := t.exec(ctx, `INSERT INTO withdrawals (site_id, entry_id, go_at, zone, goes_to, says, person_id) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (site_id, entry_id) DO UPDATE SET go_at = excluded.go_at, zone = excluded.zone, goes_to = excluded.goes_to, says = excluded.says, person_id = excluded.person_id`,
		t.site, w.Entry, w.GoAt, w.Zone, w.To, w.Says, w.Person)
	return err
}

// DropWithdrawals forgets the minutes of pages.
func (t *tx) DropWithdrawals(ctx context.Context, entries []string) error {
	_, err := t.exec(ctx, `DELETE FROM withdrawals WHERE site_id = ? AND entry_id `+inSet, t.site, setText(entries))
	return err
}
