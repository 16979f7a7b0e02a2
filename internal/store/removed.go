package store

import (
	"context"
	"time"
)

// LinkedBefore gives, for each removed entry, the pages that linked to it in the
// edition before it went.
func (t *tx) LinkedBefore(ctx context.Context, until map[string]int) (map[string][]string, error) {
	if len(until) == 0 {
		return map[string][]string{}, nil
	}
	var rows []struct{ ID, EntryID string }
	err := t.scan(ctx, &rows, `SELECT DISTINCT r.key AS id, s.entry_id
		FROM jsonb_each_text(?::jsonb) r JOIN page_links l ON l.site_id = ? AND l.to_entry = r.key AND NOT l.follows JOIN page_spans s ON s.version_id = l.version_id
		WHERE s.from_edition < r.value::integer AND (s.to_edition IS NULL OR s.to_edition >= r.value::integer)
		ORDER BY s.entry_id`, jsonText(until), t.site)
	out := map[string][]string{}
	for _, r := range rows {
		out[r.ID] = append(out[r.ID], r.EntryID)
	}
	return out, err
}

// DeleteEntries deletes the texts of removed entries, those of past editions
// with them, and what they were imported from.
func (t *tx) DeleteEntries(ctx context.Context, entries []string, person string, at time.Time) error {
	ids := setText(entries)
	if _, err := t.exec(ctx, `SELECT set_config('candlepath.deleting', 'on', true)`); err != nil {
		return err
	}
	for _, q := range []string{
		`DELETE FROM page_versions WHERE site_id = ? AND entry_id ` + inSet,
		`DELETE FROM page_sources WHERE site_id = ? AND entry_id ` + inSet,
		`DELETE FROM draft_states WHERE site_id = ? AND entry_id ` + inSet,
	} {
		if _, err := t.exec(ctx, q, t.site, ids); err != nil {
			return err
		}
	}
	if _, err := t.exec(ctx, `SELECT set_config('candlepath.deleting', '', true)`); err != nil {
		return err
	}
	_, err := t.exec(ctx, `INSERT INTO deleted_entries (site_id, entry_id, person_id, at) SELECT ?, unnest(CAST(? AS text[])), ?, ?
		ON CONFLICT (site_id, entry_id) DO UPDATE SET person_id = excluded.person_id, at = excluded.at`, t.site, ids, person, at)
	return err
}
