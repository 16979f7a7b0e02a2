package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/port"
	"candlepath/internal/core/content"
)

type templateRow struct {
	SiteID     string
	Key        string
	Position   int
	Definition json.RawMessage `gorm:"type:jsonb"`
}

func (templateRow) TableName() string { return "templates" }

func (t *tx) Templates(ctx context.Context) ([]content.Template, error) {
	rows, err := gorm.G[templateRow](t.db).Where("site_id = ?", t.site).Order("position").Find(ctx)
	if err != nil {
		return nil, wordError(err)
	}
	out := make([]content.Template, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r.Definition, &out[i]); err != nil {
			return nil, fmt.Errorf("template %s: %w", r.Key, err)
		}
	}
	return out, nil
}

func (t *tx) PutTemplates(ctx context.Context, ts []content.Template) error {
	for i, tpl := range ts {
		if _, err := t.exec(ctx, `INSERT INTO templates (site_id, key, position, definition) VALUES (?, ?, ?, ?::jsonb)
			ON CONFLICT (site_id, key) DO UPDATE SET position = excluded.position, definition = excluded.definition`,
			t.site, tpl.Key, i, jsonText(tpl)); err != nil {
			return err
		}
	}
	return nil
}

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

func (versionRow) TableName() string { return "page_versions" }

func (r versionRow) toPort() (port.PageVersion, error) {
	v := port.PageVersion{ID: r.ID, EntryID: r.EntryID, Excerpt: r.Excerpt, Version: r.Version, PersonID: r.PersonID, At: r.ChangedAt}
	for from, into := range map[*json.RawMessage]any{&r.Content: &v.Content, &r.Links: &v.Links, &r.Outline: &v.Outline} {
		if err := json.Unmarshal(*from, into); err != nil {
			return v, fmt.Errorf("page %s: %w", r.EntryID, err)
		}
	}
	return v, nil
}

// versionColumns leaves out the body, which only readers get.
const versionColumns = "id, entry_id, content, links, outline, excerpt, version, person_id, changed_at"

const (
	isDraft = "from_edition IS NULL"
	isLive  = "from_edition IS NOT NULL AND to_edition IS NULL"
)

func (t *tx) version(ctx context.Context, entry, which string) (port.PageVersion, error) {
	r, err := gorm.G[versionRow](t.db).Select(versionColumns).Where("site_id = ? AND entry_id = ?", t.site, entry).Where(which).Take(ctx)
	if err != nil {
		return port.PageVersion{}, wordError(err)
	}
	return r.toPort()
}

func (t *tx) Draft(ctx context.Context, entry string) (port.PageVersion, error) {
	return t.version(ctx, entry, isDraft)
}

func (t *tx) LivePage(ctx context.Context, entry string) (port.PageVersion, error) {
	return t.version(ctx, entry, isLive)
}

func (t *tx) LiveBody(ctx context.Context, entry string) (port.LiveBody, error) {
	var rows []struct {
		ID        string
		Body      []byte
		Outline   json.RawMessage
		Excerpt   string
		ChangedAt time.Time
	}
	err := t.scan(ctx, &rows, `SELECT id, body, outline, excerpt, changed_at FROM page_versions
		WHERE site_id = ? AND entry_id = ? AND `+isLive, t.site, entry)
	if err != nil || len(rows) == 0 {
		return port.LiveBody{}, err
	}
	b := port.LiveBody{VersionID: rows[0].ID, Body: rows[0].Body, Excerpt: rows[0].Excerpt, At: rows[0].ChangedAt}
	return b, json.Unmarshal(rows[0].Outline, &b.Outline)
}

func (t *tx) PagesOf(ctx context.Context, entries []string, drafts bool) ([]port.PageVersion, error) {
	which := isLive
	if drafts {
		which = isDraft
	}
	rows, err := gorm.G[versionRow](t.db).Select(versionColumns).Where("site_id = ? AND entry_id IN (SELECT jsonb_array_elements_text(?::jsonb))", t.site, jsonText(entries)).
		Where(which).Order("entry_id").Find(ctx)
	if err != nil {
		return nil, wordError(err)
	}
	out := make([]port.PageVersion, len(rows))
	for i, r := range rows {
		if out[i], err = r.toPort(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// SaveDraft writes a draft over the version it was made from; 0 means there
// was none. A newer one that came between is ErrStale.
func (t *tx) SaveDraft(ctx context.Context, v port.PageVersion, base int) error {
	args := []any{jsonText(v.Content), v.Body, jsonText(v.Outline), jsonText(v.Links), v.Excerpt, v.Version, v.PersonID, v.At}
	if base == 0 {
		n, err := t.exec(ctx, `INSERT INTO page_versions (content, body, outline, links, excerpt, version, person_id, changed_at, id, site_id, entry_id)
			VALUES (?::jsonb, ?, ?::jsonb, ?::jsonb, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (site_id, entry_id) WHERE from_edition IS NULL DO NOTHING`,
			append(args, v.ID, t.site, v.EntryID)...)
		if err == nil && n == 0 {
			return port.ErrStale
		}
		if err != nil {
			return err
		}
	} else {
		n, err := t.exec(ctx, `UPDATE page_versions SET content = ?::jsonb, body = ?, outline = ?::jsonb, links = ?::jsonb, excerpt = ?, version = ?,
			person_id = ?, changed_at = ? WHERE id = ? AND site_id = ? AND from_edition IS NULL AND version = ?`,
			append(args, v.ID, t.site, base)...)
		if err == nil && n == 0 {
			return port.ErrStale
		}
		if err != nil {
			return err
		}
	}
	_, err := t.exec(ctx, `INSERT INTO page_words (version_id, plain, words) VALUES (?, ?, to_tsvector('english', ?))
		ON CONFLICT (version_id) DO UPDATE SET plain = excluded.plain, words = excluded.words`, v.ID, v.Plain, v.Plain)
	return err
}

func (t *tx) DropDraft(ctx context.Context, entry string) error {
	_, err := t.exec(ctx, `DELETE FROM page_versions WHERE site_id = ? AND entry_id = ? AND `+isDraft, t.site, entry)
	return err
}

func (t *tx) Heads(ctx context.Context) ([]port.PageHead, error) {
	var rows []struct {
		EntryID   string
		PersonID  string
		ChangedAt time.Time
		Draft     bool
	}
	err := t.scan(ctx, &rows, `SELECT entry_id, person_id, changed_at, from_edition IS NULL AS draft FROM page_versions WHERE site_id = ? AND to_edition IS NULL`, t.site)
	out := make([]port.PageHead, len(rows))
	for i, r := range rows {
		out[i] = port.PageHead{EntryID: r.EntryID, PersonID: r.PersonID, At: r.ChangedAt, Draft: r.Draft}
	}
	return out, err
}

// LinksTo counts the links of live pages to any of the entries, and the pages
// that hold them.
func (t *tx) LinksTo(ctx context.Context, entries []string) (links, pages int, err error) {
	targets := make([]string, len(entries))
	for i, e := range entries {
		targets[i] = content.Scheme + e
	}
	var n struct{ Links, Pages int }
	err = t.scan(ctx, &n, `SELECT count(*) AS links, count(DISTINCT v.entry_id) AS pages
		FROM page_versions v, jsonb_to_recordset(v.links) AS l("to" text)
		WHERE v.site_id = ? AND v.from_edition IS NOT NULL AND v.to_edition IS NULL
		AND l."to" IN (SELECT jsonb_array_elements_text(?::jsonb))`, t.site, jsonText(targets))
	return n.Links, n.Pages, err
}

func (t *tx) LiveLinks(ctx context.Context) (map[string][]content.FoundLink, error) {
	var rows []struct {
		EntryID string
		Links   json.RawMessage
	}
	err := t.scan(ctx, &rows, `SELECT entry_id, links FROM page_versions WHERE site_id = ? AND links <> '[]' AND `+isLive, t.site)
	if err != nil {
		return nil, err
	}
	out := make(map[string][]content.FoundLink, len(rows))
	for _, r := range rows {
		var links []content.FoundLink
		if err := json.Unmarshal(r.Links, &links); err != nil {
			return nil, fmt.Errorf("links of %s: %w", r.EntryID, err)
		}
		out[r.EntryID] = links
	}
	return out, nil
}

type lockRow struct {
	SiteID   string
	EntryID  string
	PersonID string
	WindowID string
	TakenAt  time.Time
	SeenAt   time.Time
}

func (lockRow) TableName() string { return "locks" }

func (t *tx) Lock(ctx context.Context, entry string) (port.Lock, error) {
	r, err := gorm.G[lockRow](t.db).Where("site_id = ? AND entry_id = ?", t.site, entry).Take(ctx)
	return port.Lock{EntryID: r.EntryID, PersonID: r.PersonID, WindowID: r.WindowID, Taken: r.TakenAt, Seen: r.SeenAt}, wordError(err)
}

func (t *tx) PutLock(ctx context.Context, l port.Lock) error {
	_, err := t.exec(ctx, `INSERT INTO locks (site_id, entry_id, person_id, window_id, taken_at, seen_at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (site_id, entry_id) DO UPDATE SET person_id = excluded.person_id, window_id = excluded.window_id,
		taken_at = excluded.taken_at, seen_at = excluded.seen_at`, t.site, l.EntryID, l.PersonID, l.WindowID, l.Taken, l.Seen)
	return err
}

func (t *tx) DropLock(ctx context.Context, entry, window string) error {
	_, err := t.exec(ctx, `DELETE FROM locks WHERE site_id = ? AND entry_id = ? AND window_id = ?`, t.site, entry, window)
	return err
}

type keptRow struct {
	ID       string
	SiteID   string
	EntryID  string
	PersonID string
	Content  json.RawMessage `gorm:"type:jsonb"`
	At       time.Time
}

func (keptRow) TableName() string { return "kept_texts" }

func (t *tx) Keep(ctx context.Context, k port.KeptText) error {
	r := keptRow{k.ID, t.site, k.EntryID, k.PersonID, json.RawMessage(jsonText(k.Content)), k.At}
	return wordError(gorm.G[keptRow](t.db).Create(ctx, &r))
}

func (t *tx) Kept(ctx context.Context, entry, person string) ([]port.KeptText, error) {
	rows, err := gorm.G[keptRow](t.db).Where("site_id = ? AND entry_id = ? AND person_id = ?", t.site, entry, person).Order("at DESC").Find(ctx)
	if err != nil {
		return nil, wordError(err)
	}
	out := make([]port.KeptText, len(rows))
	for i, r := range rows {
		out[i] = port.KeptText{ID: r.ID, EntryID: r.EntryID, PersonID: r.PersonID, At: r.At}
		if err := json.Unmarshal(r.Content, &out[i].Content); err != nil {
			return nil, fmt.Errorf("kept text %s: %w", r.ID, err)
		}
	}
	return out, nil
}

func (t *tx) DropKept(ctx context.Context, id, person string) error {
	_, err := t.exec(ctx, `DELETE FROM kept_texts WHERE site_id = ? AND id = ? AND person_id = ?`, t.site, id, person)
	return err
}
