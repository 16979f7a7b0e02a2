package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/core/workflow"
)

type lockRow struct {
	SiteID   string
	EntryID  string
	PersonID string
	WindowID string
	TakenAt  time.Time
	SeenAt   time.Time

	AskedBy, AskedWindow *string
	AskedAt              *time.Time
	Declined             bool
}

func (r lockRow) toCore() workflow.Lock {
	l := workflow.Lock{Person: r.PersonID, Window: r.WindowID, Taken: r.TakenAt, Seen: r.SeenAt}
	if r.AskedBy != nil && r.AskedWindow != nil && r.AskedAt != nil {
		l.Asked = &workflow.LockAsked{Person: *r.AskedBy, Window: *r.AskedWindow, At: *r.AskedAt, Declined: r.Declined}
	}
	return l
}

// TableName names the table of the rows.
func (lockRow) TableName() string { return "locks" }

// Lock gives who has a page open for editing; plan.ErrNotFound if
// nobody has.
func (t *tx) Lock(ctx context.Context, entry string) (workflow.Lock, error) {
	r, err := gorm.G[lockRow](t.db).Where("site_id = ? AND entry_id = ?", t.site, entry).Take(ctx)
	return r.toCore(), wordError(err)
}

// HoldLock gives who has a page open, the zero lock if nobody has, and lets nobody change it until
// the transaction ends.
func (t *tx) HoldLock(ctx context.Context, entry string) (workflow.Lock, error) {
	var rows []lockRow
	err := t.scan(ctx, &rows, `SELECT * FROM locks WHERE site_id = ? AND entry_id = ? FOR UPDATE`, t.site, entry)
	if err != nil || len(rows) == 0 {
		return workflow.Lock{}, err
	}
	return rows[0].toCore(), nil
}

// Locks gives the locks that hold at a time, by entry.
func (t *tx) Locks(ctx context.Context, now time.Time) (map[string]workflow.Lock, error) {
	rows, err := gorm.G[lockRow](t.db).Where("site_id = ? AND seen_at > ?", t.site, now.Add(-workflow.LockFor)).Find(ctx)
	out := make(map[string]workflow.Lock, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r.toCore()
	}
	return out, wordError(err)
}

// PutLock gives the page to somebody.
func (t *tx) PutLock(ctx context.Context, entry string, l workflow.Lock) error {
	var by, window *string
	var at *time.Time
	declined := false
	if l.Asked != nil {
		by, window, at, declined = &l.Asked.Person, &l.Asked.Window, &l.Asked.At, l.Asked.Declined
	}
	_, err := t.exec(ctx, `INSERT INTO locks (site_id, entry_id, person_id, window_id, taken_at, seen_at, asked_by, asked_window, asked_at, declined) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (site_id, entry_id) DO UPDATE SET person_id = excluded.person_id, window_id = excluded.window_id, taken_at = excluded.taken_at, seen_at = excluded.seen_at,
		asked_by = excluded.asked_by, asked_window = excluded.asked_window, asked_at = excluded.asked_at, declined = excluded.declined`,
		t.site, entry, l.Person, l.Window, l.Taken, l.Seen, by, window, at, declined)
	return err
}

// DropLock gives it back, if the window of the person still holds it.
func (t *tx) DropLock(ctx context.Context, entry, person, window string) error {
	_, err := t.exec(ctx, `DELETE FROM locks WHERE site_id = ? AND entry_id = ? AND person_id::text = ? AND window_id = ?`, t.site, entry, person, window)
	return err
}
