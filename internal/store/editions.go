package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Channel is where a new edition is announced.
const Channel = "candlepath_edition"

type redirectRow struct {
	FromAddress string `json:"from_address"`
	Match       string `json:"match"`
	ToEntry     string `json:"to_entry"`
	ToAddress   string `json:"to_address"`
	ToURL       string `json:"to_url" gorm:"column:to_url"`
	ToSuffix    string `json:"to_suffix"`
	Code        int    `json:"code"`
	Note        string `json:"note"`
	Review      string `json:"review"`
	Origin      string `json:"origin"`
	Says        string `json:"says"`
}

func (r redirectRow) toCore() redirect.Row {
	return redirect.Row{
		From: r.FromAddress, Match: redirect.Match(r.Match), Code: r.Code, Note: r.Note, Review: r.Review, Says: r.Says, Origin: redirect.Origin(r.Origin),
		To: redirect.Target{Entry: r.ToEntry, Address: r.ToAddress, URL: r.ToURL, Suffix: r.ToSuffix}, Status: redirect.Kept,
	}
}

func rowFromRedirect(r redirect.Row) redirectRow {
	return redirectRow{r.From, string(r.Match), r.To.Entry, r.To.Address, r.To.URL, r.To.Suffix, r.Code, r.Note, r.Review, string(r.Origin), r.Says}
}

const redirectColumns = `from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, origin, says`

const redirectRecord = `(from_address text, match text, to_entry text, to_address text, to_url text, to_suffix text, code integer, note text, review text, origin text, says text)`

// Table gives the redirects of Live, in the order of their addresses.
func (t *tx) Table(ctx context.Context) ([]redirect.Row, error) {
	var rows []redirectRow
	err := t.scan(ctx, &rows, `SELECT `+redirectColumns+` FROM redirects WHERE site_id = ? AND to_edition IS NULL ORDER BY from_address, match`, t.site)
	out := make([]redirect.Row, len(rows))
	for i, r := range rows {
		out[i] = r.toCore()
	}
	return out, err
}

// Release writes an edition. Rows are closed before others are opened, so that
// swapped addresses pass the unique indexes.
func (t *tx) Release(ctx context.Context, r editions.Release) error {
	n := r.Edition.Number
	for _, step := range []struct {
		what string
		do   func() error
	}{
		{"edition", func() error { return t.addEdition(ctx, r.Edition) }},
		{"entries", func() error { return t.releaseEntries(ctx, r) }},
		{"addresses", func() error { return t.releaseAddresses(ctx, r) }},
		{"redirects", func() error { return t.releaseRedirects(ctx, n, r.TableBefore, r.Table) }},
		{"planned redirects", func() error { return t.DropRedirects(ctx, r.Redirects) }},
		{"pages", func() error { return t.releasePages(ctx, r) }},
		{"menus, trails and templates", func() error { return t.releaseShapes(ctx, r) }},
		{"released addresses", func() error { return t.releaseReleases(ctx, r) }},
		{"plan", func() error {
			return t.SaveOverlay(ctx, r.Overlay, plan.Planned{PersonID: r.Edition.PersonID, At: r.Edition.At})
		}},
		{"authors", func() error { return t.authorsOut(ctx, n, r.Out, r.Edition.BackTo) }},
		{"where changes stand", func() error { return t.dropStandings(ctx, r.Gone) }},
		{"decisions", func() error {
			if len(r.Decisions) == 0 {
				return nil
			}
			_, err := t.exec(ctx, `DELETE FROM decisions WHERE site_id = ? AND entry_id `+inSet, t.site, setText(r.Decisions))
			return err
		}},
		{"site", func() error {
			_, err := t.exec(ctx, `UPDATE sites SET edition = ?, plan_version = plan_version + 1 WHERE id = ?`, n, t.site)
			return err
		}},
		{"announcement", func() error {
			if _, err := t.exec(ctx, `SELECT pg_notify(?, ?)`, Channel, fmt.Sprint(n)); err != nil {
				return err
			}
			return t.TellWork(ctx, "plan")
		}},
	} {
		if err := step.do(); err != nil {
			return fmt.Errorf("write %s: %w", step.what, err)
		}
	}
	return nil
}

type editionRow struct {
	SiteID      string
	Number      int
	PublishedAt time.Time
	PersonID    string
	Why         string
	Note        string
	BackTo      *int
	Told        json.RawMessage `gorm:"type:jsonb"`
	ActKey      string
	Proof       *json.RawMessage `gorm:"type:jsonb"`
}

// TableName names the table of the rows.
func (editionRow) TableName() string { return "editions" }

func (r editionRow) toPort() (plan.Edition, error) {
	e := plan.Edition{Number: r.Number, At: r.PublishedAt, PersonID: r.PersonID, Why: r.Why, Note: r.Note, ActKey: r.ActKey}
	if r.BackTo != nil {
		e.BackTo = *r.BackTo
	}
	if err := json.Unmarshal(r.Told, &e.Changes); err != nil {
		return e, fmt.Errorf("edition %d: %w", r.Number, err)
	}
	if r.Proof == nil {
		return e, nil
	}
	return e, json.Unmarshal(*r.Proof, &e.Proof)
}

func (t *tx) addEdition(ctx context.Context, e plan.Edition) error {
	r := editionRow{SiteID: t.site, Number: e.Number, PublishedAt: e.At, PersonID: e.PersonID, Why: e.Why, Note: e.Note, Told: json.RawMessage(jsonText(e.Changes)), ActKey: e.ActKey}
	if e.BackTo > 0 {
		r.BackTo = &e.BackTo
	}
	if e.Proof != nil {
		proof := json.RawMessage(jsonText(e.Proof))
		r.Proof = &proof
	}
	return wordError(gorm.G[editionRow](t.db).Create(ctx, &r))
}

func (t *tx) releaseEntries(ctx context.Context, r editions.Release) error {
	var closed []string
	var opened []sitemap.Entry
	for _, p := range sitemap.Patches(r.Before, r.After) {
		if p.Before != nil {
			closed = append(closed, p.ID)
		}
		if p.After != nil {
			opened = append(opened, *p.After)
		}
	}
	if len(closed) > 0 {
		if _, err := t.exec(ctx, `UPDATE entry_rows SET to_edition = ? WHERE site_id = ? AND from_edition IS NOT NULL AND to_edition IS NULL
			AND entry_id `+inSet, r.Edition.Number, t.site, setText(closed)); err != nil {
			return err
		}
	}
	publisher := plan.Planned{PersonID: r.Edition.PersonID, At: r.Edition.At}
	return t.insertEntries(ctx, opened, false, func(string) plan.Planned { return publisher }, &r.Edition.Number)
}

func (t *tx) releaseAddresses(ctx context.Context, r editions.Release) error {
	type pair struct {
		Address string `json:"address"`
		EntryID string `json:"entry_id"`
	}
	var closed []string
	var opened []pair
	for i := range r.Before.Len() {
		a, j := r.Before.Served(i), r.After.Find(r.Before.Ref(i).ID)
		if a != "" && (j == sitemap.None || r.After.Served(j) != a) {
			closed = append(closed, a)
		}
	}
	for j := range r.After.Len() {
		a, i := r.After.Served(j), r.Before.Find(r.After.Ref(j).ID)
		if a != "" && (i == sitemap.None || r.Before.Served(i) != a) {
			opened = append(opened, pair{a, r.After.Ref(j).ID})
		}
	}
	if len(closed) > 0 {
		if _, err := t.exec(ctx, `UPDATE addresses SET to_edition = ? WHERE site_id = ? AND to_edition IS NULL
			AND address `+inSet, r.Edition.Number, t.site, setText(closed)); err != nil {
			return err
		}
	}
	if err := t.withhold(ctx, r.Leaving); err != nil {
		return err
	}
	if len(opened) == 0 {
		return nil
	}
	back := make([]string, len(opened))
	for i, p := range opened {
		back[i] = p.EntryID
	}
	if _, err := t.exec(ctx, `DELETE FROM withheld WHERE site_id = ? AND entry_id `+inSet, t.site, setText(back)); err != nil {
		return err
	}
	_, err := t.exec(ctx, `INSERT INTO addresses (site_id, address, entry_id, from_edition)
		SELECT ?, address, entry_id, ? FROM jsonb_to_recordset(?::jsonb) AS r(address text, entry_id text)`, t.site, r.Edition.Number, jsonText(opened))
	return err
}

func (t *tx) releaseRedirects(ctx context.Context, edition int, before, table []redirect.Row) error {
	key := func(r redirect.Row) redirect.Row {
		r.Status, r.Line = "", 0
		return r
	}
	had, has := map[redirect.Row]bool{}, map[redirect.Row]bool{}
	for _, r := range before {
		had[key(r)] = true
	}
	var closed, opened []redirectRow
	for _, r := range table {
		has[key(r)] = true
		if !had[key(r)] {
			opened = append(opened, rowFromRedirect(r))
		}
	}
	for _, r := range before {
		if !has[key(r)] {
			closed = append(closed, redirectRow{FromAddress: r.From, Match: string(r.Match)})
		}
	}
	if len(closed) > 0 {
		if _, err := t.exec(ctx, `UPDATE redirects SET to_edition = ? FROM jsonb_to_recordset(?::jsonb) AS c(from_address text, match text)
			WHERE site_id = ? AND to_edition IS NULL AND redirects.from_address = c.from_address AND redirects.match = c.match`,
			edition, jsonText(closed), t.site); err != nil {
			return err
		}
	}
	if len(opened) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `INSERT INTO redirects (site_id, `+redirectColumns+`, from_edition)
		SELECT ?, `+redirectColumns+`, ? FROM jsonb_to_recordset(?::jsonb) AS r`+redirectRecord, t.site, edition, jsonText(opened))
	return err
}

// Editions gives all editions, the newest first.
func (t *tx) Editions(ctx context.Context) ([]plan.Edition, error) {
	return t.LatestEditions(ctx, -1)
}

// withhold notes of entries that lose their page who could read it until then.
func (t *tx) withhold(ctx context.Context, leaving map[string][]string) error {
	type row struct {
		EntryID    string   `json:"entry_id"`
		Readership []string `json:"readership"`
	}
	var rows []row
	for id, list := range leaving {
		if len(list) > 0 {
			rows = append(rows, row{id, list})
		}
	}
	if len(rows) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `INSERT INTO withheld (site_id, entry_id, readership)
		SELECT ?, entry_id, readership FROM jsonb_to_recordset(?::jsonb) AS r(entry_id text, readership jsonb)
		ON CONFLICT (site_id, entry_id) DO UPDATE SET readership = excluded.readership`, t.site, jsonText(rows))
	return err
}

// WithheldEntries gives the entries that left and that not everybody could read, with who could.
func (t *tx) WithheldEntries(ctx context.Context) (map[string][]string, error) {
	var rows []struct{ EntryID, Readership string }
	err := t.scan(ctx, &rows, `SELECT entry_id, readership FROM withheld WHERE site_id = ?`, t.site)
	out := make(map[string][]string, len(rows))
	for _, r := range rows {
		var list []string
		if err := json.Unmarshal([]byte(r.Readership), &list); err != nil {
			return nil, fmt.Errorf("who could read %s: %w", r.EntryID, err)
		}
		out[r.EntryID] = list
	}
	return out, err
}

// Withheld gives the addresses of pages that are no more and that not everybody could read, with who could. Where
// several pages had an address, the last counts.
func (t *tx) Withheld(ctx context.Context) (map[string][]string, error) {
	var rows []struct{ Address, Readership string }
	err := t.scan(ctx, &rows, `SELECT DISTINCT a.address, w.readership FROM withheld w JOIN addresses a ON a.site_id = w.site_id AND a.entry_id = w.entry_id
		WHERE w.site_id = ? AND NOT EXISTS (
			SELECT 1 FROM addresses b WHERE b.site_id = a.site_id AND b.address = a.address AND (b.to_edition IS NULL OR b.to_edition > a.to_edition))`, t.site)
	out := make(map[string][]string, len(rows))
	for _, r := range rows {
		var list []string
		if err := json.Unmarshal([]byte(r.Readership), &list); err != nil {
			return nil, fmt.Errorf("who could read %s: %w", r.Address, err)
		}
		out[r.Address] = list
	}
	return out, err
}

// LatestEditions gives the n newest editions, the newest first.
func (t *tx) LatestEditions(ctx context.Context, n int) ([]plan.Edition, error) {
	rows, err := gorm.G[editionRow](t.db).Where("site_id = ?", t.site).Order("number DESC").Limit(n).Find(ctx)
	if err != nil {
		return nil, wordError(err)
	}
	out := make([]plan.Edition, len(rows))
	for i, r := range rows {
		if out[i], err = r.toPort(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (t *tx) oneEdition(ctx context.Context, where string, arg any) (plan.Edition, error) {
	r, err := gorm.G[editionRow](t.db).Where("site_id = ?", t.site).Where(where, arg).Take(ctx)
	if err != nil {
		return plan.Edition{}, wordError(err)
	}
	return r.toPort()
}

// Edition gives one edition; plan.ErrNotFound if its number was never given.
func (t *tx) Edition(ctx context.Context, number int) (plan.Edition, error) {
	return t.oneEdition(ctx, "number = ?", number)
}

// EditionByKey gives the edition that was published under a key, so that asking twice
// publishes once.
func (t *tx) EditionByKey(ctx context.Context, key string) (plan.Edition, error) {
	return t.oneEdition(ctx, "act_key = ?", key)
}

// EditionNumbered gives an edition by its number.
func (t *tx) EditionNumbered(ctx context.Context, number int) (plan.Edition, error) {
	return t.oneEdition(ctx, "number = ?", number)
}

// searchMost is how many pages that hold the words are ranked: each costs some microseconds.
const searchMost = 4000

// Search finds pages of an edition by their words, the best first; hidden entries are left out before
// candidates are counted, so that they take nobody's place.
func (t *tx) Search(ctx context.Context, edition int, q string, hidden []string, limit int) ([]reading.Hit, error) {
	var hits []reading.Hit
	const shown = `from_edition <= @edition AND (%[1]s.to_edition IS NULL OR %[1]s.to_edition > @edition) AND %[1]s.entry_id <> ALL (CAST(@hidden AS text[]))`
	ofRow, ofSpan := "r."+fmt.Sprintf(shown, "r"), "s."+fmt.Sprintf(shown, "s")
	err := t.scan(ctx, &hits, `
		WITH q AS (SELECT websearch_to_tsquery('english', @q) AS q),
		titled AS (
			SELECT r.entry_id, 1 + ts_rank(to_tsvector('english', r.title), q.q) AS rank
			FROM entry_rows r, q WHERE r.site_id = @site AND `+ofRow+`
			AND to_tsvector('english', r.title) @@ q.q LIMIT @most),
		worded AS (
			SELECT s.entry_id, ts_rank(w.words, q.q) AS rank
			FROM page_words w JOIN page_spans s ON s.version_id = w.version_id, q
			WHERE w.words @@ q.q AND s.site_id = @site AND `+ofSpan+`
			AND EXISTS (SELECT 1 FROM entry_rows r WHERE r.site_id = @site AND r.entry_id = s.entry_id AND `+ofRow+`) LIMIT @most),
		best AS (
			SELECT entry_id, sum(rank) AS rank FROM (SELECT * FROM titled UNION ALL SELECT * FROM worded) u
			GROUP BY entry_id ORDER BY 2 DESC, 1 LIMIT @limit)
		SELECT b.entry_id, b.rank, coalesce(ts_headline('english', w.plain, q.q,
			'StartSel=' || chr(1) || ', StopSel=' || chr(2) || ', MaxWords=30, MinWords=12'), '') AS snippet
		FROM best b CROSS JOIN q
		LEFT JOIN page_spans s ON s.entry_id = b.entry_id AND s.site_id = @site AND `+ofSpan+`
		LEFT JOIN page_words w ON w.version_id = s.version_id
		ORDER BY b.rank DESC, b.entry_id`,
		map[string]any{"site": t.site, "q": q, "edition": edition, "hidden": setText(hidden), "most": searchMost, "limit": limit})
	return hits, err
}
