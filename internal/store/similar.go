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

// Words gives the words of the pages of Next for comparing them, by entry.
func (t *tx) Words(ctx context.Context) (map[string]string, error) {
	var rows []struct{ EntryID, Plain string }
	err := t.scan(ctx, &rows, `SELECT DISTINCT ON (s.entry_id) s.entry_id, w.plain FROM page_spans s JOIN page_words w ON w.version_id = s.version_id
		WHERE s.site_id = ? AND s.to_edition IS NULL ORDER BY s.entry_id, s.from_edition DESC NULLS FIRST`, t.site)
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.EntryID] = r.Plain
	}
	return out, err
}

// DifferentPages gives the pairs that somebody declared to be different, though
// similar.
func (t *tx) DifferentPages(ctx context.Context) ([][2]string, error) {
	var rows []struct{ A, B string }
	err := t.scan(ctx, &rows, `SELECT a, b FROM different_pages WHERE site_id = ?`, t.site)
	out := make([][2]string, len(rows))
	for i, r := range rows {
		out[i] = [2]string{r.A, r.B}
	}
	return out, err
}

// PutDifferent declares a pair different.
func (t *tx) PutDifferent(ctx context.Context, a, b, person string, at time.Time) error {
	_, err := t.exec(ctx, `INSERT INTO different_pages (site_id, a, b, person_id, at) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`, t.site, min(a, b), max(a, b), person, at)
	return err
}
