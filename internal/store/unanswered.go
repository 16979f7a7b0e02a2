package store

import (
	"context"
	"time"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/unanswered"
)

// AddUnanswered adds to the counts of a day. Once as many addresses are kept as there may be, or as many new
// ones came on the day, further ones are counted together.
func (t *tx) AddUnanswered(ctx context.Context, day time.Time, n unanswered.Count) error {
	type row struct {
		Address string `json:"address"`
		Page    string `json:"page"`
		N       int    `json:"n"`
	}
	rows := make([]row, 0, len(n))
	for a, k := range n {
		rows = append(rows, row{a.Address, a.Page, k})
	}
	if len(rows) == 0 {
		return nil
	}
	_, err := t.exec(ctx, `
		WITH asked AS (SELECT * FROM jsonb_to_recordset(CAST(@rows AS jsonb)) AS r(address text, page text, n integer)),
		kept AS (SELECT count(DISTINCT address) AS n, count(DISTINCT address) FILTER (WHERE day = CAST(@day AS date)) AS today FROM unanswered WHERE site_id = @site),
		met AS (SELECT address, row_number() OVER (ORDER BY sum(n) DESC, address) AS place FROM asked
			WHERE NOT EXISTS (SELECT 1 FROM unanswered u WHERE u.site_id = @site AND u.address = asked.address) GROUP BY address),
		told AS (
			SELECT CASE WHEN met.place IS NULL OR kept.n + met.place <= @most AND kept.today + met.place <= @mostDay
				THEN asked.address ELSE @others END AS address, asked.page, asked.n FROM asked CROSS JOIN kept LEFT JOIN met ON met.address = asked.address)
		INSERT INTO unanswered (site_id, address, page, day, n)
			SELECT @site, address, CASE WHEN address = @others THEN '' ELSE page END, CAST(@day AS date), sum(n) FROM told GROUP BY 2, 3
		ON CONFLICT (site_id, address, page, day) DO UPDATE SET n = unanswered.n + excluded.n`,
		map[string]any{"site": t.site, "rows": jsonText(rows), "most": unanswered.MostKept, "mostDay": unanswered.MostDay, "others": unanswered.Others, "day": day.Format(time.DateOnly)})
	return err
}

// Unanswered gives what was asked for in vain since a day, the most often first.
func (t *tx) Unanswered(ctx context.Context, since time.Time, n int) ([]addresses.Unanswered, error) {
	var rows []addresses.Unanswered
	err := t.scan(ctx, &rows, `SELECT address, sum(n) AS n, count(DISTINCT day) AS days, max(day) AS last,
			coalesce((array_agg(page ORDER BY n DESC) FILTER (WHERE page <> ''))[1], '') AS page
		FROM unanswered WHERE site_id = ? AND day >= ?::date GROUP BY address ORDER BY 2 DESC, 1 LIMIT ?`, t.site, since.Format(time.DateOnly), n)
	return rows, err
}

// IgnoredPatterns gives the patterns of addresses of which nobody is to be told.
func (t *tx) IgnoredPatterns(ctx context.Context) ([]string, error) {
	var out []string
	err := t.scan(ctx, &out, `SELECT pattern FROM ignored_addresses WHERE site_id = ? ORDER BY pattern`, t.site)
	return out, err
}

// PutPattern adds one.
func (t *tx) PutPattern(ctx context.Context, pattern string, by plan.Planned) error {
	_, err := t.exec(ctx, `INSERT INTO ignored_addresses (site_id, pattern, person_id, at) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING`, t.site, pattern, by.PersonID, by.At)
	return err
}

// DropPattern takes one away.
func (t *tx) DropPattern(ctx context.Context, pattern string) error {
	_, err := t.exec(ctx, `DELETE FROM ignored_addresses WHERE site_id = ? AND pattern = ?`, t.site, pattern)
	return err
}
