package store

import (
	"context"
	"time"

	"candlepath/internal/app/account"
)

// PutWindow keeps a window of the studio that is open, and tells whether it was not there before.
func (t *tx) PutWindow(ctx context.Context, w account.Window) (moved bool, err error) {
	err = t.scan(ctx, &moved, `WITH was AS (SELECT screen, entry_id FROM open_windows WHERE id = @id),
		put AS (INSERT INTO open_windows (id, site_id, person_id, screen, entry_id, since, seen_at) VALUES (@id, @site, @person, @screen, @entry, @since, @seen)
			ON CONFLICT (id) DO UPDATE SET screen = excluded.screen, entry_id = excluded.entry_id, seen_at = excluded.seen_at WHERE open_windows.person_id = excluded.person_id)
		SELECT NOT EXISTS (SELECT 1 FROM was WHERE screen = @screen AND entry_id = @entry)`,
		map[string]any{"id": w.ID, "site": t.site, "person": w.Person, "screen": w.Screen, "entry": w.Entry, "since": w.Since, "seen": w.Seen})
	return moved, err
}

// SeeWindows notes that windows are open still, and forgets those that were not seen since a time.
func (t *tx) SeeWindows(ctx context.Context, ids []string, now, before time.Time) (forgotten int64, err error) {
	if _, err := t.exec(ctx, `UPDATE open_windows SET seen_at = ? WHERE site_id = ? AND id::text `+inSet, now, t.site, setText(ids)); err != nil {
		return 0, err
	}
	return t.exec(ctx, `DELETE FROM open_windows WHERE site_id = ? AND seen_at < ?`, t.site, before)
}

// DropWindows forgets windows of a person that were closed.
func (t *tx) DropWindows(ctx context.Context, person string, ids []string) error {
	_, err := t.exec(ctx, `DELETE FROM open_windows WHERE site_id = ? AND person_id::text = ? AND id::text `+inSet, t.site, person, setText(ids))
	return err
}

// Windows gives up to n windows that were seen since a time, the longest open first.
func (t *tx) Windows(ctx context.Context, since time.Time, n int) ([]account.Window, error) {
	var rows []struct {
		ID, PersonID, Screen, EntryID string
		Since, SeenAt                 time.Time
	}
	err := t.scan(ctx, &rows, `SELECT id, person_id, screen, entry_id, since, seen_at FROM open_windows WHERE site_id = ? AND seen_at >= ? ORDER BY since, id LIMIT ?`, t.site, since, n)
	out := make([]account.Window, len(rows))
	for i, r := range rows {
		out[i] = account.Window{ID: r.ID, Person: r.PersonID, Screen: r.Screen, Entry: r.EntryID, Since: r.Since, Seen: r.SeenAt}
	}
	return out, err
}
