package store

import (
	"context"
	"time"

	appsitemap "candlepath/internal/app/sitemap"
)

// FoundSimilar gives the pages that were found to be nearly the same, the most alike
// first.
func (t *tx) FoundSimilar(ctx context.Context) (appsitemap.SimilarFound, error) {
	var head []struct {
		State string
		At    time.Time
	}
	if err := t.scan(ctx, &head, `SELECT state, at FROM similar_found WHERE site_id = ?`, t.site); err != nil || len(head) == 0 {
		return appsitemap.SimilarFound{}, err
	}
	found := appsitemap.SimilarFound{State: head[0].State, At: head[0].At}
	err := t.scan(ctx, &found.Pairs, `SELECT a, b, share, same_title FROM similar_pages WHERE site_id = ? ORDER BY place`, t.site)
	return found, err
}

// PutSimilar keeps them, instead of what was found before.
func (t *tx) PutSimilar(ctx context.Context, f appsitemap.SimilarFound) error {
	if _, err := t.exec(ctx, `INSERT INTO similar_found (site_id, state, at) VALUES (?, ?, ?)
		ON CONFLICT (site_id) DO UPDATE SET state = excluded.state, at = excluded.at`, t.site, f.State, f.At); err != nil {
		return err
	}
	if _, err := t.exec(ctx, `DELETE FROM similar_pages WHERE site_id = ?`, t.site); err != nil {
		return err
	}
	type pair struct {
		A         string  `json:"a"`
		B         string  `json:"b"`
		Share     float64 `json:"share"`
		SameTitle bool    `json:"same_title"`
		Place     int     `json:"place"`
	}
	pairs := make([]pair, len(f.Pairs))
	for i, p := range f.Pairs {
		pairs[i] = pair{p.A, p.B, p.Share, p.SameTitle, i}
	}
	_, err := t.exec(ctx, `INSERT INTO similar_pages (site_id, a, b, share, same_title, place)
		SELECT ?, a, b, share, same_title, place FROM jsonb_to_recordset(?::jsonb) AS f(a text, b text, share real, same_title boolean, place integer)`, t.site, jsonText(pairs))
	return err
}
