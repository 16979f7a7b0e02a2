package store

import (
	"context"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
)

// Releases gives every address that was given up or is planned to be, the latest
// first.
func (t *tx) Releases(ctx context.Context) ([]plan.ReleasedAddress, error) {
	var rows []struct {
		Address, Why, PersonID string
		At                     time.Time
		Edition                *int
		Below                  bool
	}
	err := t.scan(ctx, &rows, `SELECT address, why, person_id, at, edition, EXISTS (SELECT 1 FROM redirects d WHERE d.site_id = r.site_id
			AND d.from_address = r.address AND d.match <> 'exact' AND d.to_edition IS NOT DISTINCT FROM r.edition) AS below
		FROM releases r WHERE site_id = ? ORDER BY at DESC, address`, t.site)
	out := make([]plan.ReleasedAddress, len(rows))
	for i, r := range rows {
		out[i] = plan.ReleasedAddress{Address: r.Address, Why: r.Why, PersonID: r.PersonID, At: r.At, Below: r.Below}
		if r.Edition != nil {
			out[i].Edition = *r.Edition
		}
	}
	return out, err
}

// PutRelease plans to give an address up.
func (t *tx) PutRelease(ctx context.Context, r plan.ReleasedAddress) error {
	_, err := t.exec(ctx, `INSERT INTO releases (site_id, address, why, person_id, at) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (site_id, address) WHERE edition IS NULL DO UPDATE SET why = excluded.why, person_id = excluded.person_id, at = excluded.at`,
		t.site, r.Address, r.Why, r.PersonID, r.At)
	return err
}

// DropRelease takes a planned release back.
func (t *tx) DropRelease(ctx context.Context, address string) error {
	_, err := t.exec(ctx, `DELETE FROM releases WHERE site_id = ? AND address = ? AND edition IS NULL`, t.site, address)
	return err
}

// releaseReleases notes in which edition addresses were given up.
func (t *tx) releaseReleases(ctx context.Context, r editions.Release) error {
	if len(r.Released) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `UPDATE releases SET edition = ? WHERE site_id = ? AND edition IS NULL AND address `+inSet, r.Edition.Number, t.site, setText(r.Released))
	return err
}

// EverAnswered tells whether a page or a redirect of any edition was at an
// address.
func (t *tx) EverAnswered(ctx context.Context, address string) (ever bool, err error) {
	err = t.scan(ctx, &ever, `SELECT EXISTS (SELECT 1 FROM addresses WHERE site_id = ? AND address = ?)
		OR EXISTS (SELECT 1 FROM redirects WHERE site_id = ? AND from_address = ?)`, t.site, address, t.site, address)
	return ever, err
}
