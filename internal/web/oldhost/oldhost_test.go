package oldhost_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
	"candlepath/internal/web/oldhost"
)

// Every answer is the table's own, in one hop, with the address of the site before it.
func TestAnOldHostAnswers(t *testing.T) {
	row := func(from, to string, code int, m redirect.Match) redirect.Row {
		r := redirect.Row{From: from, Code: code, Match: m}
		r.To, _ = redirect.ParseTo(to, nil)
		return r
	}
	table, err := redirect.NewTable([]redirect.Row{
		row("/tea", "/visitors/cafe#menu", 301, redirect.Exact), row("/walks", "/visitors/guided-walks", 308, redirect.Prefix), row("/fair", "", 410, redirect.Branch),
		row("/page.php?id=7", "/herbarium", 301, redirect.Exact), row("/shop", "https://shop.quillmere.example/", 302, redirect.Branch),
	}, nil)
	require.NoError(t, err)
	h := oldhost.Handler(table, "https://inside.quillmere.example/")
	for _, c := range []struct {
		method, at string
		code       int
		to         string
	}{
		{"GET", "/tea?x=1", 301, "https://inside.quillmere.example/visitors/cafe?x=1#menu"},
		{"GET", "/TEA/index.html", 301, "https://inside.quillmere.example/visitors/cafe#menu"},
		{"POST", "/walks/night", 308, "https://inside.quillmere.example/visitors/guided-walks/night"},
		{"HEAD", "/page.php?id=7", 301, "https://inside.quillmere.example/herbarium"},
		{"GET", "/walks/ü%2Fb/^", 308, "https://inside.quillmere.example/visitors/guided-walks/%C3%BC%2Fb/%5E"},
		{"GET", "/page.php?id=8", 404, ""},
		{"GET", "/fair/2019", 410, ""},
		{"GET", "/shop/mugs", 302, "https://shop.quillmere.example/"},
		{"GET", "/%00", 404, ""},
		{"GET", "//evil.quillmere.example/%2e%2e", 404, ""},
		{"GET", "/", 404, ""},
	} {
		w := httptest.NewRecorder()
		r := httptest.NewRequest(c.method, "http://old.quillmere.example"+c.at, nil)
		h.ServeHTTP(w, r)
		require.Equal(t, c.code, w.Code, c.at)
		require.Equal(t, c.to, w.Header().Get("Location"), c.at)
		require.Equal(t, "no-cache", w.Header().Get("Cache-Control"))
		if c.method == http.MethodGet && c.to == "" {
			require.True(t, strings.HasSuffix(w.Body.String(), "The site is at https://inside.quillmere.example/ now.\n"), c.at)
		}
	}
}
