package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgtype"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
)

// The condition on page_spans s for what is a draft and what is live.
const (
	isDraft = "s.from_edition IS NULL"
	isLive  = "s.from_edition IS NOT NULL AND s.to_edition IS NULL"
	isShown = "s.from_edition <= ? AND (s.to_edition IS NULL OR s.to_edition > ?)" // in an edition, which is given twice
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
	err := t.scan(ctx, &bare, `WITH bare AS MATERIALIZED (SELECT v.id FROM page_versions v WHERE v.site_id = ? AND `+isBare+`)
		SELECT s.entry_id FROM bare JOIN page_spans s ON s.version_id = bare.id WHERE `+isDraft+` AND s.entry_id `+inSet+` LIMIT 1`, t.site, ids)
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
func (t *tx) releaseRendered(ctx context.Context, edition int, rendered []editions.RenderedPage, goes map[string]bool) error {
	var follow []editions.RenderedPage
	var bare []plan.PageVersion
	ids := make([]string, len(rendered))
	for i, v := range rendered {
		ids[i] = v.ID
		switch {
		case !goes[v.EntryID]:
			follow = append(follow, v)
		case v.Fits:
			bare = append(bare, v.PageVersion)
		default:
			if err := t.SaveDraft(ctx, v.PageVersion, v.Version); err != nil {
				return err
			}
		}
	}
	if err := errors.Join(t.dropRendered(ctx, ids), t.saveBodies(ctx, bare)); err != nil || len(follow) == 0 {
		return err
	}
	return t.releaseFollowing(ctx, edition, follow)
}

// saveBodies writes the HTML of drafts that lacked it.
func (t *tx) saveBodies(ctx context.Context, bare []plan.PageVersion) error {
	if len(bare) == 0 {
		return nil
	}
	var ids array[string]
	for _, v := range bare {
		ids.add(v.ID)
	}
	args := drawnArgs(bare)
	args["ids"], args["site"] = ids, t.site
	_, err := t.exec(ctx, `UPDATE page_versions v SET body = r.body, outline = CAST(r.outline AS jsonb), slots = CAST(r.slots AS jsonb)
		FROM unnest(CAST(@ids AS text[]), `+drawnArrays+`) AS r(id, body, outline, slots) WHERE v.id = CAST(r.id AS uuid) AND v.site_id = @site`, args)
	return err
}

// drawnArrays are the bodies, outlines and slots of drawnArgs.
const drawnArrays = `CAST(@bodies AS bytea[]), CAST(@outlines AS text[]), CAST(@slots AS text[])`

func drawnArgs(versions []plan.PageVersion) map[string]any {
	var bodies array[[]byte]
	var outlines, slots array[string]
	for _, v := range versions {
		bodies.add(v.Body)
		outlines.add(jsonText(v.Outline))
		slots.add(jsonText(v.Slots))
	}
	return map[string]any{"bodies": bodies, "outlines": outlines, "slots": slots}
}

// Drawn gives versions as they were rendered, by their ids; those that were not, or long ago, are left out.
func (t *tx) Drawn(ctx context.Context, versions []string) (map[string]plan.RenderedSlots, error) {
	var rows []struct {
		ID             string
		Body           []byte
		Outline, Slots json.RawMessage
	}
	err := t.scan(ctx, &rows, `SELECT id, body, outline, slots FROM page_versions v WHERE site_id = ? AND id IN (SELECT CAST(unnest(CAST(? AS text[])) AS uuid)) AND slots IS NOT NULL AND NOT `+isBare, t.site, setText(versions))
	out := make(map[string]plan.RenderedSlots, len(rows))
	for _, r := range rows {
		d := plan.RenderedSlots{Body: r.Body}
		err = errors.Join(err, json.Unmarshal(r.Outline, &d.Outline), json.Unmarshal(r.Slots, &d.Slots))
		out[r.ID] = d
	}
	return out, err
}

// releaseFollowing writes pages whose text stays and whose template is another: each as a
// version of its own that begins with this edition.
func (t *tx) releaseFollowing(ctx context.Context, edition int, follow []editions.RenderedPage) error {
	type found struct {
		New   string    `json:"new"`
		Files []string  `json:"files"`
		Links []linkRow `json:"links"`
	}
	var old, anew, reports, excerpts array[string]
	var same, sameNew, other, otherNew, plain array[string] // whose words and links stay, and are others
	versions := make([]plan.PageVersion, len(follow))
	shows, links := []found{}, []found{}
	for i, v := range follow {
		id := uuid.NewString()
		versions[i] = v.PageVersion
		old.add(v.ID)
		anew.add(id)
		reports.add(jsonText(v.Report))
		excerpts.add(v.Excerpt)
		if len(v.Files) > 0 {
			shows = append(shows, found{New: id, Files: v.Files})
		}
		if v.Found {
			same.add(v.ID)
			sameNew.add(id)
			continue
		}
		other.add(v.ID)
		otherNew.add(id)
		plain.add(v.Plain)
		if len(v.Links)+len(v.Follows) > 0 {
			links = append(links, found{New: id, Links: linkRows(v.PageVersion)})
		}
	}
	args := drawnArgs(versions)
	maps.Copy(args, map[string]any{
		"site": t.site, "n": edition, "old": old, "new": anew, "reports": reports, "excerpts": excerpts, "same": same, "sameNew": sameNew,
		"other": other, "otherNew": otherNew, "plain": plain, "shows": jsonText(shows), "links": jsonText(links),
	})
	const of = `FROM (SELECT CAST(old AS uuid) AS old, CAST(new AS uuid) AS new FROM unnest(CAST(@old AS text[]), CAST(@new AS text[])) AS ids(old, new)) r `
	const ofSame = `FROM (SELECT CAST(old AS uuid) AS old, CAST(new AS uuid) AS new FROM unnest(CAST(@same AS text[]), CAST(@sameNew AS text[])) AS ids(old, new)) r `
	for _, q := range []struct {
		n   int
		sql string
	}{
		{len(follow), `UPDATE page_spans s SET to_edition = @n ` + of + `WHERE s.site_id = @site AND s.version_id = r.old AND ` + isLive},
		{len(follow), `INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, slots, report, excerpt, version, person_id, changed_at, text_of)
			SELECT CAST(r.new AS uuid), v.site_id, v.entry_id, v.content, r.body, CAST(r.outline AS jsonb), CAST(r.slots AS jsonb), CAST(r.report AS jsonb), r.excerpt, v.version, v.person_id, v.changed_at, ` + textOf + `
			FROM unnest(CAST(@old AS text[]), CAST(@new AS text[]), ` + drawnArrays + `, CAST(@reports AS text[]), CAST(@excerpts AS text[])) AS r(old, new, body, outline, slots, report, excerpt)
			JOIN page_versions v ON v.id = CAST(r.old AS uuid)`},
		{len(same.FlatArray), `INSERT INTO page_words (version_id, plain, words) SELECT r.new, w.plain, w.words ` + ofSame + `JOIN page_words w ON w.version_id = r.old`},
		{len(same.FlatArray), `INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile, follows)
			SELECT r.new, l.place, l.site_id, l.target, l.to_entry, l.words, l.tile, l.follows ` + ofSame + `JOIN page_links l ON l.version_id = r.old`},
		{len(other.FlatArray), `INSERT INTO page_words (version_id, plain, words)
			SELECT CAST(r.new AS uuid), r.plain, CASE WHEN w.plain = r.plain AND w.words IS NOT NULL THEN w.words ELSE to_tsvector('english', r.plain) END
			FROM unnest(CAST(@other AS text[]), CAST(@otherNew AS text[]), CAST(@plain AS text[])) AS r(old, new, plain) LEFT JOIN page_words w ON w.version_id = CAST(r.old AS uuid)`},
		{len(links), `INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile, follows)
			SELECT r.new, l.place, @site, l.target, known.id, l.words, l.tile, l.follows FROM jsonb_to_recordset(CAST(@links AS jsonb)) AS r(new uuid, links jsonb)
			CROSS JOIN jsonb_to_recordset(r.links) AS l` + linkRecord + ` LEFT JOIN entries known ON known.site_id = @site AND known.id = l.entry AND l.entry <> ''`},
		{len(shows), `INSERT INTO page_pictures (version_id, site_id, picture_id) SELECT DISTINCT r.new, f.site_id, f.id FROM jsonb_to_recordset(CAST(@shows AS jsonb)) AS r(new uuid, files text[])
			CROSS JOIN unnest(r.files) AS shown JOIN files f ON f.site_id = @site AND f.id = shown`},
		{len(follow), `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT v.site_id, v.entry_id, r.new, @n ` + of + `JOIN page_versions v ON v.id = r.old`},
	} {
		if q.n == 0 {
			continue
		}
		if _, err := t.exec(ctx, q.sql, args); err != nil {
			return err
		}
	}
	return nil
}

// array is an array of PostgreSQL as an argument of a statement, of which GORM would make a list.
type array[T any] struct{ pgtype.FlatArray[T] }

func (a *array[T]) add(v T) { a.FlatArray = append(a.FlatArray, v) }

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
