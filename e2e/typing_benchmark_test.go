package e2e_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/server"
)

// BenchmarkAdding adds 200 entries by keyboard at 10,000 entries, and tells the
// longest gap between Enter and the field of the next title.
func BenchmarkAdding(b *testing.B) {
	site := kit.Site(b, true)
	largeSite(b, signIn(b, site, "marta"))
	tab := browser.Open(b, site.URL)
	tab.SignIn("marta")
	tab.Go("/studio/sitemap?level=9")
	tab.Until("document.querySelector('.o-row.at')")
	tab.MustEval(`() => {
		window.gaps = [];
		let pressed = 0;
		addEventListener("keydown", (e) => { if (e.key === "Enter") pressed = performance.now(); }, true);
		addEventListener("focusin", (e) => { if (pressed && e.target.matches(".o-edit")) { gaps.push(performance.now() - pressed); pressed = 0; } });
	}`)
	require.NoError(b, tab.Keyboard.Type('n'))
	for n := range 200 {
		for _, r := range fmt.Sprint("Bed ", n) {
			require.NoError(b, tab.Keyboard.Type(input.Key(r)))
		}
		require.NoError(b, tab.Keyboard.Type(input.Enter))
	}
	require.NoError(b, tab.Keyboard.Type(input.Escape))
	tab.Until("!document.querySelector('.o-row.waiting')")
	require.Equal(b, 200, tab.MustEval("() => gaps.length").Int())
	b.ReportMetric(tab.MustEval("() => gaps.sort((x, y) => x - y)[100]").Num(), "ms/gap")
	b.ReportMetric(tab.MustEval("() => Math.max(...gaps)").Num(), "ms/longest-gap")
}

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
				importFile(b, site.App, "csv", []byte(csv.String()))
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
				b.ReportMetric(middle(took), "ms/screen")
			})
		}
	}
}

// BenchmarkPreview tells how long 150,000 rows on one level take from the file to
// the preview.
func BenchmarkPreview(b *testing.B) {
	site := kit.Site(b, true)
	who := person(b, site, "marta")
	var csv strings.Builder
	csv.WriteString("level,title\n")
	for i := range 150_000 {
		fmt.Fprintf(&csv, "1,Entry %d\n", i)
	}
	ctx := b.Context()
	id, err := site.App.PutFile(ctx, who, "flat.csv", []byte(csv.String()))
	require.NoError(b, err)
	began := time.Now()
	require.NoError(b, site.App.ReadFile(ctx, id, server.ReadSheet))
	read := time.Since(began)
	began = time.Now()
	_, err = site.App.PreviewFile(ctx, who, id, appsitemap.ImportChoice{Way: sitemap.Below})
	require.NoError(b, err)
	b.ReportMetric(float64(read.Milliseconds()), "ms/read")
	b.ReportMetric(float64(time.Since(began).Milliseconds()), "ms/preview")
}

// sessionOf is the token of the session of somebody signed in.
func sessionOf(t testing.TB, c *client) string {
	at, err := url.Parse(c.base)
	require.NoError(t, err)
	for _, cookie := range c.Jar.Cookies(at) {
		if cookie.Name == "candlepath" {
			return cookie.Value
		}
	}
	require.Fail(t, "no session")
	return ""
}

// BenchmarkSignedInReaders loads a page of a site in which something is not for
// everybody: without a cookie, with one that means nothing, and signed in.
func BenchmarkSignedInReaders(b *testing.B) {
	dir := b.TempDir()
	site := kit.Site(b, true)
	marta := signIn(b, site, "marta")
	hidden := entryID(b, site, "/volunteers")
	status, _ := marta.act(map[string]any{"do": "fact", "field": "readership", "id": hidden, "value": "approver"})
	require.Equal(b, 200, status)
	publishChosen(b, marta, func(key string) bool { return strings.HasSuffix(key, hidden) })
	noor := signIn(b, site, "noor")
	cookie := sessionOf(b, noor)
	scripts := map[string]string{
		"anonymous": "",
		"garbage":   "wrk.headers[\"Cookie\"] = \"candlepath=garbage\"",
		"unknown":   "wrk.headers[\"Cookie\"] = \"candlepath=" + strings.Repeat("x", 43) + "\"",
		"signed in": "wrk.headers[\"Cookie\"] = \"candlepath=" + cookie + "\"",
	}
	results := map[string][]measured{}
	for range 3 {
		for name, script := range scripts {
			results[name] = append(results[name], load(b, dir, site.URL+"/seed-vault", script))
		}
	}
	control := median(results["anonymous"])
	for name := range scripts {
		m := median(results[name])
		b.Logf("%s: %.0f/s, ratio to anonymous %.2f, p99 %v", name, m.rate, m.rate/control.rate, m.p99)
	}
}
