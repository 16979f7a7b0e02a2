package site_test

import (
	"fmt"
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// BenchmarkSearch tells how long a search of readers and the find box of the studio take
// in a site of 50,000 live pages with 450 words each, of a vocabulary of 20,000 of which
// some are far more frequent than others.
func BenchmarkSearch(b *testing.B) {
	site := kit.Site(b, true)
	importEntries(b, site, 50_000, deep)
	makeLive(b, site)
	writeTexts(b, site)
	_, err := site.Pool.Exec(b.Context(), `
		CREATE TEMP TABLE said AS SELECT w.version_id, string_agg('word' || (20000 ^ random())::int, ' ') AS plain
			FROM (SELECT version_id FROM page_words WHERE plain LIKE 'bench %') w CROSS JOIN generate_series(1, 450) GROUP BY w.version_id;
		UPDATE page_words w SET plain = s.plain, words = to_tsvector('english', s.plain) FROM said s WHERE s.version_id = w.version_id;
		DROP TABLE said;
		ANALYZE page_words`)
	require.NoError(b, err)
	c := testkit.SignIn(b, site, "marta")
	for _, ask := range []struct {
		name, at string
		q        func(i int) string
	}{
		{"search-common-word", "/search", func(i int) string { return fmt.Sprint("word", 1+i%5) }},
		{"search-rare-word", "/search", func(i int) string { return fmt.Sprint("word", 9000+7*i) }},
		{"search-two-common-words", "/search", func(i int) string { return fmt.Sprint("word", 40+i, " word", 300+3*i) }},
		{"search-two-words", "/search", func(i int) string { return fmt.Sprint("word", 1500+i, " word", 4000+3*i) }},
		{"search-three-words", "/search", func(i int) string { return fmt.Sprint("word", 100+i%7, " word", 1000+i, " word", 3000+i) }},
		{"find-title", "/studio/find", func(i int) string { return fmt.Sprint("eintrag ", 100+i*37) }},
		{"find-misspelt", "/studio/find", func(i int) string { return fmt.Sprint("eintrga ", 100+i*37) }},
	} {
		var took []time.Duration
		for i := range 100 {
			began := time.Now()
			status, _ := c.Get(ask.at + "?q=" + url.QueryEscape(ask.q(i)))
			took = append(took, time.Since(began))
			require.Equal(b, 200, status)
		}
		slices.Sort(took)
		b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-p50/"+ask.name)
		b.ReportMetric(float64(took[len(took)-2].Microseconds())/1000, "ms-p99/"+ask.name)
	}
}
