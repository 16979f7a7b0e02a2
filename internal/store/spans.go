package store

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/edition"
)

// The condition on page_spans s for what is a draft and what is live.
const (
	isDraft = "s.from_edition IS NULL"
	isLive  = "s.from_edition IS NOT NULL AND s.to_edition IS NULL"
)

const (
	noDraft = `NOT EXISTS (SELECT 1 FROM page_spans d WHERE d.site_id = s.site_id AND d.entry_id = s.entry_id AND d.from_edition IS NULL)`

	// draftCopies goes on from a table "copies" of versions, old, and the ids that
	// their copies get, new, and makes each copy a draft.
	draftCopies = `, version AS (
			INSERT INTO page_versions (id, ` + versionFields + `)
			SELECT new, ` + versionFields + ` FROM page_versions JOIN copies ON old = id RETURNING id, site_id, entry_id),
		words AS (
			INSERT INTO page_words (version_id, plain, words) SELECT new, plain, words FROM page_words JOIN copies ON old = version_id),
		links AS (
			INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile)
			SELECT new, place, site_id, target, to_entry, words, tile FROM page_links JOIN copies ON old = version_id),
		pictures AS (
			INSERT INTO page_pictures (version_id, picture_id) SELECT new, picture_id FROM page_pictures JOIN copies ON old = version_id)
		INSERT INTO page_spans (site_id, entry_id, version_id) SELECT site_id, entry_id, id FROM version`
)

// releasePages opens the spans of the drafts that go out and closes those of
// the versions they replace.
func (t *tx) releasePages(ctx context.Context, r editions.Release) error {
	n := r.Edition.Number
	if err := t.restorePages(ctx, n, r.Texts); err != nil {
		return err
	}
	for _, v := range r.Rendered {
		if err := t.releaseRendered(ctx, n, v, slices.Contains(r.Drafts, v.EntryID)); err != nil {
			return err
		}
	}
	if len(r.Drafts) == 0 {
		return nil
	}
	ids := setText(r.Drafts)
	if _, err := t.exec(ctx, `UPDATE page_spans s SET to_edition = ? WHERE site_id = ? AND `+isLive+` AND entry_id `+inSet, n, t.site, ids); err != nil {
		return err
	}
	_, err := t.exec(ctx, `UPDATE page_spans s SET from_edition = ? WHERE site_id = ? AND `+isDraft+` AND entry_id `+inSet, n, t.site, ids)
	return err
}

// releaseRendered writes a page that was rendered again: over its draft, which
// goes out next, or as a version of its own that begins with this edition.
func (t *tx) releaseRendered(ctx context.Context, edition int, v plan.PageVersion, draft bool) error {
	if draft {
		return t.SaveDraft(ctx, v, v.Version)
	}
	if _, err := t.exec(ctx, `UPDATE page_spans s SET to_edition = ? WHERE site_id = ? AND version_id = ? AND `+isLive, edition, t.site, v.ID); err != nil {
		return err
	}
	v.ID = uuid.NewString()
	if err := t.addVersion(ctx, v); err != nil {
		return err
	}
	_, err := t.exec(ctx, `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) VALUES (?, ?, ?, ?)`, t.site, v.EntryID, v.ID, edition)
	return err
}

// restorePages makes versions of an earlier edition live again. What leaves is
// copied into a draft, because drafts are written over.
func (t *tx) restorePages(ctx context.Context, edition int, texts edition.Texts) error {
	type opened struct {
		Entry   string `json:"entry"`
		Version string `json:"version"`
	}
	var open []opened
	for entry, version := range texts.Open {
		open = append(open, opened{entry, version})
	}
	for _, q := range []struct {
		sql  string
		what string
		n    int
	}{
		{`WITH copies AS MATERIALIZED (
				SELECT s.version_id AS old, gen_random_uuid() AS new FROM page_spans s
				WHERE s.site_id = @site AND ` + isLive + ` AND s.entry_id IN (SELECT unnest(CAST(@what AS text[]))))` + draftCopies, setText(texts.Draft), len(texts.Draft)},
		{`UPDATE page_spans s SET to_edition = @n WHERE s.site_id = @site AND ` + isLive + ` AND s.entry_id IN (SELECT unnest(CAST(@what AS text[])))`, setText(texts.Close), len(texts.Close)},
		{`INSERT INTO page_spans (site_id, entry_id, version_id, from_edition)
			SELECT CAST(@site AS uuid), entry, version, CAST(@n AS integer) FROM jsonb_to_recordset(CAST(@what AS jsonb)) AS o(entry text, version uuid)`, jsonText(open), len(open)},
	} {
		if q.n == 0 {
			continue
		}
		if _, err := t.exec(ctx, q.sql, map[string]any{"site": t.site, "n": edition, "what": q.what}); err != nil {
			return err
		}
	}
	return nil
}

// TextsAt gives the version of each page that an edition shows, by entry.
func (t *tx) TextsAt(ctx context.Context, edition int) (map[string]string, error) {
	var rows []struct{ EntryID, VersionID string }
	err := t.scan(ctx, &rows, `SELECT entry_id, version_id FROM page_spans WHERE site_id = @site AND from_edition <= @at AND (to_edition IS NULL OR to_edition > @at)`,
		map[string]any{"site": t.site, "at": edition})
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r.VersionID
	}
	return out, err
}

// ContentDiffers gives the entries whose content is another in one edition than
// in the other; an edition of 0 is what is planned.
func (t *tx) ContentDiffers(ctx context.Context, a, b int) ([]string, error) {
	in := func(edition int) string {
		if edition == 0 {
			return `SELECT DISTINCT ON (entry_id) entry_id, version_id FROM page_spans WHERE site_id = @site AND to_edition IS NULL ORDER BY entry_id, from_edition NULLS FIRST`
		}
		return fmt.Sprintf(`SELECT entry_id, version_id FROM page_spans WHERE site_id = @site AND from_edition <= %[1]d AND (to_edition IS NULL OR to_edition > %[1]d)`, edition)
	}
	var ids []string
	err := t.scan(ctx, &ids, `SELECT coalesce(x.entry_id, y.entry_id) AS entry_id FROM (`+in(a)+`) x FULL JOIN (`+in(b)+`) y ON x.entry_id = y.entry_id
		WHERE x.version_id IS DISTINCT FROM y.version_id ORDER BY 1`, map[string]any{"site": t.site})
	return ids, err
}

// BringDraftsBack makes the last content of entries that were removed their
// draft, unless they have one.
func (t *tx) BringDraftsBack(ctx context.Context, entries []string) error {
	_, err := t.exec(ctx, `WITH copies AS MATERIALIZED (
			SELECT DISTINCT ON (s.entry_id) s.version_id AS old, gen_random_uuid() AS new FROM page_spans s
			WHERE s.site_id = ? AND s.entry_id `+inSet+` AND `+noDraft+` ORDER BY s.entry_id, s.from_edition DESC)`+draftCopies, t.site, setText(entries))
	return err
}
