package store

import (
	"context"

	"candlepath/internal/app/account"
)

// SetBranding keeps how the site looks, and announces it to every instance.
func (t *tx) SetBranding(ctx context.Context, l account.Branding) error {
	if _, err := t.exec(ctx, `UPDATE sites SET name = ?, accent = ?, mark = ?, foot = ?, most_clicks = ? WHERE id = ?`, l.Name, l.Accent, l.Mark, l.Foot, l.MostClicks, t.site); err != nil {
		return err
	}
	_, err := t.exec(ctx, `SELECT pg_notify(?, '')`, Channel)
	return err
}

// SetKeepRemoved sets for how many days removed pages can be brought back.
func (t *tx) SetKeepRemoved(ctx context.Context, days int) error {
	_, err := t.exec(ctx, `UPDATE sites SET keep_removed_days = ? WHERE id = ?`, days, t.site)
	return err
}
