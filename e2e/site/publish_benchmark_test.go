package site_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/web/server"
)

// BenchmarkPublish tells publishing 1,000 changed pages beside COPY of the same
// gzipped bytes, by turns on one database.
func BenchmarkPublish(b *testing.B) {
	site := kit.Site(b, true)
	ctx := b.Context()
	people, err := site.App.Everyone(ctx)
	require.NoError(b, err)
	who := people[0]
	for _, p := range people {
		if p.Login == "marta" {
			who = p
		}
	}
	var csv strings.Builder
	csv.WriteString("level,title\n1,Bench\n")
	for i := range 1000 {
		fmt.Fprintf(&csv, "2,Bench page %d\n", i)
	}
	id, err := site.App.KeepFile(ctx, who, "bench.csv", []byte(csv.String()))
	require.NoError(b, err)
	require.NoError(b, site.App.ReadFile(ctx, id, server.ReadSheet))
	_, err = site.App.PreviewFile(ctx, who, id, appsitemap.ImportChoice{Mode: sheet.Update})
	require.NoError(b, err)
	_, err = site.App.AcceptFile(ctx, who, id)
	require.NoError(b, err)
	_, err = site.Pool.Exec(ctx, "CREATE TABLE copied (body bytea); ALTER TABLE copied ALTER COLUMN body SET STORAGE EXTERNAL")
	require.NoError(b, err)
	for round := range 4 {
		chosen := writeBench(b, site.App, who, round)
		if round > 0 { // in the first, the texts were written in the seconds before
			require.Eventually(b, func() bool {
				var bare bool
				require.NoError(b, site.App.FinishDrafts(ctx))
				require.NoError(b, site.Pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM page_versions WHERE octet_length(body) = 0)`).Scan(&bare))
				return !bare
			}, time.Minute, 100*time.Millisecond)
		}
		// As on the screen: one looks at what goes out, then publishes it.
		n, err := site.App.LookAhead(ctx, who, editions.Select{})
		require.NoError(b, err)
		sel := editions.Select{Chosen: true}
		for _, c := range n.All {
			if !chosen[c.ID] {
				sel.LeaveOut = append(sel.LeaveOut, c.Key)
			}
		}
		_, err = site.App.LookAhead(ctx, who, sel)
		require.NoError(b, err)
		var bodies [][]any
		rows, err := site.Pool.Query(ctx, "SELECT body FROM page_versions v JOIN page_spans s ON s.version_id = v.id WHERE from_edition IS NULL")
		require.NoError(b, err)
		for rows.Next() {
			var body []byte
			require.NoError(b, rows.Scan(&body))
			bodies = append(bodies, []any{body})
		}
		began := time.Now()
		_, err = site.Pool.CopyFrom(ctx, pgx.Identifier{"copied"}, []string{"body"}, pgx.CopyFromRows(bodies))
		require.NoError(b, err)
		copied := time.Since(began)
		began = time.Now()
		_, err = site.App.Publish(ctx, who, editions.PublishAsk{Key: uuid.NewString(), Why: "bench", Changes: sel})
		require.NoError(b, err)
		published := time.Since(began)

		b.Logf("round %d: COPY of %d bodies %v, publish %v, ratio %.2f", round, len(bodies), copied, published, copied.Seconds()/published.Seconds())
	}
}

// writeBench gives every page of the benchmark a new text of some 18 KB.
func writeBench(b *testing.B, a *app.App, who plan.Person, round int) map[string]bool {
	b.Helper()
	ctx := b.Context()
	t, _, err := a.Export(ctx, who, false)
	require.NoError(b, err)
	out := map[string]bool{}
	const window = "0d9f2f5e-0000-4000-8000-000000000001"
	for i := range t.Len() {
		e := t.At(i)
		if !strings.HasPrefix(e.Title, "Bench") {
			continue
		}
		out[e.ID] = true
		var text strings.Builder
		for k := range 250 {
			fmt.Fprintf(&text, "Line %d of %s in round %d: %s\n\n", k, e.Title, round, uuid.NewString())
		}
		p := content.Page{Fields: map[string]string{"summary": "bench"}, Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: text.String()}}}}
		_, err := a.SavePage(ctx, who, e.ID, window, p, 0)
		require.NoError(b, err)
	}
	return out
}
