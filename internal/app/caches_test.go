package app_test

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

const (
	aDraft   = `(SELECT version_id FROM page_spans WHERE from_edition IS NULL ORDER BY md5(entry_id || $1) LIMIT 1)`
	savedOne = `WITH saved AS (UPDATE page_versions SET version = version + 1 WHERE id = ` + aDraft + ` RETURNING id) `
	savedAll = `WITH saved AS (UPDATE page_versions SET version = version + 1 WHERE id IN (SELECT version_id FROM page_spans WHERE from_edition IS NULL) RETURNING id) `
	livePage = `(SELECT entry_id FROM entry_rows WHERE from_edition IS NOT NULL AND to_edition IS NULL AND kind = 'page' AND parent_id <> '' ORDER BY md5(entry_id || $1) LIMIT 1)`
	anybody  = `(SELECT id FROM people WHERE role = 'site manager' ORDER BY login LIMIT 1)`
	site     = `(SELECT id FROM sites)`
)

// writes say for each table on which something cached depends how rows of it come, change and go. $1 is
// text that differs with each write, by which rows are picked.
var writes = map[string][]string{
	"entry_rows": {
		`INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, removed, changed_at)
			SELECT site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, left(md5($1), 5), withdrawn, false, now() FROM entry_rows l
			WHERE to_edition IS NULL AND entry_id = ` + livePage + ` AND NOT EXISTS (SELECT 1 FROM entry_rows p WHERE p.entry_id = l.entry_id AND p.from_edition IS NULL)`,
		`INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, removed, changed_at)
			SELECT site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, '', withdrawn, true, now() FROM entry_rows l
			WHERE to_edition IS NULL AND from_edition IS NOT NULL AND kind = 'page' AND NOT EXISTS (SELECT 1 FROM entry_rows p WHERE p.from_edition IS NULL AND p.entry_id = l.entry_id)
			AND NOT EXISTS (SELECT 1 FROM entry_rows p WHERE p.to_edition IS NULL AND p.parent_id = l.entry_id) ORDER BY md5(entry_id || $1) LIMIT 1`,
		`UPDATE entry_rows SET title = left(title, 60) || ' ' || left(md5($1), 3) WHERE id = (SELECT id FROM entry_rows WHERE from_edition IS NULL AND NOT removed ORDER BY md5(id || $1) LIMIT 1)`,
		`DELETE FROM entry_rows p WHERE id = (SELECT id FROM entry_rows p WHERE from_edition IS NULL AND NOT removed AND notes <> '' AND EXISTS (SELECT 1 FROM entry_rows l WHERE l.entry_id = p.entry_id AND l.to_edition IS NULL AND l.from_edition IS NOT NULL AND l.slug = p.slug AND l.parent_id = p.parent_id) ORDER BY md5(id || $1) LIMIT 1)`,
	},
	"acts": {`UPDATE acts SET label = label || '.', undone_at = undone_at WHERE id = (SELECT id FROM acts ORDER BY md5(id || $1) LIMIT 1)`},
	"decisions": {
		`INSERT INTO decisions (site_id, entry_id, to_entry, to_address, to_url, to_suffix, code, note, review, person_id, says) SELECT site_id, entry_id, '', '', '', '', 410, $1, '', ` + anybody + `, '' FROM entry_rows WHERE from_edition IS NULL AND removed ORDER BY entry_id LIMIT 1 ON CONFLICT DO NOTHING`,
		`UPDATE decisions SET says = $1`,
		`DELETE FROM decisions WHERE $1 <> ''`,
	},
	"left_out":          {`INSERT INTO left_out (site_id, entry_id, aspect) SELECT site_id, entry_id, 'title' FROM entry_rows WHERE from_edition IS NULL ORDER BY md5(entry_id || $1) LIMIT 1 ON CONFLICT DO NOTHING`, `DELETE FROM left_out WHERE $1 <> ''`},
	"planned_redirects": {`INSERT INTO planned_redirects (site_id, from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, origin, person_id, at, says) VALUES (` + site + `, '/zz-' || md5($1), 'exact', ` + livePage + `, '', '', '', 302, '', '', 'by hand', ` + anybody + `, now(), '')`, `UPDATE planned_redirects SET to_entry = ` + livePage, `DELETE FROM planned_redirects WHERE $1 <> ''`},
	"releases":          {`INSERT INTO releases (site_id, address, why, person_id, at) SELECT site_id, address, $1, ` + anybody + `, now() FROM addresses WHERE address NOT IN (SELECT address FROM releases) ORDER BY md5(address || $1) LIMIT 1`, `DELETE FROM releases WHERE edition IS NULL AND $1 <> ''`},
	"deleted_entries":   {`WITH e AS (INSERT INTO entries (site_id, id) VALUES (` + site + `, 'zz-' || md5($1)) RETURNING site_id, id) INSERT INTO deleted_entries (site_id, entry_id, person_id, at) SELECT site_id, id, ` + anybody + `, now() FROM e`},
	"page_spans":        {`DELETE FROM page_spans WHERE from_edition IS NULL AND version_id = ` + aDraft},
	"page_versions": {
		`UPDATE page_versions SET version = version + 1, changed_at = changed_at + interval '1 hour', report = jsonb_set(report, '{template}', '"topic"') WHERE id = ` + aDraft,
		`UPDATE page_versions SET body = '' WHERE id = ` + aDraft,
	},
	"page_links": {
		savedOne + `INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile, follows) SELECT id, 99, ` + site + `, 'page:' || ` + livePage + `, ` + livePage + `, 'zz', false, false FROM saved ON CONFLICT DO NOTHING`,
		savedAll + `UPDATE page_links SET words = left(md5($1), 6) WHERE version_id IN (SELECT id FROM saved)`,
		savedAll + `DELETE FROM page_links WHERE version_id IN (SELECT id FROM saved) AND $1 <> ''`,
	},
	"page_pictures":   {savedOne + `INSERT INTO page_pictures (version_id, picture_id, site_id) SELECT saved.id, f.id, f.site_id FROM saved, (SELECT id, site_id FROM files ORDER BY md5(id || $1) LIMIT 1) f ON CONFLICT DO NOTHING`, savedAll + `DELETE FROM page_pictures WHERE version_id IN (SELECT id FROM saved) AND $1 <> ''`},
	"template_drafts": {`INSERT INTO template_drafts (site_id, person_id, key, page, base, version, changed_at) VALUES (` + site + `, ` + anybody + `, 'zz-' || left(md5($1), 4), '{}', '', 1, now())`, `DELETE FROM template_drafts WHERE $1 <> ''`},
	"shape_rows": {
		`INSERT INTO shape_rows (site_id, shape_id, shape, removed, changed_at) SELECT site_id, shape_id, jsonb_set(shape, '{title}', to_jsonb(left(md5($1), 5))), false, now() FROM shape_rows l WHERE to_edition IS NULL AND from_edition IS NOT NULL AND shape_id NOT IN (SELECT shape_id FROM shape_rows WHERE from_edition IS NULL) ORDER BY md5(shape_id || $1) LIMIT 1`,
		`DELETE FROM shape_rows WHERE from_edition IS NULL AND $1 <> ''`,
		`INSERT INTO shape_rows (site_id, shape_id, shape, removed, changed_at) SELECT id, 'menu:top', '{"menu": {"levels": -1}}', false, now() FROM sites WHERE $1 <> '' ON CONFLICT DO NOTHING`,
	},
	"authors":     {`INSERT INTO authors (site_id, change_id, aspect, person_id, at) SELECT site_id, entry_id, 'title', (SELECT id FROM people ORDER BY md5(login || $1) LIMIT 1), now() FROM entry_rows WHERE from_edition IS NULL ORDER BY md5(entry_id || $1) LIMIT 1`},
	"branch_asks": {`INSERT INTO branch_asks (site_id, entry_id, asks) VALUES (` + site + `, ` + livePage + `, 'four eyes') ON CONFLICT DO NOTHING`, `DELETE FROM branch_asks WHERE $1 <> ''`},
	"change_states": {
		`INSERT INTO change_states (site_id, change_id, aspect, state, stamp, person_id, at, word) SELECT site_id, entry_id, 'content', 'ready', $1, ` + anybody + `, now(), '' FROM page_spans WHERE from_edition IS NULL ORDER BY md5(entry_id || $1) LIMIT 1 ON CONFLICT DO NOTHING`,
		`UPDATE change_states SET word = $1`,
		`DELETE FROM change_states WHERE $1 <> ''`,
	},
	"freezes":         {`INSERT INTO freezes (id, site_id, begins, ends, why, person_id) VALUES (gen_random_uuid(), ` + site + `, '2026-11-01', '2026-12-24', $1, ` + anybody + `)`, `DELETE FROM freezes WHERE $1 <> ''`},
	"reviews":         {`INSERT INTO reviews (id, site_id, person_id, message, at, overdue_told, reviewer_role) VALUES (gen_random_uuid(), ` + site + `, ` + anybody + `, $1, now(), false, '')`, `UPDATE reviews SET message = $1`},
	"review_informed": {`INSERT INTO review_informed (review_id, person_id) SELECT r.id, p.id FROM reviews r, people p ORDER BY md5(r.id || p.login || $1) LIMIT 1 ON CONFLICT DO NOTHING`, `DELETE FROM review_informed WHERE $1 <> ''`},
	"withdrawals":     {`INSERT INTO withdrawals (site_id, entry_id, go_at, zone, goes_to, says, person_id) VALUES (` + site + `, ` + livePage + `, '2027-01-01', 'UTC', '', '', ` + anybody + `) ON CONFLICT DO NOTHING`, `DELETE FROM withdrawals WHERE $1 <> ''`},
	"people":          {`UPDATE people SET name = name || '.' WHERE login = (SELECT login FROM people ORDER BY md5(login || $1) LIMIT 1)`},
	"files":           {`UPDATE files SET name = left(md5($1), 4) || name WHERE id = (SELECT id FROM files ORDER BY md5(id || $1) LIMIT 1)`, `INSERT INTO files (site_id, id, name, type, data, at, bytes, width, height, sizes, given) VALUES (` + site + `, left(md5($1), 12), 'zz.txt', 'text/plain', 'x', now(), 1, 0, 0, '{}', 'zz.txt')`},
	"editions":        nil, // see publish
	"older_addresses": {`INSERT INTO older_addresses (site_id, host, address, title, visits, said, at) SELECT site_id, host, '/zz/' || md5($1), 'Compost', 7, '', now() FROM older_addresses LIMIT 1`, `UPDATE older_addresses SET visits = visits + 1 WHERE address = (SELECT address FROM older_addresses ORDER BY md5(address || $1) LIMIT 1)`, `DELETE FROM older_addresses WHERE address = (SELECT address FROM older_addresses ORDER BY md5(address || $1) LIMIT 1)`},
}

// What an instance caches is what a new one works out, whatever was written to any table since: every
// write of every table, in an order of chance.
func TestCachesFollowEveryTable(t *testing.T) {
	d := over(t, kit.Pool(t, true))
	all, err := d.Everyone(t.Context())
	require.NoError(t, err)
	marta := all[slices.IndexFunc(all, func(p plan.Person) bool { return p.Login == "marta" })]
	var tables int
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(*) FROM information_schema.triggers WHERE trigger_name = 'work_touched' AND event_manipulation = 'INSERT'`).Scan(&tables))
	require.Len(t, writes, tables, "a table without a write")
	type write struct{ table, sql string }
	var order []write
	for table, list := range writes {
		for _, sql := range list {
			order = append(order, write{table, sql})
		}
	}
	slices.SortFunc(order, func(a, b write) int { return strings.Compare(a.table+a.sql, b.table+b.sql) })
	rnd := rand.New(rand.NewPCG(28, 1))
	rnd.Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
	turn := map[string]int{} // those of one table in their order: what comes, is changed, goes
	for i, w := range order {
		order[i].sql = writes[w.table][turn[w.table]]
		turn[w.table]++
	}
	order = append(order, write{"editions", ""}) // after which little is planned
	tries := map[string]int{}
	seen(t, d, marta, "page_links")
	for i := 0; i < len(order); i++ {
		w := order[i]
		if w.sql == "" {
			publishAll(t, d, marta)
		} else {
			done, err := d.pool.Exec(t.Context(), w.sql, fmt.Sprint("seed ", i))
			require.NoError(t, err, "%s: %s", w.table, w.sql)
			if done.RowsAffected() == 0 { // what it changes or takes away has to come first
				tries[w.sql]++
				require.Less(t, tries[w.sql], 20, "wrote nothing: %s", w.sql)
				order = slices.Insert(order, len(order)-1, w)
				continue
			}
		}
		now := seen(t, d, marta, w.table)
		cached := d.App
		d.restart()
		afresh := seen(t, d, marta, w.table)
		d.App = cached
		for k := range afresh {
			require.Equal(t, afresh[k], now[k], "%s after %s: %s", k, w.table, w.sql)
		}
	}
}

func publishAll(t *testing.T, d *desk, who plan.Person) {
	_, err := d.pool.Exec(t.Context(), `DELETE FROM freezes`)
	require.NoError(t, err)
	n, err := d.DeselectErrors(t.Context(), who)
	require.NoError(t, err, n)
	_, err = d.Publish(t.Context(), who, editions.PublishAsk{Key: plan.NewID(), Why: "all", Changes: editions.Select{Own: true}})
	require.NoError(t, err)
}

// seen is everything that is worked out with the help of caches, in words, after a table was written to.
func seen(t *testing.T, d *desk, who plan.Person, after string) map[string]string {
	out := map[string]string{}
	put := func(name string, v any, err error) {
		t.Helper()
		if err != nil {
			v = err.Error()
		}
		var b strings.Builder
		spell(&b, reflect.ValueOf(v), 0)
		out[name] = b.String()
	}
	ctx := t.Context()
	o, err := d.Summary(ctx, who)
	put("next edition", o.Next, err)
	trees, _, err := d.Planned(ctx, who)
	put("trees", trees, err)
	own, err := d.LookOwn(ctx, who, nil)
	put("selection", own, err)
	proof, err := d.ProofOfNext(ctx, who)
	put("proof", proof, err)
	found, err := d.Checks(ctx, who)
	put("checks", found, err)
	outline, err := d.Outline(ctx)
	put("outline", outline, err)
	reached, err := d.Reach(ctx, who, false)
	put("reach", reached.Summary, err)
	for i := range trees.Next.Len() {
		if i%9 == 0 || after == "page_links" { // which writes lead to pages of chance
			way, err := d.WayTo(ctx, who, trees.Next.Ref(i).ID)
			put(fmt.Sprint("way to ", i), way, err)
		}
	}
	queue, err := d.Queue(ctx, who)
	put("queue", queue.Items, err)
	hosts, err := d.OlderHosts(ctx, who)
	put("old sites", hosts, err)
	old, err := d.Older(ctx, who, "")
	put("old site", old, err)
	similar, err := d.Similar(ctx, who)
	put("similar", similar.Working, err)
	tested, _, err := d.TestAddresses(ctx, who, []string{"/", "/zz", "/contact", "/visit"})
	put("addresses", tested, err)
	for _, live := range []bool{true, false} {
		p, err := d.Preview(ctx, who, reading.PreviewAsk{Live: live, At: "/"})
		put(fmt.Sprint("preview ", live), p.Body, err)
	}
	return out
}

// spell writes a value in words: what is exported of it, with trees and tables of redirects written out.
func spell(b *strings.Builder, v reflect.Value, depth int) {
	if !v.IsValid() || depth > 12 {
		return
	}
	if v.CanInterface() {
		switch x := v.Interface().(type) {
		case *sitemap.Tree:
			if x == nil {
				return
			}
			for i := range x.Len() {
				fmt.Fprintf(b, "%d %+v %s %s\n", i, *x.Ref(i), x.Address(i), x.Served(i))
			}
			return
		case *redirect.Table:
			if x != nil {
				fmt.Fprintf(b, "%+v\n", x.Rows())
			}
			return
		case fmt.Stringer:
			if v.Kind() != reflect.Pointer || !v.IsNil() {
				fmt.Fprintf(b, "%s\n", x)
			}
			return
		}
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		spell(b, v.Elem(), depth+1)
	case reflect.Struct:
		for i := range v.NumField() {
			if f := v.Type().Field(i); f.IsExported() {
				fmt.Fprintf(b, "%s:", f.Name)
				spell(b, v.Field(i), depth+1)
			}
		}
	case reflect.Slice, reflect.Array:
		fmt.Fprintf(b, "%d[", v.Len())
		for i := range v.Len() {
			spell(b, v.Index(i), depth+1)
		}
		b.WriteString("]\n")
	case reflect.Map:
		keys := v.MapKeys()
		slices.SortFunc(keys, func(a, b reflect.Value) int { return strings.Compare(fmt.Sprint(a), fmt.Sprint(b)) })
		for _, k := range keys {
			fmt.Fprintf(b, "%v=", k)
			spell(b, v.MapIndex(k), depth+1)
		}
	case reflect.Func, reflect.Chan, reflect.UnsafePointer, reflect.Uintptr:
	default:
		fmt.Fprintf(b, "%v ", v)
	}
}
