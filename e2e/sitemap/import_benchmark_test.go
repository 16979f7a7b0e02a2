package sitemap_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"candlepath/internal/files"
	"candlepath/internal/testkit"
)

// BenchmarkImport tells importing 20,000 rows, from the upload to the plan being written,
// beside reading the same file with the same library and beside writing what it leaves
// behind with COPY, by turns.
func BenchmarkImport(b *testing.B) {
	var plan strings.Builder
	plan.WriteString("level,title,owner,notes\n")
	for i := range 20_000 {
		fmt.Fprintf(&plan, "%d,Entry %d,Gwen Hale,row %d\n", []int{1, 2, 3, 3, 3, 2, 3, 3, 3, 3}[i%10], i, i)
	}
	sheet, err := files.ReadSitemap("plan.csv", strings.NewReader(plan.String()), files.Options{})
	require.NoError(b, err)
	var book bytes.Buffer
	require.NoError(b, files.WriteSitemap("plan.xlsx", &book, sheet.Tree, ""))
	for _, f := range []struct {
		name string
		data []byte
		read func([]byte) int
	}{
		{"csv", []byte(plan.String()), func(data []byte) int {
			rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
			require.NoError(b, err)
			return len(rows)
		}},
		{"xlsx", book.Bytes(), func(data []byte) int {
			x, err := excelize.OpenReader(bytes.NewReader(data))
			require.NoError(b, err)
			defer x.Close()
			rows, err := x.Rows("Sitemap")
			require.NoError(b, err)
			n := 0
			for rows.Next() {
				_, err := rows.Columns()
				require.NoError(b, err)
				n++
			}
			return n
		}},
	} {
		b.Run(f.name, func(b *testing.B) {
			var reading, copying, importing []time.Duration
			for range 3 {
				began := time.Now()
				require.Equal(b, 20_001, f.read(f.data))
				reading = append(reading, time.Since(began))
				site := kit.Site(b, true)
				began = time.Now()
				testkit.ImportFile(b, site.App, f.name, f.data)
				importing = append(importing, time.Since(began))
				copying = append(copying, copied(b, site))
			}
			for b.Loop() { //nolint:revive // it is timed by turns, above
			}
			b.ReportMetric(testkit.Middle(reading), "ms/read")
			b.ReportMetric(testkit.Middle(importing), "ms/import")
			b.ReportMetric(testkit.Middle(copying), "ms/COPY")
			b.ReportMetric(testkit.Middle(importing)/testkit.Middle(reading), "ratio-to-reading")
			b.ReportMetric(testkit.Middle(importing)/testkit.Middle(copying), "ratio-to-COPY")
		})
	}
}

// copied tells how long it takes to write what an import left behind into the same tables
// of another database, with COPY.
func copied(b *testing.B, from *testkit.Site) time.Duration {
	ctx := b.Context()
	source, err := from.Pool.Acquire(ctx)
	require.NoError(b, err)
	defer source.Release()
	pool := kit.Pool(b, true)
	to, err := pool.Begin(ctx)
	require.NoError(b, err)
	defer func() { require.NoError(b, to.Rollback(ctx)) }()
	_, err = to.Exec(ctx, `DELETE FROM entry_rows WHERE from_edition IS NULL`)
	require.NoError(b, err)
	const imported = `SELECT entry_id FROM entry_rows WHERE from_edition IS NULL AND title LIKE 'Entry %'`
	var took time.Duration
	for _, t := range [][2]string{
		{"entries (id, site_id)", `SELECT id, (SELECT id FROM sites) FROM entries WHERE id IN (` + imported + `)`},
		{
			"entry_rows (site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, changed_at)",
			`SELECT site_id, entry_id, parent_id, rank, title, short, slug, slug_held, fixed, kind, target, source, template, owner, unlisted, readership, review, notes, withdrawn, changed_at
			FROM entry_rows WHERE entry_id IN (` + imported + `)`,
		},
		{"brought_ids (site_id, file_id, entry_id)", `SELECT site_id, file_id, entry_id FROM brought_ids WHERE entry_id IN (` + imported + `)`},
	} {
		var rows bytes.Buffer
		_, err := source.Conn().PgConn().CopyTo(ctx, &rows, "COPY ("+t[1]+") TO STDOUT")
		require.NoError(b, err)
		began := time.Now()
		done, err := to.Conn().PgConn().CopyFrom(ctx, &rows, "COPY "+t[0]+" FROM STDIN")
		took += time.Since(began)
		require.NoError(b, err)
		require.EqualValues(b, 20_000, done.RowsAffected())
	}
	return took
}
