package sitemap_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/testkit"
	"candlepath/internal/web/server"
)

// BenchmarkChecks tells how long the browser takes until Checks is there.
func BenchmarkChecks(b *testing.B) {
	for _, n := range []int{10_000, 50_000} {
		for name, row := range map[string]func(i int) string{
			"mixed": func(i int) string {
				return fmt.Sprintf("%d;Eintrag %d;%s", []int{1, 2, 3, 4, 5, 3, 2, 3}[i%8], i, []string{"Gwen Hale", "", "Nobody"}[i%3])
			},
			"one-title": func(int) string { return "1;Entry;Nobody" },
			"64-levels": func(i int) string { return fmt.Sprintf("%d;Level %d;", i%sitemap.MaxLevels+1, i) },
		} {
			b.Run(fmt.Sprintf("%s/%d", name, n), func(b *testing.B) {
				site := kit.Site(b, true)
				var csv strings.Builder
				csv.WriteString("Level;Title;Owner\n")
				for i := range n {
					csv.WriteString(row(i) + "\n")
				}
				testkit.ImportFile(b, site.App, "csv", []byte(csv.String()))
				tab := browser.Open(b, site.URL)
				tab.SignIn("marta")
				var took []time.Duration
				for range 3 {
					began := time.Now()
					tab.Go("/studio/sitemap/checks")
					took = append(took, time.Since(began))
					tab.Until(`!document.querySelector("#shelf [aria-busy]")`) // what it holds comes after the screen
				}
				b.ReportMetric(float64(took[0].Milliseconds()), "ms/first")
				b.ReportMetric(testkit.Middle(took), "ms/screen")
			})
		}
	}
}

// BenchmarkPreview tells how long 150,000 rows on one level take from the file to
// the preview.
func BenchmarkPreview(b *testing.B) {
	site := kit.Site(b, true)
	who := testkit.PersonOf(b, site, "marta")
	var csv strings.Builder
	csv.WriteString("level,title\n")
	for i := range 150_000 {
		fmt.Fprintf(&csv, "1,Entry %d\n", i)
	}
	ctx := b.Context()
	id, err := site.App.KeepFile(ctx, who, "flat.csv", []byte(csv.String()))
	require.NoError(b, err)
	began := time.Now()
	require.NoError(b, site.App.ReadFile(ctx, id, server.ReadSheet))
	read := time.Since(began)
	began = time.Now()
	_, err = site.App.PreviewFile(ctx, who, id, appsitemap.ImportChoice{Mode: sheet.Below})
	require.NoError(b, err)
	b.ReportMetric(float64(read.Milliseconds()), "ms/read")
	b.ReportMetric(float64(time.Since(began).Milliseconds()), "ms/preview")
}
