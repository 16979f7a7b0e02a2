package store

import (
	"context"

	"candlepath/internal/core/kept"
	"candlepath/internal/core/redirect"
)

// AddressesEver gives every address that answered in an edition up to one and was not released
// since: of pages, and of redirects that answer it by themselves. Up to 0 is all of them.
func (t *tx) AddressesEver(ctx context.Context, upTo int) ([]string, error) {
	var out []string
	err := t.scan(ctx, &out, `
		SELECT a.address FROM (
			SELECT address, max(coalesce(to_edition, 2147483647)) AS until FROM (
				SELECT address, from_edition, to_edition FROM addresses WHERE site_id = @site
				UNION ALL SELECT from_address, from_edition, to_edition FROM redirects WHERE site_id = @site AND match <> 'prefix') u
			WHERE @upto = 0 OR from_edition <= @upto GROUP BY address) a
		WHERE NOT EXISTS (SELECT 1 FROM releases r WHERE r.site_id = @site AND r.address = a.address AND r.edition >= a.until AND (@upto = 0 OR r.edition <= @upto))
		ORDER BY a.address`, map[string]any{"site": t.site, "upto": upTo})
	return out, err
}

// AddressesSince gives those that began to answer after an edition, and whether one was released after it.
func (t *tx) AddressesSince(ctx context.Context, edition int) (began []string, released bool, err error) {
	err = t.scan(ctx, &released, `SELECT EXISTS (SELECT 1 FROM releases WHERE site_id = ? AND edition > ?)`, t.site, edition)
	if err != nil {
		return nil, false, err
	}
	err = t.scan(ctx, &began, `SELECT address FROM addresses WHERE site_id = @site AND from_edition > @since
		UNION SELECT from_address FROM redirects WHERE site_id = @site AND match <> 'prefix' AND from_edition > @since`, map[string]any{"site": t.site, "since": edition})
	return began, released, err
}

// TableAt gives the redirects of a past edition.
func (t *tx) TableAt(ctx context.Context, edition int) ([]redirect.Row, error) {
	var rows []redirectRow
	err := t.scan(ctx, &rows, `SELECT `+redirectColumns+` FROM redirects WHERE site_id = ? AND from_edition <= ? AND (to_edition IS NULL OR to_edition > ?)
		ORDER BY from_address, match`, t.site, edition, edition)
	out := make([]redirect.Row, len(rows))
	for i, r := range rows {
		out[i] = r.toCore()
	}
	return out, err
}

// OlderAddresses gives the addresses of all older sites.
func (t *tx) OlderAddresses(ctx context.Context) ([]string, error) {
	var out []string
	err := t.scan(ctx, &out, `SELECT DISTINCT address FROM older_addresses WHERE site_id = ? ORDER BY address`, t.site)
	return out, err
}

// FilesEver gives the files that an edition up to one showed, and those that took the place of
// others. Up to 0 is all of them.
func (t *tx) FilesEver(ctx context.Context, upTo int) ([]kept.File, error) {
	var out []kept.File
	err := t.scan(ctx, &out, `
		WITH ever AS (SELECT DISTINCT p.picture_id AS id FROM page_pictures p JOIN page_spans s ON s.version_id = p.version_id
			WHERE s.site_id = @site AND s.from_edition IS NOT NULL AND (@upto = 0 OR s.from_edition <= @upto))
		SELECT f.id, f.name, coalesce(f.replaced_by, '') AS replaced_by, e.id IS NOT NULL AS before
		FROM files f LEFT JOIN ever e ON e.id = f.id WHERE f.site_id = @site AND (e.id IS NOT NULL OR f.replaced_by IS NOT NULL) ORDER BY f.id`,
		map[string]any{"site": t.site, "upto": upTo})
	return out, err
}

// FilesOn gives the entries that show each file in an edition; 0: in drafts.
func (t *tx) FilesOn(ctx context.Context, edition int) (map[string][]string, error) {
	var rows []struct{ PictureID, EntryID string }
	err := t.scan(ctx, &rows, `SELECT p.picture_id, s.entry_id FROM page_pictures p JOIN page_spans s ON s.version_id = p.version_id
		WHERE s.site_id = @site AND CASE WHEN @edition = 0 THEN s.from_edition IS NULL
			ELSE s.from_edition <= @edition AND (s.to_edition IS NULL OR s.to_edition > @edition) END`,
		map[string]any{"site": t.site, "edition": edition})
	out := map[string][]string{}
	for _, r := range rows {
		out[r.PictureID] = append(out[r.PictureID], r.EntryID)
	}
	return out, err
}
