package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
)

type fileRow struct {
	ID, Name, Type string
	Given          string
	Bytes          int
	Width, Height  int
	Sizes          json.RawMessage
	PersonID       string
	At             time.Time
	ReplacedBy     string
}

func (r fileRow) toPort() (plan.KeptFile, error) {
	f := plan.KeptFile{ID: r.ID, Name: r.Name, Given: r.Given, Type: r.Type, Bytes: r.Bytes, Width: r.Width, Height: r.Height, PersonID: r.PersonID, At: r.At, ReplacedBy: r.ReplacedBy}
	if err := json.Unmarshal(r.Sizes, &f.Sizes); err != nil {
		return f, fmt.Errorf("sizes of file %s: %w", r.ID, err)
	}
	return f, nil
}

const selectFiles = `SELECT f.id, f.name, f.given, f.type, f.bytes, f.width, f.height, to_json(f.sizes) AS sizes, coalesce(f.person_id::text, '') AS person_id, f.at, coalesce(f.replaced_by, '') AS replaced_by
	FROM files f WHERE f.site_id = ? `

func (t *tx) files(ctx context.Context, where string, args ...any) ([]plan.KeptFile, error) {
	var rows []fileRow
	if err := t.scan(ctx, &rows, selectFiles+where, append([]any{t.site}, args...)...); err != nil {
		return nil, err
	}
	out := make([]plan.KeptFile, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.toPort(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// PutFile keeps what is known of a file; one that is there already stays.
func (t *tx) PutFile(ctx context.Context, f plan.KeptFile) error {
	_, err := t.exec(ctx, `INSERT INTO files (site_id, id, name, given, type, bytes, width, height, sizes, person_id, at)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ARRAY(SELECT jsonb_array_elements_text(?::jsonb)::integer), nullif(?, '')::uuid, ?) ON CONFLICT (site_id, id) DO NOTHING`,
		t.site, f.ID, f.Name, f.Given, f.Type, f.Bytes, f.Width, f.Height, jsonText(f.Sizes), f.PersonID, f.At)
	return err
}

// File gives a file that the site keeps; plan.ErrNotFound if there is none.
func (t *tx) File(ctx context.Context, id string) (plan.KeptFile, error) {
	found, err := t.files(ctx, "AND f.id = ?", id)
	if err == nil && len(found) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return plan.KeptFile{}, err
	}
	return found[0], nil
}

// FilesByID gives the files of some ids that the site keeps.
func (t *tx) FilesByID(ctx context.Context, ids []string) ([]plan.KeptFile, error) {
	return t.files(ctx, "AND f.id "+inSet, setText(ids))
}

// Files gives the files whose name has the words, the newest first.
func (t *tx) Files(ctx context.Context, words string, pictures bool, from, n int) ([]plan.KeptFile, error) {
	return t.files(ctx, `AND (? = '' OR strpos(f.name, ?) > 0) AND (NOT ? OR f.width > 0) ORDER BY f.at DESC, f.id OFFSET ? LIMIT ?`, words, words, pictures, from, n)
}

// FileUses gives the entries whose live text or draft shows each file, and whether any
// version ever did.
func (t *tx) FileUses(ctx context.Context, ids []string) (now map[string][]string, ever map[string]bool, err error) {
	var rows []struct {
		PictureID, EntryID string
		Now                bool
	}
	err = t.scan(ctx, &rows, `SELECT DISTINCT p.picture_id, s.entry_id, s.to_edition IS NULL AS now FROM page_pictures p JOIN page_spans s ON s.version_id = p.version_id
		WHERE s.site_id = ? AND p.picture_id `+inSet+` ORDER BY 1, 2`, t.site, setText(ids))
	now, ever = map[string][]string{}, map[string]bool{}
	for _, r := range rows {
		if ever[r.PictureID] = true; r.Now {
			now[r.PictureID] = append(now[r.PictureID], r.EntryID)
		}
	}
	return now, ever, err
}

// FileReplaced notes which file took the place of another, and that this one is its own again.
func (t *tx) FileReplaced(ctx context.Context, id, by string) error {
	if _, err := t.exec(ctx, `UPDATE files SET replaced_by = NULL WHERE site_id = ? AND id = ?`, t.site, by); err != nil {
		return err
	}
	_, err := t.exec(ctx, `UPDATE files SET replaced_by = ? WHERE site_id = ? AND id = ?`, by, t.site, id)
	return err
}

// DropFile forgets a file. One that a version shows, also one that is saved in this moment,
// stays: plan.ErrShown.
func (t *tx) DropFile(ctx context.Context, id string) error {
	if _, err := t.exec(ctx, `DELETE FROM page_pictures p WHERE p.site_id = ? AND p.picture_id = ?
		AND NOT EXISTS (SELECT 1 FROM page_spans s WHERE s.version_id = p.version_id)`, t.site, id); err != nil {
		return err
	}
	_, err := t.exec(ctx, `DELETE FROM files WHERE site_id = ? AND id = ?`, t.site, id)
	return err
}

// OldFiles gives files of which the database still holds what they hold.
func (t *tx) OldFiles(ctx context.Context, n int) (map[string][]byte, error) {
	var rows []struct {
		ID   string
		Data []byte
	}
	err := t.scan(ctx, &rows, `SELECT id, data FROM files WHERE site_id = ? AND data IS NOT NULL LIMIT ?`, t.site, n)
	out := map[string][]byte{}
	for _, r := range rows {
		out[r.ID] = r.Data
	}
	return out, err
}

// FileMoved forgets what the database holds of a file.
func (t *tx) FileMoved(ctx context.Context, id string) error {
	_, err := t.exec(ctx, `UPDATE files SET data = NULL WHERE site_id = ? AND id = ?`, t.site, id)
	return err
}

// LockFiles waits until nobody sweeps the storage of files; alone, until nobody brings a file
// either. The lock ends with the transaction.
func (t *tx) LockFiles(ctx context.Context, alone bool) error {
	lock := `SELECT pg_advisory_xact_lock_shared(hashtextextended('files', 0))`
	if alone {
		lock = `SELECT pg_advisory_xact_lock(hashtextextended('files', 0))`
	}
	_, err := t.exec(ctx, lock)
	return err
}

// KnownFiles tells which ids are those of files that some site keeps.
func (t *tx) KnownFiles(ctx context.Context, ids []string) (map[string]bool, error) {
	var found []string
	err := t.scan(ctx, &found, `SELECT id FROM files WHERE id `+inSet, setText(ids))
	known := map[string]bool{}
	for _, id := range found {
		known[id] = true
	}
	return known, err
}
