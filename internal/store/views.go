package store

import (
	"context"

	appsitemap "candlepath/internal/app/sitemap"
)

// Views lists the views that a person keeps, by name.
func (t *tx) Views(ctx context.Context, person string) ([]appsitemap.SavedView, error) {
	views := []appsitemap.SavedView{}
	err := t.scan(ctx, &views, `SELECT name, query FROM saved_views WHERE site_id = ? AND person_id = ? ORDER BY lower(name)`, t.site, person)
	return views, err
}

// PutView keeps a view, in place of one of the same name.
func (t *tx) PutView(ctx context.Context, person string, v appsitemap.SavedView) error {
	_, err := t.exec(ctx, `INSERT INTO saved_views (site_id, person_id, name, query) VALUES (?, ?, ?, ?)
		ON CONFLICT (site_id, person_id, name) DO UPDATE SET query = excluded.query`, t.site, person, v.Name, v.Query)
	return err
}

// DropView forgets a view.
func (t *tx) DropView(ctx context.Context, person, name string) error {
	_, err := t.exec(ctx, `DELETE FROM saved_views WHERE site_id = ? AND person_id = ? AND name = ?`, t.site, person, name)
	return err
}
