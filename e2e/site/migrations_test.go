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

// What was chosen for a site when each choice had a column of its own is chosen
// still.
func TestMigrationOfSettings(t *testing.T) {
	ctx := context.Background()
	pool := kit.Pool(t, true)
	chosen := `{"name": "Quillmere Inside", "accent": "#7A2E5A", "mark": "leaf", "foot": "Gate house: 4711", "clicks": "5", "keep-removed": "90", "editors-publish": "on", "own-work": ""}`
	_, err := pool.Exec(ctx, `UPDATE sites SET settings = $1`, chosen)
	require.NoError(t, err)
	db := stdlib.OpenDBFromPool(pool)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, migrations.Files)
	require.NoError(t, err)
	_, err = p.DownTo(ctx, 18)
	require.NoError(t, err)
	var name, foot string
	var clicks, days int
	var editors, own bool
	require.NoError(t, pool.QueryRow(ctx, `SELECT name, foot, most_clicks, keep_removed_days, editors_publish, own_work FROM sites`).Scan(&name, &foot, &clicks, &days, &editors, &own))
	require.Equal(t, []any{"Quillmere Inside", "Gate house: 4711", 5, 90, true, false}, []any{name, foot, clicks, days, editors, own})
	_, err = p.Up(ctx)
	require.NoError(t, err)
	var now string
	require.NoError(t, pool.QueryRow(ctx, `SELECT settings::text FROM sites`).Scan(&now))
	require.JSONEq(t, chosen, now)
}
