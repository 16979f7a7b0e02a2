package files_test

import (
	"bytes"
	"fmt"
	"slices"
	"testing"
	"time"

	"candlepath/internal/files"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"candlepath/internal/core/sheet"
)

// BenchmarkReadWorkbook tells reading a workbook of 20,000 rows and 8 columns, and
// understanding it as a sitemap, beside reading its rows with the same library,
// by turns.
func BenchmarkReadWorkbook(b *testing.B) {
	book := excelize.NewFile()
	defer book.Close()
	w, err := book.NewStreamWriter("Sheet1")
	require.NoError(b, err)
	require.NoError(b, w.SetRow("A1", []any{"Level 1", "Level 2", "Level 3", "Slug", "Owner", "Template", "Topics", "Notes"}))
	for i := range 20_000 {
		row := []any{nil, nil, nil, fmt.Sprint("entry-", i), "Gwen Hale", "topic", "beds; borders", fmt.Sprint("row ", i)}
		row[[]int{0, 1, 2, 2, 2, 1, 2, 2, 2, 2}[i%10]] = fmt.Sprint("Entry ", i)
		require.NoError(b, w.SetRow(fmt.Sprint("A", i+2), row))
	}
	require.NoError(b, w.Flush())
	var data bytes.Buffer
	require.NoError(b, book.Write(&data))
	bare := func() {
		x, err := excelize.OpenReader(bytes.NewReader(data.Bytes()))
		require.NoError(b, err)
		defer x.Close()
		rows, err := x.Rows("Sheet1")
		require.NoError(b, err)
		for rows.Next() {
			_, err := rows.Columns()
			require.NoError(b, err)
		}
	}
	ours := func() {
		records, _, err := files.ReadTable("plan.xlsx", bytes.NewReader(data.Bytes()), files.Options{}, sheet.UsableHeader)
		require.NoError(b, err)
		require.Len(b, records, 20_001)
	}
	understood := func() {
		s, err := files.ReadSitemap("plan.xlsx", bytes.NewReader(data.Bytes()), files.Options{})
		require.NoError(b, err)
		require.Equal(b, 20_000, s.Tree.Len())
	}
	var took [3][]time.Duration
	for b.Loop() {
		for k, f := range []func(){bare, ours, understood} {
			began := time.Now()
			f()
			took[k] = append(took[k], time.Since(began))
		}
	}
	for k := range took {
		slices.Sort(took[k])
	}
	at := func(k int) float64 { return float64(took[k][len(took[k])/2]) }
	b.ReportMetric(at(1)/at(0), "ratio/read")
	b.ReportMetric(at(2)/at(0), "ratio/understood")
}
