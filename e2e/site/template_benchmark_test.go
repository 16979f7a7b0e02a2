package site_test

import (
	"context"
	"fmt"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/pages"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/shape"
	"candlepath/internal/markup"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
)

// BenchmarkTemplateChange publishes a change of a template that 5,000 pages have, beside
// rendering the same pages in a bare loop on all cores; and saves a page of 50 KB beside
// rendering it.
func BenchmarkTemplateChange(b *testing.B) {
	ctx, pool := b.Context(), kit.Pool(b, true)
	text := strings.Repeat("Water by **weight**, not by the clock: lift the pot, feel, decide.\n\n- early\n- late\n\n", 20) + "See [the grounds](/grounds) and [what is asked](/visitors).\n"
	for _, sql := range []string{
		`CREATE TABLE fresh AS SELECT i, 'bench-' || i AS id, gen_random_uuid() AS version FROM generate_series(1, 5000) AS i`,
		`INSERT INTO entries (site_id, id) SELECT s.id, f.id FROM fresh f, sites s`,
		`INSERT INTO entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, changed_at, from_edition)
			SELECT s.id, f.id, '', lpad(i::text, 6, '0') || 'x', 'Entry ' || i, '', 'entry-' || i, true, '', 'page', '', '', 'event', '', false, '', '', '', false, now(), s.edition FROM fresh f, sites s`,
		`INSERT INTO addresses (site_id, address, entry_id, from_edition) SELECT s.id, '/entry-' || i, f.id, s.edition FROM fresh f, sites s`,
		`INSERT INTO page_versions (id, site_id, entry_id, content, body, outline, report, excerpt, version, person_id, changed_at)
			SELECT f.version, s.id, f.id, jsonb_build_object('fields', jsonb_build_object('summary', 'Entry ' || i), 'slots', jsonb_build_object('main',
				jsonb_build_array(jsonb_build_object('type', 'text', 'text', '## Entry ' || i || E'\n\n' || '` + text + `')))),
				'', '[]', '{"template": "event"}', '', 1, (SELECT id FROM people ORDER BY login LIMIT 1), now() FROM fresh f, sites s`,
		`INSERT INTO page_words (version_id, plain, words) SELECT version, '', '' FROM fresh`,
		`INSERT INTO page_spans (site_id, entry_id, version_id, from_edition) SELECT s.id, f.id, f.version, s.edition FROM fresh f, sites s`,
		`ANALYZE`,
	} {
		_, err := pool.Exec(ctx, sql)
		require.NoError(b, err)
	}
	s, err := server.New(context.WithoutCancel(ctx), pool, server.Options{Log: testkit.Quiet(), Demo: true}) // which knows nothing of before
	require.NoError(b, err)
	b.Cleanup(s.Close)
	for round := range 4 { // in the first, pages were never rendered and their words are new to the search
		publishTemplate(b, &testkit.Site{Server: s, Pool: pool}, round)
	}
}

func publishTemplate(b *testing.B, site *testkit.Site, round int) {
	ctx, who := b.Context(), testkit.PersonOf(b, site, "marta")
	v, err := site.App.OpenTemplate(ctx, who, "event", "")
	require.NoError(b, err)
	t := content.FromPage(v.Draft.Page, "event", v.Template.Order)
	t.Parts = append(t.Parts[:4:4], content.Part{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: fmt.Sprintf("Ask the person in charge, %d.", round)}}})
	_, _, err = site.App.SaveTemplateDraft(ctx, who, "event", t.AsPage(), 0)
	require.NoError(b, err)
	_, err = site.App.PlanTemplate(ctx, who, pages.TemplatePlan{Key: uuid.NewString(), Template: "event"})
	require.NoError(b, err)
	layout := change.Key{ID: shape.TemplateID("event"), Aspect: change.Layout}
	n, err := site.App.LookAhead(ctx, who, editions.Select{})
	require.NoError(b, err)
	sel := editions.Select{Chosen: true}
	for _, c := range n.All {
		if c.Key != layout {
			sel.LeaveOut = append(sel.LeaveOut, c.Key)
		}
	}
	var texts []content.Page
	rows, err := site.Pool.Query(ctx, `SELECT v.content FROM page_versions v JOIN page_spans s ON s.version_id = v.id WHERE s.to_edition IS NULL AND s.from_edition IS NOT NULL AND v.report ->> 'template' = 'event'`)
	require.NoError(b, err)
	for rows.Next() {
		var p content.Page
		require.NoError(b, rows.Scan(&p))
		texts = append(texts, p)
	}
	began := time.Now()
	renderAll(b, site, t, texts)
	bare := time.Since(began)
	began = time.Now()
	_, err = site.App.Publish(ctx, who, editions.PublishAsk{Key: uuid.NewString(), Why: "bench", Changes: sel})
	require.NoError(b, err)
	published := time.Since(began)
	b.Logf("round %d, %d pages: rendered in a loop %v, published %v, ratio %.2f", round, len(texts), bare, published, published.Seconds()/bare.Seconds())
}

// renderAll renders pages on all cores, and keeps none.
func renderAll(b *testing.B, site *testkit.Site, t content.Template, texts []content.Page) {
	var all sync.WaitGroup
	work := make(chan content.Page)
	for range runtime.GOMAXPROCS(0) {
		all.Go(func() {
			for p := range work {
				if _, err := site.App.Rendered(t, p, markup.Around{Person: func(string) string { return "" }}); err != nil {
					b.Error(err)
				}
			}
		})
	}
	for _, p := range texts {
		work <- p
	}
	close(work)
	all.Wait()
}

// BenchmarkSave saves a page of 50 KB beside rendering and cleaning it.
func BenchmarkSave(b *testing.B) {
	site := kit.Site(b, true)
	ctx, who := b.Context(), testkit.PersonOf(b, site, "marta")
	entry := testkit.EntryID(b, site, "/grounds/tool-shed-rota")
	t := content.OneSlot("main")
	var saves, renders, cleaned []time.Duration
	const rounds = 30
	for i := range rounds {
		var text strings.Builder
		for k := 0; text.Len() < 50_000; k++ {
			fmt.Fprintf(&text, "Line %d in round %d: **lift** the pot, feel, decide, and write it down before you go on.\n\n", k, i)
			if k%20 == 0 {
				text.WriteString("See [the grounds](/grounds).\n\n")
			}
		}
		p := content.Page{Slots: map[string][]content.Block{"main": {{ID: "one", Type: content.Text, Text: text.String()}}}}
		began := time.Now()
		article, err := site.App.Markup.Article(t, p, markup.Around{Person: func(string) string { return "" }})
		require.NoError(b, err)
		drawn := time.Since(began)
		markup.Zip([]byte(article.HTML))
		renders = append(renders, time.Since(began))
		cleaned = append(cleaned, drawn)
		began = time.Now()
		saved, err := site.App.SavePage(ctx, who, entry, "0d9f2f5e-0000-4000-8000-000000000001", p, i)
		require.NoError(b, err)
		require.Nil(b, saved.Clash)
		saves = append(saves, time.Since(began))
	}
	saved, rendered, packed := middle(saves), middle(cleaned), middle(renders)
	b.Logf("rendered %v, and packed %v; saved %v (at first %v), ratios %.2f and %.2f",
		rendered, packed, saved, saves[0], saved.Seconds()/rendered.Seconds(), saved.Seconds()/packed.Seconds())
}

// middle gives the median of some times.
func middle(times []time.Duration) time.Duration {
	return slices.Sorted(slices.Values(times))[len(times)/2]
}
