package store

import (
	"context"
	"strings"
	"time"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
)

// PlannedRedirects gives the redirects that are planned by hand, in the order of their
// addresses.
func (t *tx) PlannedRedirects(ctx context.Context) ([]plan.PlannedRedirect, error) {
	var rows []struct {
		Row      redirectRow `gorm:"embedded"`
		PersonID string
		At       time.Time
	}
	err := t.scan(ctx, &rows, `SELECT `+redirectColumns+`, person_id, at FROM planned_redirects WHERE site_id = ? ORDER BY from_address, match = 'exact' DESC`, t.site)
	out := make([]plan.PlannedRedirect, len(rows))
	for i, r := range rows {
		out[i] = plan.PlannedRedirect{Row: r.Row.toCore(), Planned: plan.Planned{PersonID: r.PersonID, At: r.At}}
	}
	return out, err
}

// HostRows gives the addresses, live and planned, that are redirected for one host name alone.
func (t *tx) HostRows(ctx context.Context) (out []plan.HostRows, err error) {
	var list []string
	err = t.scan(ctx, &list, `SELECT from_address FROM redirects WHERE site_id = ? AND to_edition IS NULL AND from_address LIKE '//%'
		UNION SELECT from_address FROM planned_redirects WHERE site_id = ? AND from_address LIKE '//%' ORDER BY 1`, t.site, t.site)
	for _, at := range list {
		host, _, _ := address.CutHost(at)
		if n := len(out); n == 0 || out[n-1].Host != host {
			out = append(out, plan.HostRows{Host: host})
		}
		last := &out[len(out)-1]
		last.Addresses = append(last.Addresses, at)
	}
	return out, err
}

// PutRedirects plans redirects, over those that are planned for the same addresses.
func (t *tx) PutRedirects(ctx context.Context, list []redirect.Row, by plan.Planned) error {
	rows := make([]redirectRow, len(list))
	for i, r := range list {
		rows[i] = rowFromRedirect(r)
	}
	_, err := t.exec(ctx, `INSERT INTO planned_redirects (site_id, `+redirectColumns+`, person_id, at)
		SELECT ?, `+redirectColumns+`, ?, ? FROM jsonb_to_recordset(?::jsonb) AS r`+redirectRecord+`
		ON CONFLICT (site_id, from_address, (match = 'exact')) DO UPDATE SET match = excluded.match, to_entry = excluded.to_entry, to_address = excluded.to_address,
			to_url = excluded.to_url, to_suffix = excluded.to_suffix, code = excluded.code, note = excluded.note, review = excluded.review,
			origin = excluded.origin, says = excluded.says, person_id = excluded.person_id, at = excluded.at`, t.site, by.PersonID, by.At, jsonText(rows))
	return err
}

// DropRedirects takes planned redirects out of the plan.
func (t *tx) DropRedirects(ctx context.Context, keys []redirect.Key) error {
	if len(keys) == 0 {
		return nil
	}
	type key struct {
		From   string `json:"from_address"`
		Spread bool   `json:"spread"`
	}
	rows := make([]key, len(keys))
	for i, k := range keys {
		rows[i] = key{k.From, k.Spread}
	}
	_, err := t.exec(ctx, `DELETE FROM planned_redirects p USING jsonb_to_recordset(?::jsonb) AS k(from_address text, spread boolean)
		WHERE p.site_id = ? AND p.from_address = k.from_address AND (p.match <> 'exact') = k.spread`, jsonText(rows), t.site)
	return err
}

// AddressHistory gives what an address answered in each edition, the latest first.
func (t *tx) AddressHistory(ctx context.Context, address string) ([]addresses.Once, error) {
	var rows []struct {
		Row         redirectRow `gorm:"embedded"`
		EntryID     string
		FromEdition int
		ToEdition   int
	}
	err := t.scan(ctx, &rows, `
		SELECT entry_id, from_edition, coalesce(to_edition, 0) AS to_edition, '' AS from_address, 'exact' AS match, '' AS to_entry, '' AS to_address, '' AS to_url,
			'' AS to_suffix, 0 AS code, '' AS note, '' AS review, '' AS origin, '' AS says FROM addresses WHERE site_id = @site AND address = @at
		UNION ALL SELECT '', from_edition, coalesce(to_edition, 0), `+redirectColumns+` FROM redirects WHERE site_id = @site AND from_address = @at
		ORDER BY 2 DESC, 1 DESC`, map[string]any{"site": t.site, "at": address})
	out := make([]addresses.Once, len(rows))
	for i, r := range rows {
		if out[i] = (addresses.Once{Entry: r.EntryID, From: r.FromEdition, To: r.ToEdition}); r.EntryID == "" {
			row := r.Row.toCore()
			out[i].Row = &row
		}
	}
	return out, err
}

// AddressesBelow gives the addresses at and below one that ever answered.
func (t *tx) AddressesBelow(ctx context.Context, base string, n int) ([]string, error) {
	var out []string
	err := t.scan(ctx, &out, `SELECT address FROM addresses WHERE site_id = @site AND (address = @base OR starts_with(address, @below))
		UNION SELECT from_address FROM redirects WHERE site_id = @site AND (from_address = @base OR starts_with(from_address, @below))
		ORDER BY 1 LIMIT @most`, map[string]any{"site": t.site, "base": base, "below": strings.TrimSuffix(base, "/") + "/", "most": n})
	return out, err
}

// AddressesOf gives the addresses that a page had, the latest first.
func (t *tx) AddressesOf(ctx context.Context, entry string) ([]addresses.HadAddress, error) {
	var rows []struct {
		Address                string
		FromEdition, ToEdition int
	}
	err := t.scan(ctx, &rows, `SELECT address, min(from_edition) AS from_edition, CASE WHEN bool_or(to_edition IS NULL) THEN 0 ELSE max(to_edition) END AS to_edition
		FROM addresses WHERE site_id = ? AND entry_id = ? GROUP BY address ORDER BY max(from_edition) DESC, address`, t.site, entry)
	out := make([]addresses.HadAddress, len(rows))
	for i, r := range rows {
		out[i] = addresses.HadAddress{Address: r.Address, FromEdition: r.FromEdition, ToEdition: r.ToEdition}
	}
	return out, err
}
