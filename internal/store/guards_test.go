package store_test

import (
	"errors"
	"fmt"
	"os"
	"testing"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

var kit testkit.Kit

func TestMain(m *testing.M) { os.Exit(testkit.Main(m, &kit)) }

// What must never be is refused by the database itself, whoever tries. Each case
// names the guard that refuses it.
func TestTheDatabaseGuardsItself(t *testing.T) {
	const (
		liveSpan = `SELECT entry_id FROM page_spans WHERE from_edition IS NOT NULL AND to_edition IS NULL ORDER BY entry_id LIMIT 1`
		latest   = `(SELECT max(number) FROM editions)`
		rowLike  = `INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, topics,
			readership, review, notes, withdrawn, person_id, changed_at, from_edition) SELECT site_id, %s FROM entry_rows WHERE from_edition IS NOT NULL AND to_edition IS NULL AND slug <> '' LIMIT 1`
	)
	for _, c := range []struct{ what, sql, guard string }{
		{"two editions of a number", `INSERT INTO editions SELECT * FROM editions LIMIT 1`, "editions_pkey"},
		{"an edition is changed", `UPDATE editions SET why = 'another' WHERE number = 3`, "editions_history"},
		{"an edition is deleted", `DELETE FROM editions WHERE number = 3`, "editions_history"},

		{"a page with two live texts", `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT site_id, entry_id, version_id, ` + latest + ` FROM page_spans WHERE entry_id = (` + liveSpan + `) AND to_edition IS NULL AND from_edition IS NOT NULL`, "page_spans_live"},
		{"a text slipped into the past", `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition, to_edition) SELECT site_id, entry_id, version_id, 2, 4 FROM page_spans WHERE entry_id = (` + liveSpan + `) LIMIT 1`, "page_spans_span"},
		{"a text that begins before the latest edition", `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT site_id, 'nobody', version_id, 2 FROM page_spans LIMIT 1`, "page_spans_span"},
		{"a text that begins in the future", `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT site_id, 'nobody', version_id, ` + latest + ` + 1 FROM page_spans LIMIT 1`, "page_spans_span"},
		{"a text that ended before", `UPDATE page_spans SET to_edition = from_edition + 1 WHERE entry_id = (` + liveSpan + `) AND to_edition IS NULL AND from_edition < ` + latest + ` - 1`, "page_spans_span"},
		{"a text that ends before it begins", `UPDATE page_spans SET to_edition = from_edition - 1 WHERE entry_id = (` + liveSpan + `) AND to_edition IS NULL`, "page_spans_check"},
		{"an old text that is open again", `UPDATE page_spans SET to_edition = NULL WHERE to_edition IS NOT NULL`, "page_spans_history"},
		{"an old text that is forgotten", `DELETE FROM page_spans WHERE to_edition IS NOT NULL`, "page_spans_history"},
		{"a text that an edition shows is changed", `UPDATE page_versions SET content = '{}' WHERE id = (SELECT version_id FROM page_spans WHERE from_edition IS NOT NULL LIMIT 1)`, "page_versions_shown"},

		{"two live rows of an entry", fmt.Sprintf(rowLike, `entry_id, parent_id, rank, title, short, 'other', slug_held, fixed, kind, target, source, template, owner, unlisted, topics, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_live"},
		{"two live siblings at one address", fmt.Sprintf(rowLike, `'new', parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, topics, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_live_slug"},
		{"an entry slipped into the past", fmt.Sprintf(rowLike, `'new', parent_id, rank, title, short, 'other', slug_held, fixed, kind, target, source, template, owner, unlisted, topics, readership, review, notes, withdrawn, person_id, changed_at, 2`), "entry_rows_span"},
		{"a kind that is none", fmt.Sprintf(rowLike, `'new', parent_id, rank, title, short, 'other', slug_held, fixed, 'folder', target, source, template, owner, unlisted, topics, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_kind_check"},
		{"the past of an entry is forgotten", `DELETE FROM entry_rows WHERE from_edition IS NOT NULL`, "entry_rows_history"},

		{"two pages at an address", `INSERT INTO addresses (site_id, address, entry_id, from_edition) SELECT site_id, address, 'new', ` + latest + ` FROM addresses WHERE to_edition IS NULL LIMIT 1`, "addresses_live"},
		{"an address that answered is forgotten", `DELETE FROM addresses WHERE address = '/grounds'`, "addresses_history"},
		{"an address that answered before", `INSERT INTO addresses (site_id, address, entry_id, from_edition) SELECT id, '/new', 'new', 1 FROM sites`, "addresses_span"},
		{"two redirects of an address", `INSERT INTO redirects (site_id, from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, from_edition)
			SELECT site_id, from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, ` + latest + ` FROM redirects WHERE to_edition IS NULL LIMIT 1`, "redirects_live"},
		{"a redirect that is forgotten", `DELETE FROM redirects WHERE to_edition IS NULL`, "redirects_history"},
		{"a menu slipped into the past", `INSERT INTO way_rows (site_id, way_id, way, changed_at, from_edition) SELECT site_id, 'menu:new', way, changed_at, 2 FROM way_rows LIMIT 1`, "way_rows_span"},

		{"two people of a name to sign in", `INSERT INTO people (id, site_id, login, name, role, password_hash) SELECT gen_random_uuid(), site_id, login, name, role, '' FROM people LIMIT 1`, "people_login"},
		{"a role that is none", `UPDATE people SET role = 'owner'`, "people_role_check"},
		{"an act that is done twice", `INSERT INTO acts (site_id, key, person_id, at, label, patches, version) SELECT site_id, key, person_id, at, label, patches, version FROM acts LIMIT 1`, "acts_key"},
		{"settings that are no object", `UPDATE sites SET settings = '[]'`, "sites_settings_check"},
		{"a page that is locked by nobody", `INSERT INTO locks (site_id, entry_id, person_id, window_id, taken_at, seen_at) SELECT id, 'x', gen_random_uuid(), gen_random_uuid(), now(), now() FROM sites`, "locks_person_id_fkey"},
	} {
		t.Run(c.what, func(t *testing.T) {
			t.Parallel()
			pool := kit.Pool(t, true)
			tx, err := pool.Begin(t.Context())
			require.NoError(t, err)
			closed, err := tx.Exec(t.Context(), `UPDATE page_spans SET to_edition = `+latest+` WHERE from_edition = 1 AND to_edition IS NULL AND entry_id <> (`+liveSpan+`)`)
			require.NoError(t, err)
			require.Positive(t, closed.RowsAffected(), "some texts are of the past")
			done, err := tx.Exec(t.Context(), c.sql)
			require.NoError(t, tx.Rollback(t.Context()))
			var refused *pgconn.PgError
			require.True(t, errors.As(err, &refused), "%v rows, %v", done.RowsAffected(), err)
			require.Equal(t, c.guard, refused.ConstraintName, "%s", refused.Message)
		})
	}
}
