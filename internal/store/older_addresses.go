package store

import (
	"context"
	"time"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
)

// PutOlder keeps addresses of older sites. What is kept already gets its visits anew, and a
// title and text where the list has one. It gives how many are new.
func (t *tx) PutOlder(ctx context.Context, lines []match.Line, at time.Time) (fresh int, err error) {
	type row struct {
		Host    string `json:"host"`
		Address string `json:"address"`
		Title   string `json:"title"`
		Visits  int    `json:"visits"`
		Said    string `json:"said"`
	}
	rows := make([]row, len(lines))
	for i, l := range lines {
		rows[i] = row{l.Host, l.Address, l.Title, l.Visits, l.Text}
	}
	err = t.scan(ctx, &fresh, `
		WITH given AS (SELECT * FROM jsonb_to_recordset(CAST(@rows AS jsonb)) AS r(host text, address text, title text, visits bigint, said text)),
		put AS (
			INSERT INTO older_addresses (site_id, host, address, title, visits, said, at) SELECT @site, host, address, title, visits, said, @at FROM given
			ON CONFLICT (site_id, host, address) DO UPDATE SET title = coalesce(nullif(excluded.title, ''), older_addresses.title),
				visits = CASE WHEN excluded.visits > 0 THEN excluded.visits ELSE older_addresses.visits END,
				said = coalesce(nullif(excluded.said, ''), older_addresses.said), at = excluded.at
			RETURNING (xmax = 0) AS fresh)
		SELECT count(*) FILTER (WHERE fresh) FROM put`, map[string]any{"site": t.site, "rows": jsonText(rows), "at": at})
	if err != nil {
		return 0, err
	}
	return fresh, nil
}

// PutOlderImport keeps that a list is on its way in.
func (t *tx) PutOlderImport(ctx context.Context, i addresses.OlderImport) error {
	_, err := t.exec(ctx, `INSERT INTO older_imports (id, site_id, person_id, at, file_name, host, state, percent, said) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		i.ID, t.site, i.PersonID, i.At, i.FileName, i.Host, i.State, i.Percent, i.Said)
	return err
}

// OlderImport gives a list on its way in.
func (t *tx) OlderImport(ctx context.Context, id string) (addresses.OlderImport, error) {
	var rows []addresses.OlderImport
	err := t.scan(ctx, &rows, `SELECT id, person_id, at, file_name, host, state, percent, said FROM older_imports WHERE site_id = ? AND id::text = ?`, t.site, id)
	if err == nil && len(rows) == 0 {
		err = plan.ErrNotFound
	}
	if err != nil {
		return addresses.OlderImport{}, err
	}
	return rows[0], nil
}

// SetOlderImport notes how far it is. What has ended stays as it ended.
func (t *tx) SetOlderImport(ctx context.Context, i addresses.OlderImport) error {
	_, err := t.exec(ctx, `UPDATE older_imports SET host = ?, state = ?, percent = ?, said = ? WHERE site_id = ? AND id = ? AND state NOT IN ('done', 'refused')`,
		i.Host, i.State, i.Percent, i.Said, t.site, i.ID)
	return err
}

// OlderHosts gives the hosts of older sites, with how many addresses each has and a stamp that
// differs whenever these do.
func (t *tx) OlderHosts(ctx context.Context) ([]addresses.OlderHost, error) {
	var rows []addresses.OlderHost
	err := t.scan(ctx, &rows, `SELECT host, count(*) AS n FROM older_addresses WHERE site_id = ? GROUP BY host ORDER BY host`, t.site)
	return rows, err
}

// Older gives the addresses of an older site, the most visited first.
func (t *tx) Older(ctx context.Context, host string) ([]match.Line, error) {
	var rows []struct {
		Address, Title, Said string
		Visits               int
	}
	err := t.scan(ctx, &rows, `SELECT address, title, said, visits FROM older_addresses WHERE site_id = ? AND host = ? ORDER BY visits DESC, address`, t.site, host)
	out := make([]match.Line, len(rows))
	for i, r := range rows {
		out[i] = match.Line{Old: match.Old{Address: r.Address, Title: r.Title, Text: r.Said}, Host: host, Visits: r.Visits}
	}
	return out, err
}

// DropOlder forgets the addresses of an older site.
func (t *tx) DropOlder(ctx context.Context, host string) error {
	_, err := t.exec(ctx, `DELETE FROM older_addresses WHERE site_id = ? AND host = ?`, t.site, host)
	return err
}
