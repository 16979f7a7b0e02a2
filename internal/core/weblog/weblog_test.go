package weblog_test

import (
	"bytes"
	"cmp"
	"fmt"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
	"candlepath/internal/core/weblog"
)

const when = `[26/Nov/2026:09:12:00 +0000]`

// What a line tells, and whether it is a visit.
func TestLinesOfLogs(t *testing.T) {
	for line, want := range map[string]string{
		`192.0.2.7 - - ` + when + ` "GET /tea/menu HTTP/1.1" 200 5120`:                                                               " /tea/menu true",
		`192.0.2.7 - gwen hale ` + when + ` "GET /tea HTTP/1.1" 200 1`:                                                               " /tea true",
		`inside.quillmere.example:443 192.0.2.7 - - ` + when + ` "GET /tea?x=1 HTTP/2" 304 0 "https://a \"b\"/" "Mozilla/5.0 (X11)"`: "inside.quillmere.example /tea?x=1 true",
		`192.0.2.7 - - ` + when + ` "GET http://old.quillmere.example:8080/shop/ HTTP/1.1" 301 0 "-" "Mozilla/5.0"`:                  "old.quillmere.example /shop/ true",
		`192.0.2.7 - - ` + when + ` "GET http://old.quillmere.example HTTP/1.1" 200 0`:                                               "old.quillmere.example / true",
		`2001:db8::7 - - ` + when + ` "GET /tea HTTP/1.1" 404 12 "-" "Mozilla/5.0"`:                                                  " /tea false",
		`192.0.2.7 - - ` + when + ` "POST /tea HTTP/1.1" 200 12 "-" "Mozilla/5.0"`:                                                   " /tea false",
		`192.0.2.7 - - ` + when + ` "GET /logo.PNG?v=2 HTTP/1.1" 200 12 "-" "Mozilla/5.0"`:                                           " /logo.PNG?v=2 false",
		`192.0.2.7 - - ` + when + ` "GET /tea HTTP/1.1" 200 12 "-" "GardenBot/2.1"`:                                                  " /tea false",
		`192.0.2.7 - - ` + when + ` "GET /robots.txt HTTP/1.1" 200 12`:                                                               " /robots.txt false",
		`192.0.2.7 - - ` + when + ` "GET /robots HTTP/1.1" 200 12`:                                                                   " /robots true",
		`192.0.2.7 - - ` + when + ` "\x16\x03\x01" 400 0 "-" "-"`:                                                                    "broken",
		`192.0.2.7 - - ` + when + ` "GET /tea HTTP/1.1`:                                                                              "broken",
		`192.0.2.7 - - ` + when + ` "GET /tea HTTP/1.1" abc 1`:                                                                       "broken",
		`192.0.2.7 - - ` + when + ` "GET /t\xc3\xa4?x=\x22\"\\ HTTP/1.1" 200 1`:                                                      ` /t%c3%a4?x=%22%22%5C true`,
		`address,visits`: "broken", `[`: "broken", ``: "broken", `- - - [] "GET / HTTP/1.1" 200`: " / true",
	} {
		h, ok := weblog.Parse([]byte(line))
		got := "broken"
		if ok {
			got = fmt.Sprintf("%s %s %v", h.Host, h.Address, h.Counts())
		}
		require.Equal(t, want, got, line)
	}
}

// Whatever the lines, the counter counts as a map does, and adds up what is one in normal form.
func TestCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c, want := weblog.NewCounter(), map[string]int{}
		for range rapid.IntRange(0, 9000).Draw(t, "lines") % 9000 {
			host, at := rapid.SampledFrom([]string{"", "a.quillmere.example:80 ", "B.quillmere.example "}).Draw(t, "host"), rapid.IntRange(0, 5000).Draw(t, "at")
			form := rapid.SampledFrom([]string{"/p/%d", "/P/%d/", "//p/%d", "/p/%d/x", "/p/%d/x/", "/p/%d/x!", "/p!/%d", "/p%d?y=/2", "/%%zz%d"}).Draw(t, "form")
			c.Line([]byte(host + `192.0.2.7 - - ` + when + ` "GET ` + fmt.Sprintf(form, at) + ` HTTP/1.1" 200 1` + "\r\n"))
			name, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(host)), ":")
			var o address.Options
			if normal, err := o.Key(fmt.Sprintf(form, at)); err == nil {
				want[name+" "+normal]++
			}
		}
		got, all := map[string]int{}, slices.Collect(c.All())
		for _, v := range all {
			got[v.Host+" "+v.Address] += v.N
		}
		require.Equal(t, want, got)
		require.Len(t, all, len(got), "each once")
		require.True(t, slices.IsSortedFunc(all, func(a, b weblog.Visits) int {
			return cmp.Or(cmp.Compare(b.N, a.N), cmp.Compare(a.Address, b.Address), cmp.Compare(a.Host, b.Host))
		}))
	})
	c := weblog.NewCounter()
	for _, line := range []string{"", "nothing", `192.0.2.7 - - ` + when + ` "GET /%zz` + "\\" + ` HTTP/1.1" 200 1`, `192.0.2.7 - - ` + when + ` "GET /tea HTTP/1.1" 200 1`} {
		c.Line([]byte(line))
	}
	require.Equal(t, []int{4, 1, 2}, []int{c.Lines, c.Broken, c.First})
	require.Equal(t, []weblog.Visits{{Address: "/tea", N: 1}}, slices.Collect(c.All()))
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(`a:1 192.0.2.7 - - ` + when + ` "GET /tea?x=1 HTTP/2" 304 0 "https://a \"b\"/" "Mozilla/5.0 (X11)"`))
	f.Fuzz(func(t *testing.T, line []byte) {
		if h, ok := weblog.Parse(line); ok {
			_ = h.Counts()
			require.Equal(t, byte('/'), h.Address[0])
		}
	})
}

// BenchmarkLog counts 100 MB of a log with a million addresses.
func BenchmarkLog(b *testing.B) {
	var log strings.Builder
	for i := 0; log.Len() < 100<<20; i++ {
		fmt.Fprintf(&log, "192.0.2.%d - - %s \"GET /branch-%d/page-%d?id=%d HTTP/1.1\" 200 5120 \"-\" \"Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko)\"\n", i%250, when, i%97, i%999_983, i%7)
	}
	text := []byte(log.String())
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		runtime.GC()
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		c := weblog.NewCounter()
		for line := range bytes.Lines(text) {
			c.Line(line)
		}
		runtime.GC()
		runtime.ReadMemStats(&after)
		b.ReportMetric(float64(after.HeapAlloc-before.HeapAlloc)/1e6, "MB-kept")
		runtime.KeepAlive(c)
	}
}
