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

// BenchmarkImport tells bringing 20,000 rows in, from the upload to the plan
// being written, beside reading the same file with the same library, by turns.
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
			var reading, importing []time.Duration
			for range 3 {
				began := time.Now()
				require.Equal(b, 20_001, f.read(f.data))
				reading = append(reading, time.Since(began))
				site := kit.Site(b, true)
				began = time.Now()
				testkit.ImportFile(b, site.App, f.name, f.data)
				importing = append(importing, time.Since(began))
			}
			for b.Loop() { //nolint:revive // it is timed by turns, above
			}
			b.ReportMetric(testkit.Middle(reading), "ms/read")
			b.ReportMetric(testkit.Middle(importing), "ms/import")
			b.ReportMetric(testkit.Middle(importing)/testkit.Middle(reading), "ratio")
		})
	}
}
