package store

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/google/uuid"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
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
			INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile, follows)
			SELECT new, place, site_id, target, to_entry, words, tile, follows FROM page_links JOIN copies ON old = version_id),
		pictures AS (
			INSERT INTO page_pictures (version_id, site_id, picture_id) SELECT new, page_pictures.site_id, picture_id FROM page_pictures JOIN copies ON old = version_id)
		INSERT INTO page_spans (site_id, entry_id, version_id) SELECT site_id, entry_id, id FROM version`
)

// releasePages opens the spans of the drafts that go out and closes those of
// the versions they replace.
func (t *tx) releasePages(ctx context.Context, r editions.Release) error {
	n := r.Edition.Number
	if err := t.restorePages(ctx, n, r.Texts); err != nil {
		return err
	}
	goes := make(map[string]bool, len(r.Drafts))
	for _, id := range r.Drafts {
		goes[id] = true
	}
	for some, err := range r.Rendered {
		if err != nil {
			return err
		}
		if err := t.releaseRendered(ctx, n, some, goes); err != nil {
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
	if r.WordsNow {
		if _, err := t.exec(ctx, `UPDATE page_words w SET words = to_tsvector('english', w.plain) FROM page_spans s
			WHERE w.words IS NULL AND s.version_id = w.version_id AND s.site_id = ? AND `+isDraft+` AND s.entry_id `+inSet, t.site, ids); err != nil {
			return err
		}
	}
	var bare []string
	err := t.scan(ctx, &bare, `SELECT s.entry_id FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.site_id = ? AND `+isDraft+` AND s.entry_id `+inSet+` AND `+isBare+` LIMIT 1`, t.site, ids)
	if len(bare) > 0 {
		err = fmt.Errorf("page %s is not rendered", bare[0])
	}
	if err != nil {
		return err
	}
	_, err = t.exec(ctx, `UPDATE page_spans s SET from_edition = ? WHERE site_id = ? AND `+isDraft+` AND entry_id `+inSet, n, t.site, ids)
	return err
}

// releaseRendered writes pages that were rendered again: over their draft, if that goes out.
func (t *tx) releaseRendered(ctx context.Context, edition int, rendered []editions.Laid, goes map[string]bool) error {
	var follow, bare []plan.PageVersion
	for _, v := range rendered {
		switch {
		case !goes[v.EntryID]:
			follow = append(follow, v.PageVersion)
		case v.Fits:
			bare = append(bare, v.PageVersion)
		default:
			if err := t.SaveDraft(ctx, v.PageVersion, v.Version); err != nil {
				return err
			}
		}
	}
	if err := t.saveBodies(ctx, bare); err != nil || len(follow) == 0 {
		return err
	}
	return t.releaseFollowing(ctx, edition, follow)
}

// saveBodies writes the HTML of drafts that lacked it.
func (t *tx) saveBodies(ctx context.Context, bare []plan.PageVersion) error {
	if len(bare) == 0 {
		return nil
	}
	type row struct {
		ID      string          `json:"id"`
		Body    []byte          `json:"body"`
		Outline json.RawMessage `json:"outline"`
	}
	rows := make([]row, len(bare))
	for i, v := range bare {
		rows[i] = row{v.ID, v.Body, []byte(jsonText(v.Outline))}
	}
	_, err := t.exec(ctx, `UPDATE page_versions v SET body = decode(r.body, 'base64'), outline = r.outline
		FROM jsonb_to_recordset(CAST(? AS jsonb)) AS r(id uuid, body text, outline jsonb) WHERE v.id = r.id AND v.site_id = ?`, jsonText(rows), t.site)
	return err
}

// releaseFollowing writes pages whose text stays and whose template is another: each as a
// version of its own that begins with this edition. Words of the text are not worked out
// again where they are the same.
func (t *tx) releaseFollowing(ctx context.Context, edition int, follow []plan.PageVersion) error {
	type row struct {
		Old     string          `json:"old"`
		New     string          `json:"new"`
		Body    []byte          `json:"body"`
		Outline json.RawMessage `json:"outline"`
		Report  json.RawMessage `json:"report"`
		Excerpt string          `json:"excerpt"`
		Plain   string          `json:"plain"`
		Files   []string        `json:"files"`
		Links   []linkRow       `json:"links"`
	}
	rows := make([]row, len(follow))
	for i, v := range follow {
		rows[i] = row{v.ID, uuid.NewString(), v.Body, []byte(jsonText(v.Outline)), []byte(jsonText(v.Report)), v.Excerpt, v.Plain, v.Files, linkRows(v)}
	}
	args := map[string]any{"site": t.site, "n": edition, "rows": jsonText(rows)}
	const of = `FROM jsonb_to_recordset(CAST(@rows AS jsonb)) AS r(old uuid, new uuid, body text, outline jsonb, report jsonb, excerpt text, plain text, files text[], links jsonb) `
	for _, sql := range []string{
		`UPDATE page_spans s SET to_edition = @n ` + of + `WHERE s.site_id = @site AND s.version_id = r.old AND ` + isLive,
		`INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, report, excerpt, version, person_id, changed_at, text_of)
			SELECT r.new, v.site_id, v.entry_id, v.content, decode(r.body, 'base64'), r.outline, r.report, r.excerpt, v.version, v.person_id, v.changed_at, ` + textOf + ` ` + of + `JOIN page_versions v ON v.id = r.old`,
		`INSERT INTO page_words (version_id, plain, words) SELECT r.new, r.plain, CASE WHEN w.plain = r.plain AND w.words IS NOT NULL THEN w.words ELSE to_tsvector('english', r.plain) END ` + of + `LEFT JOIN page_words w ON w.version_id = r.old`,
		`INSERT INTO page_pictures (version_id, site_id, picture_id) SELECT DISTINCT r.new, f.site_id, f.id ` + of + `CROSS JOIN unnest(r.files) AS shown JOIN files f ON f.site_id = @site AND f.id = shown`,
		`INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile, follows)
			SELECT r.new, l.place, @site, l.target, known.id, l.words, l.tile, l.follows ` + of + `CROSS JOIN jsonb_to_recordset(r.links) AS l` + linkRecord + `
			LEFT JOIN entries known ON known.site_id = @site AND known.id = l.entry AND l.entry <> ''`,
		`INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT v.site_id, v.entry_id, r.new, @n ` + of + `JOIN page_versions v ON v.id = r.old`,
	} {
		if _, err := t.exec(ctx, sql, args); err != nil {
			return err
		}
	}
	return nil
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

// textOf is the version of v whose text it is.
const textOf = "coalesce(v.text_of, v.id)"

// TextsAt gives the version of each page that an edition shows, by entry.
func (t *tx) TextsAt(ctx context.Context, number int) (map[string]edition.Shown, error) {
	var rows []struct{ EntryID, VersionID, Text string }
	err := t.scan(ctx, &rows, `SELECT s.entry_id, s.version_id, `+textOf+` AS text FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.site_id = @site AND s.from_edition <= @at AND (s.to_edition IS NULL OR s.to_edition > @at)`,
		map[string]any{"site": t.site, "at": number})
	out := make(map[string]edition.Shown, len(rows))
	for _, r := range rows {
		out[r.EntryID] = edition.Shown{Version: r.VersionID, Text: r.Text}
	}
	return out, err
}

// TextsIn gives what pages say in an edition.
func (t *tx) TextsIn(ctx context.Context, number int, entries []string) (map[string]content.Page, error) {
	list, err := t.versions(ctx, `s.from_edition <= ? AND (s.to_edition IS NULL OR s.to_edition > ?) AND s.entry_id `+inSet, number, number, setText(entries))
	out := make(map[string]content.Page, len(list))
	for _, v := range list {
		out[v.EntryID] = v.Content
	}
	return out, err
}

// ContentDiffers gives the entries whose content is another in one edition than
// in the other; an edition of 0 is what is planned.
func (t *tx) ContentDiffers(ctx context.Context, a, b int) ([]string, error) {
	in := func(edition int) string {
		if edition == 0 {
			return `SELECT DISTINCT ON (s.entry_id) s.entry_id, ` + textOf + ` AS text FROM page_spans s JOIN page_versions v ON v.id = s.version_id
				WHERE s.site_id = @site AND s.to_edition IS NULL ORDER BY s.entry_id, s.from_edition NULLS FIRST`
		}
		return fmt.Sprintf(`SELECT s.entry_id, %[2]s AS text FROM page_spans s JOIN page_versions v ON v.id = s.version_id
			WHERE s.site_id = @site AND s.from_edition <= %[1]d AND (s.to_edition IS NULL OR s.to_edition > %[1]d)`, edition, textOf)
	}
	var ids []string
	err := t.scan(ctx, &ids, `SELECT coalesce(x.entry_id, y.entry_id) AS entry_id FROM (`+in(a)+`) x FULL JOIN (`+in(b)+`) y ON x.entry_id = y.entry_id
		WHERE x.text IS DISTINCT FROM y.text ORDER BY 1`, map[string]any{"site": t.site})
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
