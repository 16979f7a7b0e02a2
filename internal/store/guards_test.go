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
		rowLike  = `INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted,
			readership, review, notes, withdrawn, person_id, changed_at, from_edition) SELECT site_id, %s FROM entry_rows WHERE from_edition IS NOT NULL AND to_edition IS NULL AND slug <> '' LIMIT 1`
	)
	const (
		fresh   = `INSERT INTO entries (site_id, id) SELECT id, 'new' FROM sites; `
		planned = fresh + `INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership,
			review, notes, withdrawn, changed_at) SELECT id, 'new', '', 'zz', 'New', '', 'new', false, '', 'page', '', '', '', '', false, '', '', '', false, now() FROM sites; `
		endText = `UPDATE page_spans SET to_edition = ` + latest + ` WHERE entry_id = (SELECT entry_id FROM page_spans WHERE from_edition < ` + latest + ` AND to_edition IS NULL LIMIT 1) AND to_edition IS NULL AND from_edition IS NOT NULL; `
	)
	for _, c := range []struct{ what, sql, guard string }{
		{"two editions of a number", `INSERT INTO editions SELECT * FROM editions LIMIT 1`, "editions_pkey"},
		{"an edition is changed", `UPDATE editions SET why = 'another' WHERE number = 3`, "editions_history"},
		{"an edition is deleted", `DELETE FROM editions WHERE number = 3`, "editions_history"},

		{"a page with two live texts", `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT site_id, entry_id, version_id, ` + latest + ` FROM page_spans WHERE entry_id = (` + liveSpan + `) AND to_edition IS NULL AND from_edition IS NOT NULL`, "page_spans_live"},
		{"a text slipped into the past", `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition, to_edition) SELECT site_id, entry_id, version_id, 2, 4 FROM page_spans WHERE entry_id = (` + liveSpan + `) LIMIT 1`, "page_spans_span"},
		{"a text that begins before the latest edition", endText + `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT site_id, entry_id, version_id, 2 FROM page_spans WHERE to_edition = ` + latest + ` LIMIT 1`, "page_spans_span"},
		{"a text that begins in the future", endText + `INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT site_id, entry_id, version_id, ` + latest + ` + 1 FROM page_spans WHERE to_edition = ` + latest + ` LIMIT 1`, "page_spans_span"},
		{"a text of one page shown as another's", `INSERT INTO page_spans (site_id, entry_id, version_id) SELECT s.site_id, (SELECT id FROM entries WHERE id <> s.entry_id LIMIT 1), s.version_id FROM page_spans s LIMIT 1`, "page_spans_of"},
		{"a text of no entry", `INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, report, excerpt, version, person_id, changed_at)
			SELECT gen_random_uuid(), site_id, 'nobody', content, body, outline, report, excerpt, version, person_id, changed_at FROM page_versions LIMIT 1`, "page_versions_of"},
		{"a link to an entry that never was", `INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile) SELECT version_id, 99, site_id, 'page:nobody', 'nobody', '', false FROM page_spans WHERE from_edition IS NULL LIMIT 1`, "page_links_to"},
		{"an address as a link to an entry", `INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile) SELECT version_id, 99, site_id, '/grounds', entry_id, '', false FROM page_spans WHERE from_edition IS NULL LIMIT 1`, "page_links_page"},
		{"a link of a text that an edition shows is changed", `UPDATE page_links SET words = 'other' WHERE version_id = (SELECT l.version_id FROM page_links l JOIN page_spans s USING (version_id) WHERE s.from_edition IS NOT NULL LIMIT 1)`, "page_links_shown"},
		{"a link is added to such a text", `INSERT INTO page_links (version_id, place, site_id, target, words, tile) SELECT version_id, 99, site_id, '/grounds', '', false FROM page_spans WHERE from_edition IS NOT NULL LIMIT 1`, "page_links_shown"},
		{"a decision about no entry", `INSERT INTO decisions (site_id, entry_id, to_entry, to_address, to_url, to_suffix, code, note, review, person_id) SELECT site_id, 'nobody', '', '', '', '', 410, '', '', id FROM people LIMIT 1`, "decisions_of"},
		{"a lock on no entry", `INSERT INTO locks (site_id, entry_id, person_id, window_id, taken_at, seen_at) SELECT site_id, 'nobody', id, gen_random_uuid(), now(), now() FROM people LIMIT 1`, "locks_of"},
		{"an entry without an id", `INSERT INTO entries (site_id, id) SELECT id, '' FROM sites`, "entries_id_check"},
		{"an entry that is forgotten", `DELETE FROM entries`, "entry_rows_of"},
		{"a text that ended before", `UPDATE page_spans SET to_edition = from_edition + 1 WHERE entry_id = (` + liveSpan + `) AND to_edition IS NULL AND from_edition < ` + latest + ` - 1`, "page_spans_span"},
		{"a text that ends before it begins", `UPDATE page_spans SET to_edition = from_edition - 1 WHERE entry_id = (` + liveSpan + `) AND to_edition IS NULL`, "page_spans_check"},
		{"an old text that is open again", `UPDATE page_spans SET to_edition = NULL WHERE to_edition IS NOT NULL`, "page_spans_history"},
		{"an old text that is forgotten", `DELETE FROM page_spans WHERE to_edition IS NOT NULL`, "page_spans_history"},
		{"a text that an edition shows is changed", `UPDATE page_versions SET content = '{}' WHERE id = (SELECT version_id FROM page_spans WHERE from_edition IS NOT NULL LIMIT 1)`, "page_versions_shown"},

		{"two live rows of an entry", fmt.Sprintf(rowLike, `entry_id, parent_id, rank, title, short, 'other', slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_live"},
		{"a row of no entry", fmt.Sprintf(rowLike, `'nobody', parent_id, rank, title, short, 'other', slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_of"},
		{"two live siblings at one address", fresh + fmt.Sprintf(rowLike, `'new', parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_live_slug"},
		{"an entry slipped into the past", fresh + fmt.Sprintf(rowLike, `'new', parent_id, rank, title, short, 'other', slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, person_id, changed_at, 2`), "entry_rows_span"},
		{"a kind that is none", fresh + fmt.Sprintf(rowLike, `'new', parent_id, rank, title, short, 'other', slug_held, fixed, 'folder', target, source, template, owner, unlisted, readership, review, notes, withdrawn, person_id, changed_at, `+latest), "entry_rows_kind_check"},
		{"the past of an entry is forgotten", `DELETE FROM entry_rows WHERE from_edition IS NOT NULL`, "entry_rows_history"},

		{"two topics of a name", `INSERT INTO topics (site_id, name) SELECT site_id, name FROM topics LIMIT 1`, "topics_name"},
		{"a topic without a name", `INSERT INTO topics (site_id, name) SELECT id, ' ' FROM sites`, "topics_name_check"},
		{"two topics as one", `INSERT INTO topics (site_id, name) SELECT id, 'tea; cake' FROM sites`, "topics_name_check"},
		{"a topic that is forgotten while entries have it", `DELETE FROM topics`, "entry_topics_topic"},
		{"a topic twice on an entry", planned + `INSERT INTO entry_topics (row_id, place, topic_id) SELECT r.id, g, (SELECT min(id) FROM topics) FROM generate_series(1, 2) g, entry_rows r WHERE r.entry_id = 'new'`, "entry_topics_once"},
		{"a topic of no row", `INSERT INTO entry_topics (row_id, place, topic_id) SELECT -1, 1, min(id) FROM topics`, "entry_topics_of"},
		{"a topic that an edition shows is taken away", `DELETE FROM entry_topics`, "entry_topics_history"},
		{"a topic that an edition shows is another", `UPDATE entry_topics SET place = place + 10`, "entry_topics_history"},
		{"a topic is added to an earlier edition", `INSERT INTO entry_topics (row_id, place, topic_id) SELECT id, 99, (SELECT min(id) FROM topics) FROM entry_rows x WHERE from_edition = 1 AND NOT EXISTS (SELECT 1 FROM entry_topics WHERE row_id = x.id)`, "entry_topics_history"},
		{"an id of a file for no entry", `INSERT INTO brought_ids (site_id, file_id, entry_id) SELECT id, 'x', 'nobody' FROM sites`, "brought_ids_of"},

		{"two pages at an address", `INSERT INTO addresses (site_id, address, entry_id, from_edition) SELECT site_id, address, 'new', ` + latest + ` FROM addresses WHERE to_edition IS NULL LIMIT 1`, "addresses_live"},
		{"an address that answered is forgotten", `DELETE FROM addresses WHERE address = '/grounds'`, "addresses_history"},
		{"an address that answered before", fresh + `INSERT INTO addresses (site_id, address, entry_id, from_edition) SELECT id, '/new', 'new', 1 FROM sites`, "addresses_span"},
		{"two redirects of an address", `INSERT INTO redirects (site_id, from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, from_edition)
			SELECT site_id, from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, ` + latest + ` FROM redirects WHERE to_edition IS NULL LIMIT 1`, "redirects_live"},
		{"a redirect that is forgotten", `DELETE FROM redirects WHERE to_edition IS NULL`, "redirects_history"},
		{"a menu slipped into the past", `INSERT INTO shape_rows (site_id, shape_id, shape, changed_at, from_edition) SELECT site_id, 'menu:new', shape, changed_at, 2 FROM shape_rows LIMIT 1`, "shape_rows_span"},

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
			done, err := tx.Exec(t.Context(), c.sql+"; SET CONSTRAINTS ALL IMMEDIATE")
			require.NoError(t, tx.Rollback(t.Context()))
			var refused *pgconn.PgError
			require.True(t, errors.As(err, &refused), "%v rows, %v", done.RowsAffected(), err)
			require.Equal(t, c.guard, refused.ConstraintName, "%s", refused.Message)
		})
	}
}
