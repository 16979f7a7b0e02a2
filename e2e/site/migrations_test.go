package site_test

import (
	"context"
	"crypto/sha256"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/plan"
	"candlepath/internal/store"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
	"candlepath/migrations"
)

// schemaOf moves the schema of a database up and down.
func schemaOf(t *testing.T, pool *pgxpool.Pool) *goose.Provider {
	db := stdlib.OpenDBFromPool(pool)
	t.Cleanup(func() { _ = db.Close() })
	p, err := goose.NewProvider(goose.DialectPostgres, db, migrations.Files)
	require.NoError(t, err)
	return p
}

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
	p := schemaOf(t, pool)
	_, err := p.DownTo(ctx, 17)
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
	p := schemaOf(t, pool)
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

// Templates stand among what is shaped beside the sitemap from then on, and pages keep what
// they take something from.
func TestMigrationOfTemplates(t *testing.T) {
	ctx := context.Background()
	site := kit.Site(t, true)
	_, body := testkit.SignIn(t, site, "").Get("/")
	home := string(body)
	templates := func() (out []string) {
		rows, err := site.Pool.Query(ctx, `SELECT shape_id || ' ' || from_edition || ' ' || (shape -> 'template' ->> 'name') || ' ' || jsonb_array_length(shape -> 'template' -> 'parts') FROM shape_rows WHERE shape_id LIKE 'template:%' ORDER BY (shape -> 'template' ->> 'order')::integer`)
		require.NoError(t, err)
		out, err = pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
		return out
	}
	follows := func() (n int) {
		require.NoError(t, site.Pool.QueryRow(ctx, `SELECT count(*) FROM page_links WHERE follows`).Scan(&n))
		return n
	}
	before, followed := templates(), follows()
	require.Len(t, before, 8)
	require.Positive(t, followed)
	p := schemaOf(t, site.Pool)
	_, err := p.DownTo(ctx, 25)
	require.NoError(t, err)
	var first, fixed string
	require.NoError(t, site.Pool.QueryRow(ctx, `SELECT (SELECT key FROM templates ORDER BY position LIMIT 1), (SELECT p ->> 'text' FROM templates, jsonb_array_elements(definition -> 'parts') p WHERE key = 'procedure' AND p ->> 'kind' = 'fixed')`).Scan(&first, &fixed))
	require.Equal(t, "topic", first)
	require.Contains(t, fixed, "Make it safe first")
	_, err = p.Up(ctx)
	require.NoError(t, err)
	require.Equal(t, before, templates())
	require.Equal(t, followed, follows())
	_, again := testkit.SignIn(t, site, "").Get("/")
	require.Equal(t, home, string(again))
}

// Links, entries and topics get tables of their own, and back: what links where, what
// every table tells of entries, and what readers get, stay the same.
func TestMigrationOfEntriesAndLinks(t *testing.T) {
	ctx := context.Background()
	site := kit.Site(t, true)
	_, body := testkit.SignIn(t, site, "").Get("/")
	home := string(body)
	all := func(query string) (rows []string) {
		found, err := site.Pool.Query(ctx, query)
		require.NoError(t, err)
		defer found.Close()
		for found.Next() {
			var row string
			require.NoError(t, found.Scan(&row))
			rows = append(rows, row)
		}
		require.NoError(t, found.Err())
		return rows
	}
	const links = `SELECT concat_ws(' ', version_id, place, target, to_entry, words, tile) FROM page_links ORDER BY version_id, place`
	const topics = `SELECT concat_ws(' ', o.row_id, row_number() OVER (PARTITION BY o.row_id ORDER BY o.place), n.name) FROM entry_topics o JOIN topics n ON n.id = o.topic_id ORDER BY o.row_id, o.place`
	before, named := all(links), all(topics)
	require.Greater(t, len(before), 50)
	led := all(`SELECT 'x' FROM page_links WHERE NOT follows`)
	require.Greater(t, len(named), 30)
	p := schemaOf(t, site.Pool)
	_, err := p.DownTo(ctx, 20)
	require.NoError(t, err)
	require.Equal(t, []string{fmt.Sprint(len(led))}, all(`SELECT sum(jsonb_array_length(links))::text FROM page_versions`))
	_, err = p.Up(ctx)
	require.NoError(t, err)
	require.Equal(t, before, all(links))
	require.Equal(t, named, all(topics))
	for _, table := range []string{"entry_rows", "addresses", "page_versions", "page_spans", "decisions", "locks", "page_sources"} {
		require.Empty(t, all(`SELECT t.entry_id FROM `+table+` t LEFT JOIN entries e ON e.site_id = t.site_id AND e.id = t.entry_id WHERE e.id IS NULL`), table)
	}
	again, err := server.New(ctx, site.Pool, server.Options{Log: testkit.Quiet()})
	require.NoError(t, err)
	t.Cleanup(again.Close)
	w := httptest.NewRecorder()
	again.Handler.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/", nil))
	require.Equal(t, home, w.Body.String())
}

// A site of 40,000 entries, with links and topics, comes through the same migrations as
// it was: both trees, entry by entry, and every link.
func TestMigrationOfALargeSite(t *testing.T) {
	ctx := context.Background()
	pool := kit.Pool(t, true)
	_, err := pool.Exec(ctx, `
		CREATE TEMP TABLE fresh AS SELECT i, 'large-' || i AS id FROM generate_series(1, 40000) AS i;
		INSERT INTO entries (site_id, id) SELECT s.id, f.id FROM fresh f, sites s;
		INSERT INTO topics (site_id, name) SELECT s.id, 'Bed ' || k FROM sites s, generate_series(1, 40) AS k;
		INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, changed_at, from_edition)
			SELECT s.id, f.id, CASE WHEN i > 20 THEN 'large-' || i / 20 ELSE '' END, lpad(i::text, 6, '0') || 'x', 'Entry ' || i, '', 'entry-' || i, true, '', 'page', '', '', 'topic', '', false, '', '', '', false, now(),
				CASE WHEN i <= 36000 THEN s.edition END FROM fresh f, sites s;
		INSERT INTO entry_topics (row_id, place, topic_id) SELECT r.id, k, t.id FROM fresh f JOIN entry_rows r ON r.entry_id = f.id CROSS JOIN generate_series(1, 2) AS k
			JOIN topics t ON t.name = 'Bed ' || 1 + (f.i * k) % 40 WHERE k = 1 OR f.i % 40 > 0;
		INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, report, excerpt, version, person_id, changed_at)
			SELECT gen_random_uuid(), s.id, f.id, '{}', '', '[]', '{}', '', 1, (SELECT id FROM people ORDER BY login LIMIT 1), now() FROM fresh f, sites s WHERE i <= 10000;
		INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile)
			SELECT v.id, k, v.site_id, 'page:large-' || f.i * k, 'large-' || f.i * k, 'there', k = 2 FROM fresh f JOIN page_versions v ON v.entry_id = f.id CROSS JOIN generate_series(1, 2) AS k;
		INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT v.site_id, f.id, v.id, s.edition FROM fresh f JOIN page_versions v ON v.entry_id = f.id, sites s;
		ANALYZE`)
	require.NoError(t, err)
	seen := func() (sums [4]string) {
		db, err := store.Open(pool)
		require.NoError(t, err)
		require.NoError(t, db.Read(ctx, func(tx app.Tx, _ plan.Site) error {
			trees, err := tx.Trees(ctx, nil, 0)
			require.NoError(t, err)
			sums[0], sums[1] = fmt.Sprint(trees.Live.Len(), trees.Next.Len()), fmt.Sprintf("%x", sha256.Sum256(fmt.Append(nil, trees.Live.Entries(), trees.Next.Entries())))
			return nil
		}))
		require.NoError(t, pool.QueryRow(ctx, `SELECT count(*)::text, md5(string_agg(concat_ws(' ', version_id, place, target, to_entry, words, tile), ',' ORDER BY version_id, place)) FROM page_links`).Scan(&sums[2], &sums[3]))
		return sums
	}
	before := seen()
	require.Regexp(t, `^36\d{3} 40\d{3}$`, before[0])
	p := schemaOf(t, pool)
	_, err = p.DownTo(ctx, 20)
	require.NoError(t, err)
	_, err = p.Up(ctx)
	require.NoError(t, err)
	require.Equal(t, before, seen())
}

// States of changes have the names of the screens from then on, in what waits and in its history.
func TestMigrationOfStates(t *testing.T) {
	ctx := t.Context()
	pool := kit.Pool(t, true)
	_, err := pool.Exec(ctx, `UPDATE change_states SET state = 'scheduled', go_at = now() WHERE change_id = (SELECT min(change_id) FROM change_states)`)
	require.NoError(t, err)
	states := func() (list []string) {
		rows, err := pool.Query(ctx, `SELECT concat_ws(' ', change_id, state) FROM change_states UNION ALL SELECT concat_ws(' ', change_id, id, state) FROM change_history ORDER BY 1`)
		require.NoError(t, err)
		list, err = pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
		return list
	}
	before := states()
	p := schemaOf(t, pool)
	_, err = p.DownTo(ctx, 62)
	require.NoError(t, err)
	old := strings.Join(states(), ",")
	require.Contains(t, old, "with reviewer")
	require.Contains(t, old, "timed")
	require.NotContains(t, old, "in review")
	_, err = p.Up(ctx)
	require.NoError(t, err)
	require.Equal(t, before, states())
}

// A migration beside a running instance waits for no lock for long, so that others wait no longer; it is tried
// again, also after a deadlock.
func TestAMigrationBesideOthers(t *testing.T) {
	ctx := t.Context()
	pool := kit.Pool(t, true)
	p := schemaOf(t, pool)
	_, err := p.DownTo(ctx, 55)
	require.NoError(t, err)
	busy, err := pool.Begin(ctx)
	require.NoError(t, err)
	defer busy.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // it is over by then
	_, err = busy.Exec(ctx, `UPDATE page_spans SET version_id = version_id WHERE false`)
	require.NoError(t, err)
	migrated := make(chan error, 1)
	go func() { migrated <- store.Migrate(ctx, pool) }()
	blocked := func() bool {
		var n int
		require.NoError(t, pool.QueryRow(ctx, `SELECT count(*) FROM pg_locks WHERE NOT granted AND locktype = 'relation'`).Scan(&n))
		return n > 0
	}
	require.Eventually(t, blocked, 30*time.Second, 10*time.Millisecond)
	require.Eventually(t, func() bool { return !blocked() }, 30*time.Second, 10*time.Millisecond, "it gives up for a while")
	require.NoError(t, busy.Rollback(ctx))
	require.NoError(t, <-migrated)
	has, wants, err := store.Schema(ctx, pool)
	require.NoError(t, err)
	require.Equal(t, wants, has)
}
