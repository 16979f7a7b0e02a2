package store

import (
	"context"

	"candlepath/internal/core/setting"
)

// SetSettings keeps the chosen values, beside those that stay, and announces them to
// every instance.
func (t *tx) SetSettings(ctx context.Context, chosen setting.Values) error {
	if _, err := t.exec(ctx, `UPDATE sites SET settings = settings || ?::jsonb WHERE id = ?`, jsonText(chosen), t.site); err != nil {
		return err
	}
	_, err := t.exec(ctx, `SELECT pg_notify(?, '')`, Channel)
	return err
}
