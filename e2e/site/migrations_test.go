package site_test

import (
	"context"
	"testing"

	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/require"

	"candlepath/migrations"
)

// Editions of the time when they kept the words of lists keep aspects now: going
// back and on again leaves the demo's year as it was.
func TestMigrationOfAspects(t *testing.T) {
	ctx := context.Background()
	pool := kit.Pool(t, true)
	all := func(what string) (words []string) {
		rows, err := pool.Query(ctx, `SELECT DISTINCT `+what+` FROM editions, jsonb_array_elements(told) AS t ORDER BY 1`)
		require.NoError(t, err)
		defer rows.Close()
		for rows.Next() {
			var w string
			require.NoError(t, rows.Scan(&w))
			words = append(words, w)
		}
		return words
	}
	before := all("number::text || t::text")
	require.Subset(t, all("t->>'aspect'"), []string{"added", "placement", "title"})
	db := stdlib.OpenDBFromPool(pool)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, migrations.Files)
	require.NoError(t, err)
	_, err = p.DownTo(ctx, 17)
	require.NoError(t, err)
	require.Subset(t, all("t->>'aspect'"), []string{"new", "moved", "retitled"})
	require.NotContains(t, all("t->>'aspect'"), "placement")
	_, err = p.UpTo(ctx, 18)
	require.NoError(t, err)
	require.Equal(t, before, all("number::text || t::text"))
}
