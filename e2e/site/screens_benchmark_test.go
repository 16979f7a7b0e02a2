package site_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// screens are those of the studio that an editor opens in a morning.
var screens = []string{
	"/studio/sitemap", "/studio/sitemap/rows", "/studio/sitemap/map", "/studio/sitemap/map/drawing", "/studio/sitemap/compare", "/studio/sitemap/checks", "/studio/sitemap/import",
	"/studio/menus", "/studio/menus/trails", "/studio/menus/reach", "/studio/menus/findability", "/studio/pages", "/studio/removed",
	"/studio/addresses", "/studio/addresses/redirects", "/studio/edition", "/studio/edition/past", "/studio/settings", "/studio/people", "/studio/shelf", "/studio/find?q=eintrag+77",
}

// BenchmarkScreens tells how long the server takes to answer each screen and act of
// the studio, at its median, in sites of some sizes: half of the entries are live,
// and a tenth of all is planned otherwise.
func BenchmarkScreens(b *testing.B) {
	for _, n := range []int{10_000, 100_000} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			site := kit.Site(b, true)
			c := testkit.SignIn(b, site, "marta")
			c.Timeout = 5 * time.Minute
			importEntries(b, site, n)
			_, body := c.Get("/studio/sitemap/rows")
			ids := idsIn(string(body))
			require.Greater(b, len(ids), n)
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
			for _, at := range screens {
				timed(at, func(int) int { status, _ := c.Get(at); return status })
			}
			timed("/beside", func(round int) int {
				status, _ := c.Get("/studio/sitemap/beside?id=" + ids[len(ids)/2+round])
				return status
			})
			timed("/act", func(round int) int {
				status, _ := c.Act(map[string]any{"do": "retitle", "id": ids[len(ids)/2+round], "value": fmt.Sprint("Another ", round)})
				return status
			})
			timed("/frame-after-an-act", func(round int) int {
				status, _ := c.Act(map[string]any{"do": "retitle", "id": ids[len(ids)/3+round], "value": fmt.Sprint("Another ", round)})
				require.Equal(b, 200, status)
				status, _ = c.Get("/studio/settings")
				return status
			})
		})
	}
}

func importEntries(b *testing.B, site *testkit.Site, n int) {
	var csv strings.Builder
	csv.WriteString("Level;Title;Owner;Topics\n")
	for i := range n {
		fmt.Fprintf(&csv, "%d;Eintrag %d;%s;beds\n", []int{1, 2, 3, 4, 5, 6, 7, 8, 8, 7, 4, 5, 3, 4, 5, 2, 3, 4, 5, 5}[i%20], i, []string{"Gwen Hale", "Ines Barrow", ""}[i%3])
	}
	testkit.ImportFile(b, site.App, "csv", []byte(csv.String()))
}

func idsIn(rows string) (ids []string) {
	for _, part := range strings.Split(rows, `"id":"`)[1:] {
		id, _, _ := strings.Cut(part, `"`)
		ids = append(ids, id)
	}
	return ids
}
