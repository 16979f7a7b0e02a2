package site_test

import (
	"encoding/hex"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/markup"
	"candlepath/internal/testkit"
)

// screens are those of the studio that an editor opens in a morning.
var screens = []string{
	"/studio/sitemap", "/studio/sitemap/rows", "/studio/sitemap/map", "/studio/sitemap/map/drawing", "/studio/sitemap/compare", "/studio/sitemap/checks", "/studio/sitemap/import",
	"/studio/menus", "/studio/menus/trails", "/studio/menus/reach", "/studio/menus/findability", "/studio/pages", "/studio/removed",
	"/studio/addresses", "/studio/addresses/redirects", "/studio/edition", "/studio/edition/past", "/studio/settings", "/studio/people", "/studio/shelf", "/studio/find?q=eintrag+77",
}

// BenchmarkScreens tells how long the server takes to answer each screen and act of
// the studio, at its median, in sites of some sizes: where all of it waits to be
// published, as after an import, and where it is live, with a text of 10 KB and five
// links on every page, and some changes wait.
func BenchmarkScreens(b *testing.B) {
	for _, n := range []int{10_000, 100_000} {
		for _, live := range []bool{false, true} {
			b.Run(fmt.Sprintf("%s/%d", map[bool]string{false: "planned", true: "live"}[live], n), func(b *testing.B) {
				site := kit.Site(b, true)
				importEntries(b, site, n, wide)
				if live {
					makeLive(b, site)
					writeTexts(b, site)
				}
				c := testkit.SignIn(b, site, "marta")
				c.Timeout = 5 * time.Minute
				timeScreens(b, c)
			})
		}
	}
}

func timeScreens(b *testing.B, c *testkit.Client) {
	_, body := c.Get("/studio/sitemap/rows")
	ids := idsIn(string(body))
	timed := func(name string, ask func(round int) int) {
		var took []time.Duration
		for round := range 5 {
			began := time.Now()
			status := ask(round)
			took = append(took, time.Since(began))
			require.Equal(b, 200, status, name)
		}
		b.ReportMetric(testkit.Middle(took), "ms"+strings.ReplaceAll(name, "/studio", ""))
	}
	retitle := func(id string, round int) int {
		status, _ := c.Act(map[string]any{"do": "retitle", "id": id, "value": fmt.Sprint("Another ", round)})
		return status
	}
	for _, at := range screens {
		timed(at, func(int) int { status, _ := c.Get(at); return status })
	}
	timed("/beside", func(round int) int {
		status, _ := c.Get("/studio/sitemap/beside?id=" + ids[len(ids)/2+round])
		return status
	})
	timed("/act", func(round int) int { return retitle(ids[len(ids)/2+round], round) })
	for _, at := range []string{"/studio/settings", "/studio/edition", "/studio/sitemap/rows"} {
		var acts []time.Duration
		timed(at+"-after-an-act", func(round int) int {
			began := time.Now()
			require.Equal(b, 200, retitle(ids[len(ids)/3+round], round))
			acts = append(acts, time.Since(began))
			status, _ := c.Get(at)
			return status
		})
		b.ReportMetric(testkit.Middle(acts), "ms-of-it-the-act"+strings.ReplaceAll(at, "/studio", ""))
	}
}

// makeLive makes an edition of what was imported.
func makeLive(b *testing.B, site *testkit.Site) {
	next, _, err := site.App.Export(b.Context(), testkit.PersonOf(b, site, "marta"), false)
	require.NoError(b, err)
	var rows [][]any
	for i := range next.Len() {
		if e := next.Ref(i); strings.HasPrefix(e.Title, "Eintrag ") {
			rows = append(rows, []any{e.ID, next.Address(i)})
		}
	}
	conn, err := site.Pool.Acquire(b.Context())
	require.NoError(b, err)
	defer conn.Release()
	_, err = conn.Exec(b.Context(), `CREATE TEMP TABLE fresh (entry_id text, address text)`)
	require.NoError(b, err)
	_, err = conn.CopyFrom(b.Context(), pgx.Identifier{"fresh"}, []string{"entry_id", "address"}, pgx.CopyFromRows(rows))
	require.NoError(b, err)
	_, err = conn.Exec(b.Context(), `
		INSERT INTO editions (site_id, number, published_at, person_id, why, told, act_key)
			SELECT s.id, s.edition + 1, now(), (SELECT id FROM people WHERE login = 'marta'), 'A large site', '[]', gen_random_uuid() FROM sites s;
		UPDATE sites SET edition = edition + 1, plan_version = plan_version + 1;
		UPDATE entry_rows SET slug_held = true, from_edition = (SELECT edition FROM sites) WHERE from_edition IS NULL AND entry_id IN (SELECT entry_id FROM fresh);
		INSERT INTO addresses (site_id, address, entry_id, from_edition) SELECT s.id, f.address, f.entry_id, s.edition FROM fresh f, sites s;
		DROP TABLE fresh;
		ANALYZE`)
	require.NoError(b, err)
}

// writeTexts gives every live page without a text one of 10 KB with five links.
func writeTexts(b *testing.B, site *testkit.Site) {
	var text strings.Builder
	for i := range 180 {
		fmt.Fprintf(&text, "<p>Row %d of the beds behind the glasshouse is watered every %d days.</p>\n", i*7919%1000, i*31%17)
	}
	body := markup.Zip([]byte(text.String()))
	_, err := site.Pool.Exec(b.Context(), `
		CREATE TEMP TABLE made AS SELECT gen_random_uuid() AS id, e.site_id, e.entry_id, e.template, row_number() OVER (ORDER BY e.entry_id) AS n, e.changed_at
			FROM entry_rows e WHERE e.to_edition IS NULL AND e.from_edition IS NOT NULL AND e.kind = 'page'
			AND NOT EXISTS (SELECT 1 FROM page_spans s WHERE s.site_id = e.site_id AND s.entry_id = e.entry_id);
		CREATE UNIQUE INDEX ON made (n);
		ANALYZE made;
		INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, report, excerpt, version, person_id, changed_at)
			SELECT m.id, m.site_id, m.entry_id, jsonb_build_object('slots', jsonb_build_object('main', jsonb_build_array(jsonb_build_object('type', 'text', 'text', repeat(md5(m.n::text), 312))))),
				decode('`+hex.EncodeToString(body)+`', 'hex'), '[]',
				jsonb_build_object('template', coalesce(nullif(m.template, ''), (SELECT substr(shape_id, 10) FROM shape_rows WHERE shape_id LIKE 'template:%' ORDER BY (shape -> 'template' ->> 'order')::integer LIMIT 1))), 'Bench', 1, (SELECT id FROM people ORDER BY login LIMIT 1), m.changed_at FROM made m;
		INSERT INTO page_links (version_id, place, site_id, target, to_entry, words, tile)
			SELECT m.id, k.k, m.site_id, 'page:' || t.entry_id, t.entry_id, 'there', false FROM made m CROSS JOIN unnest(ARRAY[2, 3, 5, 7, 11]) AS k(k) JOIN made t ON t.n = m.n / k.k + 1;
		INSERT INTO page_words (version_id, plain, words) SELECT id, 'bench ' || n, to_tsvector('english', 'bench ' || n) FROM made;
		INSERT INTO page_spans (site_id, entry_id, version_id, from_edition)
			SELECT m.site_id, m.entry_id, m.id, (SELECT max(number) FROM editions) FROM made m;
		DROP TABLE made;
		ANALYZE;`)
	require.NoError(b, err)
	require.NoError(b, site.Reader.Refresh(b.Context()))
}

func idsIn(rows string) (ids []string) {
	for _, part := range strings.Split(rows, `"id":"`)[1:] {
		id, _, _ := strings.Cut(part, `"`)
		ids = append(ids, id)
	}
	return ids
}
