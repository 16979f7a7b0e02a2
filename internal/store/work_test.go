package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// partOf says on which part of the work each table bears. A table that nothing cached depends on says
// why; a new table has to be put here.
var partOf = map[string]string{
	"entry_rows": "entries",
	"acts":       "plan", "decisions": "plan", "left_out": "plan", "planned_redirects": "plan", "releases": "plan", "deleted_entries": "plan",
	"page_spans": "drafts", "page_versions": "drafts", "page_links": "drafts", "page_pictures": "drafts",
	"template_drafts": "drafts",
	"shape_rows":      "shapes",
	"authors":         "reviews", "branch_asks": "reviews", "change_states": "reviews", "freezes": "reviews", "review_informed": "reviews", "reviews": "reviews", "withdrawals": "reviews",
	"people": "people", "files": "files", "editions": "editions", "older_addresses": "old_sites",
}

// apart are the tables that belong to no part, by why they need none.
var apart = func() map[string]bool {
	out := map[string]bool{}
	for _, tables := range []string{
		// written with an edition alone, whose number tells
		`addresses redirects withheld`,
		// written only beside a table of a part, in the same act
		`entries entry_topics topics brought_ids page_sources`,
		// read whenever a site or a person is asked for
		`sites sessions known_browsers password_links signin_tries`,
		// read when it is shown, never cached
		`bring_ins change_history different_pages draft_states edition_choices edition_exports ignored_addresses kept_texts large_editions locks neighbours notices older_imports open_windows redirect_hits remarks saved_views shown_links studies study_tries study_visits unanswered visits`,
		// derived from drafts, and kept with what it was derived from
		`page_words rendered_ahead similar_found similar_pages`,
		// numbers themselves
		`work_touched work_versions`,
	} {
		for table := range strings.FieldsSeq(tables) {
			out[table] = true
		}
	}
	return out
}()

// Each table's trigger raises the number of its part, for rows that are written, changed and deleted.
func TestEveryTableHasItsPart(t *testing.T) {
	site := kit.Site(t, true)
	rows, err := site.Pool.Query(t.Context(), `SELECT c.relname, coalesce((SELECT encode(g.tgargs, 'escape') FROM pg_trigger g WHERE g.tgrelid = c.oid AND g.tgname = 'work_touched'), ''),
			coalesce((SELECT g.tgtype & 60 FROM pg_trigger g WHERE g.tgrelid = c.oid AND g.tgname = 'work_touched'), 0)
		FROM pg_class c WHERE c.relkind = 'r' AND c.relnamespace = 'public'::regnamespace AND c.relname !~ '^(river|goose)_' ORDER BY 1`)
	require.NoError(t, err)
	defer rows.Close()
	met := map[string]bool{}
	for rows.Next() {
		var table, part string
		var events int
		require.NoError(t, rows.Scan(&table, &part, &events))
		met[table] = true
		require.Equal(t, partOf[table], strings.TrimSuffix(part, `\000`), table)
		if part != "" {
			require.Equal(t, 4+8+16+32, events, "%s: insert, delete, update, truncate", table)
			continue
		}
		require.Contains(t, apart, table, "does something that is cached depend on %s?", table)
	}
	require.NoError(t, rows.Err())
	for table := range partOf {
		require.True(t, met[table], table)
	}
	for table := range apart {
		require.True(t, met[table], table)
	}
}
