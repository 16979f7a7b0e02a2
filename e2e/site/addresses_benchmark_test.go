package site_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// BenchmarkAddresses tells how long the screens of addresses take to open, at their median: with
// 100,000 redirects that are live, and an older site of 5,000 addresses, of which one is decided
// each time.
func BenchmarkAddresses(b *testing.B) {
	site := kit.Site(b, true)
	_, err := site.Pool.Exec(b.Context(), `
		INSERT INTO editions (site_id, number, published_at, person_id, why, told, act_key)
			SELECT s.id, s.edition + 1, now(), (SELECT id FROM people WHERE login = 'marta'), 'An archive', '[]', gen_random_uuid() FROM sites s;
		UPDATE sites SET edition = edition + 1, plan_version = plan_version + 1;
		INSERT INTO redirects (site_id, from_address, match, to_entry, to_address, to_url, to_suffix, code, note, review, from_edition)
		SELECT s.id, '/archive/' || n % 97 || '/s' || n % 1013 || '/page-' || n || '.html', 'exact', e.entry_id, '', '', '', 301, '', '', s.edition
		FROM sites s, generate_series(1, 100000) n, LATERAL (SELECT entry_id FROM entry_rows WHERE to_edition IS NULL AND from_edition IS NOT NULL AND kind = 'page' LIMIT 1) e;
		ANALYZE`)
	require.NoError(b, err)
	marta := testkit.SignIn(b, site, "marta")
	marta.Timeout = time.Minute
	var list strings.Builder
	list.WriteString("address,title,visits,host\n")
	for i := range 5000 {
		fmt.Fprintf(&list, "/wiki/%d/Pond_%s_%d,Ponds and %s of %d,%d,wiki.quillmere.example\n", i%61, letters(i), i, letters(i%700), i, i)
	}
	status, body := marta.AddOlder("wiki.csv", list.String())
	require.Equal(b, 303, status, body)
	for range b.N {
		for _, path := range []string{"/redirects", "/redirects?show=unused&page=500", "/redirects?q=page-777", "/older?host=wiki.quillmere.example", "/picture", "", "/decide"} {
			var took []time.Duration
			for range 3 {
				began := time.Now()
				status, _ := marta.Get("/studio/addresses" + path)
				took = append(took, time.Since(began))
				require.Equal(b, 200, status, path)
			}
			b.ReportMetric(testkit.Middle(took), "ms"+strings.NewReplacer("?", "-", "=", "-", "&", "-").Replace(path))
		}
	}
}

func letters(n int) string {
	s := ""
	for {
		s += string(rune('a' + n%26))
		if n /= 26; n == 0 {
			return s
		}
	}
}
