package store

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgtype"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// entryRow is what of an entry_rows row makes an entry.
type entryRow struct {
	EntryID    string `json:"entry_id"`
	ParentID   string `json:"parent_id"`
	Rank       string `json:"rank"`
	Title      string `json:"title"`
	Short      string `json:"short"`
	Slug       string `json:"slug"`
	SlugHeld   bool   `json:"slug_held"`
	Fixed      string `json:"fixed"`
	Kind       string `json:"kind"`
	Target     string `json:"target"`
	Source     string `json:"source"`
	Template   string `json:"template"`
	Owner      string `json:"owner"`
	Unlisted   bool   `json:"unlisted"`
	Topics     string `json:"topics"`
	Readership string `json:"readership"`
	Review     string `json:"review"`
	Notes      string `json:"notes"`
	Withdrawn  bool   `json:"withdrawn"`
}

const entryColumns = `entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source,
	template, owner, unlisted, readership, review, notes, withdrawn`

// entryTold are those of the rows x, with the topics.
var entryTold = func() string {
	columns := strings.Split(entryColumns, ",")
	for i, c := range columns {
		columns[i] = "x." + strings.TrimSpace(c)
	}
	return strings.Join(columns, ", ") + `, coalesce((SELECT string_agg(n.name, '; ' ORDER BY o.place)
		FROM entry_topics o JOIN topics n ON n.id = o.topic_id WHERE o.row_id = x.id), '') AS topics`
}()

const entryRecord = `(entry_id text, parent_id text, rank text, title text, short text, slug text, slug_held boolean,
	fixed text, kind text, target text, source text, template text, owner text, unlisted boolean, topics text,
	readership text, review text, notes text, withdrawn boolean, person_id uuid, changed_at timestamptz)`

func (r entryRow) toCore() sitemap.Entry {
	return sitemap.Entry{
		ID: r.EntryID, Parent: r.ParentID, Rank: r.Rank, Title: r.Title, Short: r.Short, Slug: r.Slug, SlugHeld: r.SlugHeld,
		Fixed: r.Fixed, Kind: sitemap.Kind(r.Kind), Target: r.Target, Source: r.Source, Template: r.Template, Owner: r.Owner,
		Unlisted: r.Unlisted, Topics: r.Topics, Readership: r.Readership, Review: r.Review, Notes: r.Notes, Withdrawn: r.Withdrawn,
	}
}

func rowFromEntry(e sitemap.Entry) entryRow {
	return entryRow{
		EntryID: e.ID, ParentID: e.Parent, Rank: e.Rank, Title: e.Title, Short: e.Short, Slug: e.Slug, SlugHeld: e.SlugHeld,
		Fixed: e.Fixed, Kind: string(e.Kind), Target: e.Target, Source: e.Source, Template: e.Template, Owner: e.Owner,
		Unlisted: e.Unlisted, Topics: e.Topics, Readership: e.Readership, Review: e.Review, Notes: e.Notes, Withdrawn: e.Withdrawn,
	}
}

// Trees reads Live and Next. Of Live it reads only what came or went since an edition
// in which it was known already; known is nil where it was not.
func (t *tx) Trees(ctx context.Context, known *sitemap.Tree, since int) (plan.Trees, error) {
	type row struct {
		Entry     entryRow `gorm:"embedded"`
		Planned   bool
		Removed   bool
		PersonID  *string
		ChangedAt time.Time
	}
	if known == nil {
		since = 0
	}
	var rows []row
	err := t.scan(ctx, &rows, `SELECT `+entryTold+`, from_edition IS NULL AS planned, removed, person_id, changed_at
		FROM entry_rows x WHERE site_id = ? AND to_edition IS NULL AND (from_edition IS NULL OR from_edition > ?)`, t.site, since)
	if err != nil {
		return plan.Trees{}, err
	}
	var ended []string
	if known != nil {
		if err := t.scan(ctx, &ended, `SELECT DISTINCT entry_id FROM entry_rows WHERE site_id = ? AND to_edition > ?`, t.site, since); err != nil {
			return plan.Trees{}, err
		}
	}
	trees := plan.Trees{Planned: map[string]plan.Planned{}}
	var came, planned []sitemap.Entry
	var unplanned []string // that Next does not have
	for _, r := range rows {
		if !r.Planned {
			came = append(came, r.Entry.toCore())
			continue
		}
		p := plan.Planned{At: r.ChangedAt}
		if r.PersonID != nil {
			p.PersonID = *r.PersonID
		}
		trees.Planned[r.Entry.EntryID] = p
		if r.Removed {
			unplanned = append(unplanned, r.Entry.EntryID)
		} else {
			planned = append(planned, r.Entry.toCore())
		}
	}
	if trees.Live, err = sitemap.Renewed(known, ended, came); err != nil {
		return trees, fmt.Errorf("live sitemap: %w", err)
	}
	if trees.Next, err = sitemap.Renewed(trees.Live, unplanned, planned); err != nil {
		return trees, fmt.Errorf("planned sitemap: %w", err)
	}
	trees.Shapes, err = t.shapes(ctx)
	return trees, err
}

// SaveOverlay writes the difference between Next before and after an act into the
// planned rows.
func (t *tx) SaveOverlay(ctx context.Context, o plan.Overlay, by plan.Planned) error {
	forget := append([]string{}, o.Forget...)
	for _, set := range [][]sitemap.Entry{o.Put, o.Remove} {
		for _, e := range set {
			forget = append(forget, e.ID)
		}
	}
	if len(forget) == 0 {
		return nil
	}
	// ANY looks each up or hashes all, even where the planner believes the table
	// to be small, as right after a large file.
	if _, err := t.exec(ctx, `DELETE FROM entry_rows WHERE site_id = ? AND from_edition IS NULL AND entry_id = ANY(CAST(? AS text[]))`,
		t.site, setText(forget)); err != nil {
		return err
	}
	maker := func(id string) plan.Planned {
		if p, ok := o.Makers[id]; ok {
			return p
		}
		return by
	}
	if err := t.insertEntries(ctx, o.Put, false, maker, nil); err != nil {
		return err
	}
	return t.insertEntries(ctx, o.Remove, true, maker, nil)
}

func (t *tx) insertEntries(ctx context.Context, entries []sitemap.Entry, removed bool, maker func(id string) plan.Planned, edition *int) error {
	if len(entries) == 0 {
		return nil
	}
	type made struct {
		entryRow
		PersonID  *string   `json:"person_id"`
		ChangedAt time.Time `json:"changed_at"`
	}
	rows := make([]made, len(entries))
	for i, e := range entries {
		p := maker(e.ID)
		rows[i] = made{entryRow: rowFromEntry(e), ChangedAt: p.At}
		if p.PersonID != "" {
			rows[i].PersonID = &p.PersonID
		}
	}
	ids := make([]string, len(entries))
	for i, e := range entries {
		ids[i] = e.ID
	}
	if _, err := t.exec(ctx, `INSERT INTO entries (site_id, id) SELECT ?, unnest(CAST(? AS text[])) ON CONFLICT DO NOTHING`, t.site, setText(ids)); err != nil {
		return err
	}
	if err := t.nameTopics(ctx, entries); err != nil {
		return err
	}
	_, err := t.exec(ctx, `WITH given AS MATERIALIZED (SELECT * FROM jsonb_to_recordset(?::jsonb) AS r`+entryRecord+`),
		made AS (INSERT INTO entry_rows (site_id, `+entryColumns+`, person_id, changed_at, removed, from_edition)
			SELECT ?, `+entryColumns+`, person_id, changed_at, ?, ? FROM given RETURNING id, site_id, entry_id)
		INSERT INTO entry_topics (row_id, place, topic_id)
			SELECT m.id, o.place, n.id FROM given g CROSS JOIN regexp_split_to_table(g.topics, '; ') WITH ORDINALITY AS o(name, place)
			JOIN made m ON m.entry_id = g.entry_id JOIN topics n ON n.site_id = m.site_id AND n.name = o.name WHERE g.topics <> ''`,
		jsonText(rows), t.site, removed, edition)
	return err
}

// nameTopics makes sure that there are all topics of some entries.
func (t *tx) nameTopics(ctx context.Context, entries []sitemap.Entry) error {
	names := map[string]bool{}
	for i := range entries {
		for _, name := range entries[i].TopicList() {
			names[name] = true
		}
	}
	if len(names) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `INSERT INTO topics (site_id, name) SELECT ?, unnest(CAST(? AS text[])) ON CONFLICT DO NOTHING`, t.site, setText(slices.Sorted(maps.Keys(names))))
	return err
}

// inSet compares with a set that setText hands over. The planner sees how many
// there are, so that a large set is hashed.
const inSet = "IN (SELECT unnest(CAST(? AS text[])))"

// setText writes ids or addresses as an array of PostgreSQL. (GORM would write a slice
// as a list of arguments.)
func setText(ids []string) string {
	if ids == nil {
		ids = []string{}
	}
	m, _ := arrays.Get().(*pgtype.Map)
	defer arrays.Put(m)
	b, err := m.Encode(pgtype.TextArrayOID, pgtype.TextFormatCode, ids, nil)
	if err != nil {
		panic(err) // strings can always be written
	}
	return string(b)
}

// arrays know how PostgreSQL writes arrays. One of them serves one caller at a time.
var arrays = sync.Pool{New: func() any { return pgtype.NewMap() }}

// jsonText hands a set to a statement; a nil slice is an empty set.
func jsonText(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only ever strings and ids
	}
	if string(b) == "null" {
		return "[]"
	}
	return string(b)
}

// TreeAt reads the tree of a past edition.
func (t *tx) TreeAt(ctx context.Context, edition int) (*sitemap.Tree, error) {
	var rows []entryRow
	err := t.scan(ctx, &rows, `SELECT `+entryTold+` FROM entry_rows x
		WHERE site_id = ? AND from_edition <= ? AND (to_edition IS NULL OR to_edition > ?)`, t.site, edition, edition)
	if err != nil {
		return nil, err
	}
	entries := make([]sitemap.Entry, len(rows))
	for i, r := range rows {
		entries[i] = r.toCore()
	}
	return sitemap.Ranked(entries)
}

// RemovedEntries gives every entry that was live once and is neither live nor
// planned, as it was last, the latest to go first.
func (t *tx) RemovedEntries(ctx context.Context) ([]plan.RemovedEntry, error) {
	var rows []struct {
		Entry       entryRow `gorm:"embedded"`
		Address     string
		ToEdition   int
		PublishedAt time.Time
		PersonID    string
		Why         string
	}
	err := t.scan(ctx, &rows, `SELECT `+entryTold+`, x.to_edition, e.published_at, e.person_id, e.why,
			coalesce((SELECT a.address FROM addresses a WHERE a.site_id = e.site_id AND a.entry_id = x.entry_id ORDER BY a.from_edition DESC LIMIT 1), '') AS address
		FROM entry_rows x JOIN editions e ON e.site_id = @site AND e.number = x.to_edition
		WHERE x.site_id = @site AND x.to_edition IS NOT NULL
		AND NOT EXISTS (SELECT 1 FROM entry_rows l WHERE l.site_id = @site AND l.entry_id = x.entry_id AND l.from_edition IS NOT NULL AND l.to_edition IS NULL)
		AND NOT EXISTS (SELECT 1 FROM entry_rows l WHERE l.site_id = @site AND l.entry_id = x.entry_id AND l.to_edition > x.to_edition)
		AND NOT EXISTS (SELECT 1 FROM entry_rows p WHERE p.site_id = @site AND p.entry_id = x.entry_id AND p.from_edition IS NULL AND NOT p.removed)
		AND NOT EXISTS (SELECT 1 FROM deleted_entries d WHERE d.site_id = @site AND d.entry_id = x.entry_id AND d.at > e.published_at)
		ORDER BY x.to_edition DESC, x.parent_id, x.rank`, map[string]any{"site": t.site})
	out := make([]plan.RemovedEntry, len(rows))
	for i, r := range rows {
		out[i] = plan.RemovedEntry{Entry: r.Entry.toCore(), Address: r.Address, Edition: r.ToEdition, At: r.PublishedAt, PersonID: r.PersonID, Why: r.Why}
	}
	return out, err
}
