package site_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/testkit"
)

// sessionOf is the token of the session of somebody signed in.
func sessionOf(t testing.TB, c *testkit.Client) string {
	at, err := url.Parse(c.Base)
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
	marta := testkit.SignIn(b, site, "marta")
	hidden := testkit.EntryID(b, site, "/volunteers")
	status, _ := marta.Act(map[string]any{"do": "fact", "field": "readership", "id": hidden, "value": "approver"})
	require.Equal(b, 200, status)
	testkit.PublishChosen(b, marta, func(key string) bool { return strings.HasSuffix(key, hidden) })
	noor := testkit.SignIn(b, site, "noor")
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
