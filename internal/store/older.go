package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
)

// PutSource keeps where the text of a page came from, with its HTML.
func (t *tx) PutSource(ctx context.Context, s plan.PageSource) error {
	_, err := t.exec(ctx, `INSERT INTO page_sources (site_id, entry_id, file, html, lost, at, import_id) VALUES (?, ?, ?, ?, ?::jsonb, ?, ?::uuid)
		ON CONFLICT (site_id, entry_id) DO UPDATE SET file = excluded.file, html = excluded.html, lost = excluded.lost, at = excluded.at, import_id = excluded.import_id`,
		t.site, s.EntryID, s.File, s.HTML, jsonText(s.Lost), s.At, s.ImportID)
	return err
}

// Source gives it; the HTML only if html is set.
func (t *tx) Source(ctx context.Context, entry string, html bool) (plan.PageSource, error) {
	var rows []struct {
		File string
		HTML []byte
		Lost json.RawMessage
		At   time.Time
	}
	err := t.scan(ctx, &rows, `SELECT file, CASE WHEN ? THEN html END AS html, lost, at FROM page_sources WHERE site_id = ? AND entry_id = ?`, html, t.site, entry)
	if err != nil || len(rows) == 0 {
		return plan.PageSource{}, orNotFound(err)
	}
	s := plan.PageSource{EntryID: entry, File: rows[0].File, HTML: rows[0].HTML, At: rows[0].At}
	if err := json.Unmarshal(rows[0].Lost, &s.Lost); err != nil {
		return s, fmt.Errorf("source of %s: %w", entry, err)
	}
	return s, nil
}

// SourcesOf gives the pages whose text came with an import, and how many things were
// lost on each.
func (t *tx) SourcesOf(ctx context.Context, id string) (map[string]int, error) {
	var rows []struct {
		EntryID string
		Lost    int
	}
	err := t.scan(ctx, &rows, `SELECT entry_id, jsonb_array_length(lost) AS lost FROM page_sources WHERE site_id = ? AND import_id = ?::uuid`, t.site, id)
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r.Lost
	}
	return out, err
}

func orNotFound(err error) error {
	if err == nil {
		return plan.ErrNotFound
	}
	return err
}
