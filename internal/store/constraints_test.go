package store_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/require"
)

// constraint is one rule of the schema.
type constraint struct{ name, kind, table, def string }

// breaks says which values a check refuses, and which a unique index of some rows needs.
var breaks = map[string]string{
	"acts_state_check": "state = 'lost'", "bring_ins_state_check": "state = 'lost'", "different_pages_check": "b = 'a'", "editions_why_check": "why = ''",
	"editions_number_check": "number = 0", "entries_id_check": "id = ''", "entry_rows_check": "from_edition = 3, to_edition = 3", "entry_rows_check1": "removed = true, from_edition = 3",
	"entry_rows_kind_check": "kind = 'folder'", "page_links_page": "target = '/x', to_entry = 'x'", "page_spans_check": "from_edition = 3, to_edition = 2", "people_role_check": "role = 'owner'",
	"redirects_match_check": "match = 'about'", "redirects_code_check": "code = 200", "releases_why_check": "why = ''", "similar_pages_share_check": "share = 1.5", "similar_pages_check": "b = 'a'",
	"sites_settings_check": "settings = '[]'", "topics_name_check": "name = ' x'", "shape_rows_check": "from_edition = 3, to_edition = 3", "shape_rows_check1": "removed = true, from_edition = 3",
	"draft_states_check": "begun_at = '2026-11-27'", "files_bytes": "bytes = 0", "files_measure": "width = 3, height = 0",
	"addresses_check": "from_edition = 3, to_edition = 3", "redirects_check": "from_edition = 3, to_edition = 3",

	"unanswered_n": "n = 0", "change_states_state": "state = 'lost'", "change_states_scheduled": "state = 'scheduled', go_at = NULL", "remarks_words": "words = ''", "remarks_by": "person_id = '00000000-0000-0000-0000-000000000001'", "change_history_state": "state = 'lost'", "reviews_one": "reviewer_id = '00000000-0000-0000-0000-000000000001', reviewer_role = 'approver'", "large_editions_state": "state = 'lost'", "edition_exports_state": "state = 'lost'", "locks_asked": "asked_by = '00000000-0000-0000-0000-000000000001'", "freezes_ends": "ends = '2026-11-25', begins = '2026-11-26'", "freezes_why": "why = ''", "withdrawals_zone": "zone = ''", "shown_links_ends": "ends = '2026-11-25'", "shown_links_state": "state = 'past'", "remarks_answers": "answers = 2", "branch_asks_asks": "asks = 'two'", "ignored_addresses_pattern": "pattern = ''", "redirect_hits_n": "n = 0", "older_imports_state": "state = 'lost'", "older_imports_percent": "percent = 101", "older_addresses_visits": "visits = -1", "notices_read": "read_at = '2026-11-25'", "planned_redirects_code": "code = 200", "planned_redirects_from": "from_address = 'tea'", "planned_redirects_match": "match = 'about'",
	"shape_rows_live": "from_edition = 3", "template_drafts_key_check": "key = ''", "template_drafts_version_check": "version = 0",
	"files_replaced": "replaced_by = 'y'", "files_replaced_other": "id = 'x', replaced_by = 'x'",
	"page_versions_text_of": "text_of = '00000000-0000-0000-0000-00000000000f'", "entry_rows_live": "from_edition = 3", "page_spans_live": "from_edition = 3",
	"entry_rows_live_slug": "from_edition = 3, kind = 'page', fixed = ''",
}

// TestEveryConstraintHoldsAlone tries to break each rule of the schema while no other
// stands: a row that refers to nothing, a row that is there already, a value that is none.
func TestEveryConstraintHoldsAlone(t *testing.T) {
	pool := kit.Pool(t, false)
	rows, err := pool.Query(t.Context(), `
		SELECT conname::text, contype::text, conrelid::regclass::text, pg_get_constraintdef(oid) FROM pg_constraint
			WHERE connamespace = 'public'::regnamespace AND contype IN ('c', 'u', 'p', 'f', 'x') AND conrelid::regclass::text !~ '^(river|goose)'
		UNION ALL SELECT indexrelid::regclass::text, 'i', indrelid::regclass::text, pg_get_indexdef(indexrelid) FROM pg_index JOIN pg_class k ON k.oid = indrelid
			WHERE indisunique AND k.relnamespace = 'public'::regnamespace AND indrelid::regclass::text !~ '^(river|goose)'
			AND NOT EXISTS (SELECT 1 FROM pg_constraint c WHERE c.conindid = indexrelid AND c.contype IN ('u', 'p')) ORDER BY 3, 1`)
	require.NoError(t, err)
	all, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (c constraint, err error) {
		return c, r.Scan(&c.name, &c.kind, &c.table, &c.def)
	})
	require.NoError(t, err)
	require.Greater(t, len(all), 100)
	for _, c := range all {
		t.Run(c.name, func(t *testing.T) {
			tx, err := pool.Begin(t.Context())
			require.NoError(t, err)
			defer func() { require.NoError(t, tx.Rollback(context.WithoutCancel(t.Context()))) }()
			alone(t, tx, c, all)
			insert := dummy(t, tx, c)
			_, err = tx.Exec(t.Context(), insert)
			if c.kind != "f" && c.kind != "c" {
				require.NoError(t, err, "the first: %s", insert)
				_, err = tx.Exec(t.Context(), insert)
			}
			if err == nil && c.kind == "f" {
				_, err = tx.Exec(t.Context(), `SET CONSTRAINTS ALL IMMEDIATE`)
			}
			var refused *pgconn.PgError
			require.True(t, errors.As(err, &refused), "%s: %v", insert, err)
			require.Equal(t, c.name, refused.ConstraintName, "%s: %s", insert, refused.Message)
		})
	}
}

// alone takes all other rules of a table away, and its triggers.
func alone(t *testing.T, tx pgx.Tx, c constraint, all []constraint) {
	_, err := tx.Exec(t.Context(), `ALTER TABLE `+c.table+` DISABLE TRIGGER USER`)
	require.NoError(t, err)
	for _, other := range all {
		switch {
		case other.table != c.table || other.name == c.name:
		case strings.Contains(c.def, "REFERENCES "+c.table+"(") && (other.kind == "p" || other.kind == "u"): // it refers to one of them
		case other.kind == "i":
			_, err = tx.Exec(t.Context(), `DROP INDEX `+other.name)
		default:
			_, err = tx.Exec(t.Context(), `ALTER TABLE `+c.table+` DROP CONSTRAINT IF EXISTS `+other.name+` CASCADE`)
		}
		require.NoError(t, err)
	}
}

// dummy is a statement that inserts a row of values that mean nothing, but for those by
// which a rule is to be broken.
func dummy(t *testing.T, tx pgx.Tx, c constraint) string {
	given := map[string]string{}
	for _, pair := range strings.Split(breaks[c.name], ", ") {
		if column, value, ok := strings.Cut(pair, " = "); ok {
			given[column] = value
		}
	}
	if c.kind == "c" {
		require.NotEmpty(t, given, "breaks says what %s refuses: %s", c.name, c.def)
	}
	rows, err := tx.Query(t.Context(), `SELECT attname::text, format_type(atttypid, NULL), attnotnull, attgenerated <> '' FROM pg_attribute
		WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped ORDER BY attnum`, c.table)
	require.NoError(t, err)
	values := map[string]string{
		"uuid": "'00000000-0000-0000-0000-000000000001'", "text": "'x'", "integer": "1", "bigint": "1", "smallint": "1", "boolean": "false", "double precision": "0.5", "real": "0.5",
		"timestamp with time zone": "'2026-11-26'", "date": "'2026-11-26'", "jsonb": "'{}'", "json": "'{}'", "bytea": `'\x00'`, "tsvector": "''", "text[]": "'{}'", "integer[]": "'{}'", "inet": "'127.0.0.1'",
	}
	var columns, list []string
	var name, kind string
	var needed, made bool
	_, err = pgx.ForEachRow(rows, []any{&name, &kind, &needed, &made}, func() error {
		value, is := given[name]
		refers := c.kind == "f" && strings.Contains(strings.Split(c.def, "REFERENCES")[0], name)
		switch {
		case made || !is && !needed && !refers:
			return nil
		case !is && values[kind] == "":
			return fmt.Errorf("%s.%s is a %s, of which there is no dummy", c.table, name, kind)
		case !is:
			value = values[kind]
		}
		columns, list = append(columns, name), append(list, value)
		return nil
	})
	require.NoError(t, err)
	return `INSERT INTO ` + c.table + ` (` + strings.Join(columns, ", ") + `) OVERRIDING SYSTEM VALUE VALUES (` + strings.Join(list, ", ") + `)`
}
