package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
)

type versionRow struct {
	ID        string
	EntryID   string
	Content   json.RawMessage `gorm:"type:jsonb"`
	Links     json.RawMessage `gorm:"type:jsonb"`
	Outline   json.RawMessage `gorm:"type:jsonb"`
	Excerpt   string
	Version   int
	PersonID  string
	ChangedAt time.Time
}

func (r versionRow) toPort() (plan.PageVersion, error) {
	v := plan.PageVersion{ID: r.ID, EntryID: r.EntryID, Excerpt: r.Excerpt, Version: r.Version, PersonID: r.PersonID, At: r.ChangedAt}
	for from, into := range map[*json.RawMessage]any{&r.Content: &v.Content, &r.Links: &v.Links, &r.Outline: &v.Outline} {
		if len(*from) == 0 {
			continue
		}
		if err := json.Unmarshal(*from, into); err != nil {
			return v, fmt.Errorf("page %s: %w", r.EntryID, err)
		}
	}
	return v, nil
}

// isBare is true of a version v that was not rendered yet: what is rendered is never of no
// length, since it is packed.
const isBare = `octet_length(v.body) = 0`

// bodyOf is what stands in the database for the HTML of a version.
func bodyOf(v plan.PageVersion) []byte {
	if v.Body == nil {
		return []byte{}
	}
	return v.Body
}

// versionFields are the columns of a version that stay when it is copied.
const versionFields = "site_id, entry_id, content, body, outline, slots, report, excerpt, version, person_id, changed_at"

// linksOfVersion gives the links of a version as they stand in it; null if there are
// none.
const linksOfVersion = `(SELECT jsonb_agg(jsonb_build_object('to', l.target, 'text', l.words, 'tile', l.tile) ORDER BY l.place)
	FROM page_links l WHERE l.version_id = v.id AND NOT l.follows)`

// selectVersion leaves out the body, which only readers get.
const selectVersion = `SELECT v.id, v.entry_id, v.content, ` + linksOfVersion + ` AS links, v.outline, v.excerpt, v.version, v.person_id, v.changed_at
	FROM page_spans s JOIN page_versions v ON v.id = s.version_id WHERE s.site_id = ? AND `

func (t *tx) versions(ctx context.Context, where string, args ...any) ([]plan.PageVersion, error) {
	return t.versionsBy(ctx, selectVersion+where, args...)
}

func (t *tx) versionsBy(ctx context.Context, query string, args ...any) ([]plan.PageVersion, error) {
	var rows []versionRow
	if err := t.scan(ctx, &rows, query+" ORDER BY v.entry_id", append([]any{t.site}, args...)...); err != nil {
		return nil, err
	}
	out := make([]plan.PageVersion, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.toPort(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (t *tx) version(ctx context.Context, entry, which string) (plan.PageVersion, error) {
	found, err := t.versions(ctx, which+" AND s.entry_id = ?", entry)
	if err == nil && len(found) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return plan.PageVersion{}, err
	}
	return found[0], nil
}

// Draft gives the draft of an entry; plan.ErrNotFound if there is none.
func (t *tx) Draft(ctx context.Context, entry string) (plan.PageVersion, error) {
	return t.version(ctx, entry, isDraft)
}

// HoldDraft holds the draft of an entry until the transaction ends, and gives it without its text.
// Both rows are held, so that one that was waited for is read as it is then.
func (t *tx) HoldDraft(ctx context.Context, entry string) (plan.PageVersion, error) {
	var rows []versionRow
	err := t.scan(ctx, &rows, `SELECT v.id, v.entry_id, v.version, v.person_id, v.changed_at
		FROM page_spans s JOIN page_versions v ON v.id = s.version_id WHERE s.site_id = ? AND s.entry_id = ? AND `+isDraft+` FOR NO KEY UPDATE OF s, v`, t.site, entry)
	if err == nil && len(rows) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return plan.PageVersion{}, err
	}
	return rows[0].toPort()
}

// LivePage gives the version of a page that colleagues see.
func (t *tx) LivePage(ctx context.Context, entry string) (plan.PageVersion, error) {
	return t.version(ctx, entry, isLive)
}

// BodiesAt gives the texts of entries as an edition shows them.
func (t *tx) BodiesAt(ctx context.Context, edition int, entries []string) (map[string]plan.LiveBody, error) {
	return t.bodies(ctx, `s.entry_id `+inSet+` AND `+isShown, setText(entries), edition, edition)
}

// PagesAt gives the texts of entries as an edition shows them; those without one are left out.
func (t *tx) PagesAt(ctx context.Context, edition int, entries []string) ([]plan.PageVersion, error) {
	return t.versions(ctx, `s.entry_id `+inSet+` AND `+isShown, setText(entries), edition, edition)
}

// ExcerptsAt gives the summaries of entries as an edition shows them.
func (t *tx) ExcerptsAt(ctx context.Context, entries []string, edition int) (map[string]string, error) {
	return t.excerpts(ctx, `s.entry_id `+inSet+` AND `+isShown, setText(entries), edition, edition)
}

// HeadsAt gives the versions that an edition shows, by entry, without their texts.
func (t *tx) HeadsAt(ctx context.Context, edition int) (map[string]plan.Head, error) {
	var rows []struct {
		EntryID, News, Excerpt string
		ChangedAt              time.Time
	}
	err := t.scan(ctx, &rows, `SELECT s.entry_id, v.changed_at, v.excerpt, coalesce(v.report ->> 'news', '') AS news FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.site_id = ? AND `+isShown, t.site, edition, edition)
	out := make(map[string]plan.Head, len(rows))
	for _, r := range rows {
		out[r.EntryID] = plan.Head{At: r.ChangedAt, News: r.News, Excerpt: r.Excerpt}
	}
	return out, err
}

func (t *tx) bodies(ctx context.Context, which string, args ...any) (map[string]plan.LiveBody, error) {
	var rows []struct {
		EntryID, ID string
		Body        []byte
		Outline     json.RawMessage
		Excerpt     string
		ChangedAt   time.Time
	}
	err := t.scan(ctx, &rows, `SELECT s.entry_id, v.id, v.body, v.outline, v.excerpt, v.changed_at FROM page_spans s
		JOIN page_versions v ON v.id = s.version_id WHERE s.site_id = ? AND `+which, append([]any{t.site}, args...)...)
	out := make(map[string]plan.LiveBody, len(rows))
	for _, r := range rows {
		b := plan.LiveBody{VersionID: r.ID, Body: r.Body, Excerpt: r.Excerpt, At: r.ChangedAt}
		err = errors.Join(err, json.Unmarshal(r.Outline, &b.Outline))
		out[r.EntryID] = b
	}
	return out, err
}

// PagesWith gives the pages of Next whose text has a block of a kind, wherever it stands.
func (t *tx) PagesWith(ctx context.Context, kind content.BlockType) ([]plan.PageVersion, error) {
	return t.versions(ctx, `s.to_edition IS NULL AND jsonb_path_exists(v.content, CAST(? AS jsonpath))
		AND (s.from_edition IS NULL OR NOT EXISTS (SELECT 1 FROM page_spans d WHERE d.site_id = s.site_id AND d.entry_id = s.entry_id AND d.from_edition IS NULL))`,
		fmt.Sprintf(`$.** ? (@.type == %q)`, kind))
}

// PagesOf gives the live versions or the drafts of entries; those without one are left
// out.
func (t *tx) PagesOf(ctx context.Context, entries []string, drafts bool) ([]plan.PageVersion, error) {
	return t.versions(ctx, ofEntries(drafts), setText(entries))
}

// BareTextsOf is PagesOf without links and outlines.
func (t *tx) BareTextsOf(ctx context.Context, entries []string, drafts bool) ([]plan.PageVersion, error) {
	return t.versionsBy(ctx, `SELECT v.id, v.entry_id, v.content, v.version, v.person_id, v.changed_at
		FROM page_spans s JOIN page_versions v ON v.id = s.version_id WHERE s.site_id = ? AND `+ofEntries(drafts), setText(entries))
}

func ofEntries(drafts bool) string {
	if drafts {
		return isDraft + " AND s.entry_id " + inSet
	}
	return isLive + " AND s.entry_id " + inSet
}

// LockDraft holds the draft of a page, if there is one, until the transaction
// ends. An edition that is on its way out with it is waited for.
func (t *tx) LockDraft(ctx context.Context, entry string) error {
	_, err := t.exec(ctx, `SELECT 1 FROM page_spans s WHERE s.site_id = ? AND s.entry_id = ? AND `+isDraft+` FOR UPDATE`, t.site, entry)
	return err
}

// LockDrafts holds every draft: saves that ran are waited for, and those that
// come later wait. It gives the numbers of the work as they are then.
func (t *tx) LockDrafts(ctx context.Context) (plan.WorkVersions, error) {
	_, err := t.exec(ctx, `SELECT 1 FROM page_spans s WHERE s.site_id = ? AND `+isDraft+` ORDER BY s.entry_id FOR UPDATE`, t.site)
	if err != nil {
		return plan.WorkVersions{}, err
	}
	return t.workNow(ctx)
}

// SaveDraft writes a draft over the version it was made from, which the caller holds; 0 means
// there was none. A newer one that came between is ErrStale.
func (t *tx) SaveDraft(ctx context.Context, v plan.PageVersion, base int) error {
	if err := t.SaveText(ctx, v, base); err != nil {
		return err
	}
	return t.SaveFound(ctx, v)
}

// SaveText writes a draft but for what is found in its text.
func (t *tx) SaveText(ctx context.Context, v plan.PageVersion, base int) error {
	return t.saveText(ctx, v, base, "", nil)
}

// SaveState writes a draft but for what is found in its text, and keeps the text as a state of the
// draft, or as what a state has become. The text goes to the database once for both.
func (t *tx) SaveState(ctx context.Context, v plan.PageVersion, base int, s workflow.DraftState) error {
	return t.saveText(ctx, v, base, `, kept AS (
		INSERT INTO draft_states (id, site_id, entry_id, person_id, at, begun_at, bytes, content)
		SELECT @state, @site, @entry, @by, @till, @begun, octet_length(@content), content FROM text
		ON CONFLICT (id) DO UPDATE SET at = excluded.at, bytes = excluded.bytes, content = excluded.content)`,
		map[string]any{"state": s.ID, "by": s.Person, "till": s.At, "begun": s.Begun})
}

// saveText writes a draft, and beside it what is to be done with its text.
func (t *tx) saveText(ctx context.Context, v plan.PageVersion, base int, beside string, args map[string]any) error {
	write := `UPDATE page_versions v SET content = text.content, body = @body, outline = CAST(@outline AS jsonb), slots = CAST(@slots AS jsonb), report = CAST(@report AS jsonb),
		excerpt = @excerpt, version = @version, person_id = @person, changed_at = @at FROM page_spans s, text
		WHERE v.id = @id AND v.site_id = @site AND v.version = @base AND s.version_id = v.id AND ` + isDraft
	if base == 0 {
		write = `INSERT INTO page_versions (id, ` + versionFields + `)
			SELECT @id, @site, @entry, text.content, @body, CAST(@outline AS jsonb), CAST(@slots AS jsonb), CAST(@report AS jsonb), @excerpt, @version, @person, @at FROM text`
	}
	all := map[string]any{
		"id": v.ID, "site": t.site, "entry": v.EntryID, "content": jsonText(v.Content), "body": bodyOf(v), "outline": jsonText(v.Outline), "slots": jsonText(v.Slots),
		"report": jsonText(v.Report), "excerpt": v.Excerpt, "version": v.Version, "person": v.PersonID, "at": v.At, "base": base,
	}
	maps.Copy(all, args)
	n, err := t.exec(ctx, `WITH text AS MATERIALIZED (SELECT CAST(@content AS jsonb) AS content)`+beside+" "+write, all)
	if err == nil && base == 0 {
		n, err = t.exec(ctx, `INSERT INTO page_spans (site_id, entry_id, version_id) VALUES (?, ?, ?)
			ON CONFLICT (site_id, entry_id) WHERE from_edition IS NULL DO NOTHING`, t.site, v.EntryID, v.ID)
	}
	if err == nil && n == 0 {
		err = plan.ErrStale // which takes the version back
	}
	return err
}

// SaveFound keeps what was found in a version: its words for the search, its links, and the
// pictures that it shows. What is as it was is not written again.
func (t *tx) SaveFound(ctx context.Context, v plan.PageVersion) error {
	_, err := t.exec(ctx, `WITH found AS MATERIALIZED (
			SELECT l.place, l.target, known.id AS entry, l.words, l.tile, l.follows
			FROM jsonb_to_recordset(CAST(@links AS jsonb)) AS l`+linkRecord+`
			LEFT JOIN entries known ON known.site_id = @site AND known.id = l.entry AND l.entry <> ''),
		dropped AS (DELETE FROM page_links WHERE version_id = @version AND place > @last),
		linked AS (
			INSERT INTO page_links AS was (version_id, place, site_id, target, to_entry, words, tile, follows)
			SELECT @version, place, @site, target, entry, words, tile, follows FROM found
			ON CONFLICT (version_id, place) DO UPDATE SET target = excluded.target, to_entry = excluded.to_entry, words = excluded.words, tile = excluded.tile, follows = excluded.follows
			WHERE (was.target, was.to_entry, was.words, was.tile, was.follows)
				IS DISTINCT FROM (excluded.target, excluded.to_entry, excluded.words, excluded.tile, excluded.follows)),
		unshown AS (DELETE FROM page_pictures WHERE version_id = @version AND picture_id <> ALL (CAST(@pictures AS text[]))),
		shown AS (
			INSERT INTO page_pictures (version_id, site_id, picture_id)
			SELECT @version, site_id, id FROM files WHERE site_id = @site AND id = ANY (CAST(@pictures AS text[])) ON CONFLICT DO NOTHING)
		INSERT INTO page_words (version_id, plain) VALUES (@version, @plain)
		ON CONFLICT (version_id) DO UPDATE SET plain = excluded.plain, words = NULL WHERE page_words.plain <> excluded.plain`,
		map[string]any{
			"version": v.ID, "site": t.site, "links": jsonText(linkRows(v)), "last": len(v.Links) + len(v.Follows),
			"pictures": setText(v.Files), "plain": v.Plain,
		})
	return err
}

// FindWords works out the words of up to n drafts that were written before a time, or of what is live, for the
// search. It passes over those that are being saved, and gives how many it found.
func (t *tx) FindWords(ctx context.Context, before time.Time, n int) (int, error) {
	found, err := t.exec(ctx, `UPDATE page_words SET words = to_tsvector('english', plain) WHERE version_id IN (
		SELECT w.version_id FROM page_words w JOIN page_versions v ON v.id = w.version_id
		WHERE w.words IS NULL AND v.site_id = ? AND (v.changed_at < ? OR EXISTS (SELECT 1 FROM page_spans s WHERE s.version_id = v.id AND s.from_edition IS NOT NULL)) LIMIT ? FOR UPDATE OF w SKIP LOCKED)`, t.site, before, n)
	return int(found), err
}

// BareDrafts holds and gives up to n drafts that were written before a time and are not rendered
// yet. It passes over those that are being saved.
func (t *tx) BareDrafts(ctx context.Context, before time.Time, n int) ([]plan.PageVersion, error) {
	var held []string
	err := t.scan(ctx, &held, `SELECT s.entry_id FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.site_id = ? AND `+isDraft+` AND `+isBare+` AND v.changed_at < ? ORDER BY s.entry_id LIMIT ? FOR UPDATE OF s SKIP LOCKED`, t.site, before, n)
	if err != nil || len(held) == 0 {
		return nil, err
	}
	return t.PagesOf(ctx, held, true)
}

// linkRow is a link of a version on its way into the database.
type linkRow struct {
	Place   int    `json:"place"`
	Target  string `json:"target"`
	Entry   string `json:"entry"`
	Words   string `json:"words"`
	Tile    bool   `json:"tile"`
	Follows bool   `json:"follows"`
}

const linkRecord = `(place integer, target text, entry text, words text, tile boolean, follows boolean)`

// linkRows gives the links of a version, then what it takes something from.
func linkRows(v plan.PageVersion) []linkRow {
	rows := make([]linkRow, len(v.Links), len(v.Links)+len(v.Follows))
	for i, l := range v.Links {
		entry, _ := l.Entry()
		rows[i] = linkRow{i + 1, l.To, entry, l.Text, l.Tile, false}
	}
	for _, id := range v.Follows {
		rows = append(rows, linkRow{len(rows) + 1, content.Scheme + id, id, "", false, true})
	}
	return rows
}

// PictureShown gives the pages that show a file in an edition, and those that did in one before and
// do not any more.
func (t *tx) PictureShown(ctx context.Context, id string, edition int) (live, before []string, err error) {
	var rows []struct {
		EntryID string
		Live    bool
	}
	err = t.scan(ctx, &rows, `SELECT s.entry_id, bool_or(s.to_edition IS NULL OR s.to_edition > ?) AS live FROM page_pictures p JOIN page_spans s ON s.version_id = p.version_id
		WHERE p.picture_id = ? AND s.site_id = ? AND s.from_edition <= ? GROUP BY 1 ORDER BY 1`, edition, id, t.site, edition)
	for _, r := range rows {
		if r.Live {
			live = append(live, r.EntryID)
		} else {
			before = append(before, r.EntryID)
		}
	}
	return live, before, err
}

// DropDraft deletes the draft of an entry, if there is one.
func (t *tx) DropDraft(ctx context.Context, entry string, at time.Time) error {
	_, err := t.exec(ctx, `DELETE FROM page_versions v USING page_spans s
		WHERE v.site_id = ? AND v.entry_id = ? AND s.version_id = v.id AND `+isDraft, t.site, entry)
	if err == nil {
		_, err = t.exec(ctx, `UPDATE authors SET out_in = `+discarded+`, at = ? WHERE site_id = ? AND change_id = ? AND aspect = 'content' AND out_in IS NULL`, at, t.site, entry)
	}
	return err
}

// LinksTo counts the links of live pages to any of the entries, and the pages
// that hold them.
func (t *tx) LinksTo(ctx context.Context, entries []string) (links, pages int, err error) {
	var n struct{ Links, Pages int }
	err = t.scan(ctx, &n, `SELECT count(*) AS links, count(DISTINCT s.entry_id) AS pages
		FROM page_links l JOIN page_spans s ON s.version_id = l.version_id
		WHERE l.site_id = ? AND l.to_entry = ANY(CAST(? AS text[])) AND NOT l.follows AND `+isLive, t.site, setText(entries))
	return n.Links, n.Pages, err
}

// PagesLinking gives the entries whose live version or draft links to one, or takes
// something from it.
func (t *tx) PagesLinking(ctx context.Context, entry string) ([]string, error) {
	var ids []string
	err := t.scan(ctx, &ids, `SELECT DISTINCT s.entry_id FROM page_links l JOIN page_spans s ON s.version_id = l.version_id
		WHERE l.site_id = ? AND l.to_entry = ? AND s.to_edition IS NULL ORDER BY s.entry_id`, t.site, entry)
	return ids, err
}

type keptRow struct {
	ID       string
	SiteID   string
	EntryID  string
	PersonID string
	Content  json.RawMessage `gorm:"type:jsonb"`
	At       time.Time
}

// TableName names the table of the rows.
func (keptRow) TableName() string { return "kept_texts" }

// Keep keeps a text that could not be saved because another one was there first.
func (t *tx) Keep(ctx context.Context, k pages.KeptText) error {
	r := keptRow{k.ID, t.site, k.EntryID, k.PersonID, json.RawMessage(jsonText(k.Content)), k.At}
	return wordError(gorm.G[keptRow](t.db).Create(ctx, &r))
}

// Kept gives the kept texts of a person on a page, the newest first.
func (t *tx) Kept(ctx context.Context, entry, person string) ([]pages.KeptText, error) {
	rows, err := gorm.G[keptRow](t.db).Where("site_id = ? AND entry_id = ? AND person_id = ?", t.site, entry, person).Order("at DESC").Find(ctx)
	if err != nil {
		return nil, wordError(err)
	}
	out := make([]pages.KeptText, len(rows))
	for i, r := range rows {
		out[i] = pages.KeptText{ID: r.ID, EntryID: r.EntryID, PersonID: r.PersonID, At: r.At}
		if err := json.Unmarshal(r.Content, &out[i].Content); err != nil {
			return nil, fmt.Errorf("kept text %s: %w", r.ID, err)
		}
	}
	return out, nil
}

// DropKept deletes one of them.
func (t *tx) DropKept(ctx context.Context, id, person string) error {
	_, err := t.exec(ctx, `DELETE FROM kept_texts WHERE site_id = ? AND id = ? AND person_id = ?`, t.site, id, person)
	return err
}

// Excerpts gives the summaries of pages by entry: of Live, or of the drafts where there are
// some.
func (t *tx) Excerpts(ctx context.Context, entries []string, next bool) (map[string]string, error) {
	which := isLive
	if next {
		which = "s.to_edition IS NULL"
	}
	return t.excerpts(ctx, which+` AND s.entry_id `+inSet, setText(entries))
}

func (t *tx) excerpts(ctx context.Context, which string, args ...any) (map[string]string, error) {
	var rows []struct{ EntryID, Excerpt string }
	err := t.scan(ctx, &rows, `SELECT DISTINCT ON (s.entry_id) s.entry_id, v.excerpt FROM page_spans s JOIN page_versions v ON v.id = s.version_id
		WHERE s.site_id = ? AND `+which+` ORDER BY s.entry_id, s.from_edition DESC NULLS FIRST`, append([]any{t.site}, args...)...)
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r.Excerpt
	}
	return out, err
}
