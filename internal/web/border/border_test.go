package border_test

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"candlepath/internal/web/border"
)

func TestText(t *testing.T) {
	for in, want := range map[string]string{
		"plain": "plain", "": "", "Überwinterung\t\n": "Überwinterung\t\n", "a\x00b": "ab", "a\x0bb\x7f": "ab", "bad \xff\xfeend": "bad end", "c1 \u0085end": "c1 end", "\uFFFD": "\uFFFD",
	} {
		require.Equal(t, want, border.Text(in), "%q", in)
	}
}

func FuzzText(f *testing.F) {
	f.Add("a\x00\xff")
	f.Fuzz(func(t *testing.T, s string) {
		clean := border.Text(s)
		if !utf8.ValidString(clean) || border.Text(clean) != clean {
			t.Fatalf("%q becomes %q", s, clean)
		}
	})
}

func TestDeepCleansWhatWasDecoded(t *testing.T) {
	type inner struct{ Name string }
	v := struct {
		Title  string
		List   []string
		Map    map[string]inner
		Nested map[string][]inner
		Ptr    *inner
		any    string
		inner
		Any any
	}{"a\x00", []string{"b\x00"}, map[string]inner{"k\x00": {"c\x00"}}, map[string][]inner{"x": {{"d\x00"}}}, &inner{"e\x00"}, "f\x00", inner{"g\x00"}, map[string]any{"k": []any{"h\x00", 1.0}}}
	border.Deep(&v)
	require.Equal(t, "a", v.Title)
	require.Equal(t, []string{"b"}, v.List)
	require.Equal(t, map[string]inner{"k": {"c"}}, v.Map)
	require.Equal(t, map[string][]inner{"x": {{"d"}}}, v.Nested)
	require.Equal(t, "e", v.Ptr.Name)
	require.Equal(t, "g", v.Name, "what is embedded is decoded into, too")
	require.Equal(t, map[string]any{"k": []any{"h", 1.0}}, v.Any)
	require.Equal(t, "f\x00", v.any, "what cannot be decoded into is left alone")
}

func TestOnlyTrustedProxiesSayWhoAsks(t *testing.T) {
	proxies, err := border.ParseProxies("10.0.0.0/8, 192.0.2.1")
	require.NoError(t, err)
	for name, c := range map[string]struct {
		remote, forwarded, proto string
		host, scheme             string
	}{
		"nobody says anything":       {"203.0.113.5:1", "", "", "203.0.113.5", ""},
		"anybody says":               {"203.0.113.5:1", "198.51.100.1", "https", "203.0.113.5", ""},
		"a proxy says":               {"10.1.2.3:1", "198.51.100.1", "https", "198.51.100.1", "https"},
		"a proxy behind a proxy":     {"192.0.2.1:1", "198.51.100.1, 10.9.9.9", "https", "198.51.100.1", "https"},
		"somebody pretends":          {"10.1.2.3:1", "127.0.0.1, 198.51.100.1", "http", "198.51.100.1", "http"},
		"what is no address":         {"10.1.2.3:1", "nonsense", "", "10.1.2.3", ""},
		"mapped into IPv6":           {"[::ffff:10.1.2.3]:1", "198.51.100.1", "", "198.51.100.1", ""},
		"only proxies, all the way":  {"10.1.2.3:1", "10.0.0.1, 10.0.0.2", "", "10.0.0.1", ""},
		"an address of IPv6 answers": {"10.1.2.3:1", "2001:db8::7", "", "2001:db8::7", ""},
	} {
		t.Run(name, func(t *testing.T) {
			r := httptest.NewRequest(http.MethodGet, "/", nil)
			r.RemoteAddr = c.remote
			if c.forwarded != "" {
				r.Header.Set("X-Forwarded-For", c.forwarded)
			}
			if c.proto != "" {
				r.Header.Set("X-Forwarded-Proto", c.proto)
			}
			proxies.Client(r)
			require.Equal(t, c.host, border.Host(r))
			require.Equal(t, c.scheme, r.Header.Get("X-Forwarded-Proto"))
		})
	}
	_, err = border.ParseProxies("10.0.0.0/8, somewhere")
	require.Error(t, err)
}

func TestQueriesAndPaths(t *testing.T) {
	r := httptest.NewRequest(http.MethodGet, "/a?q=%00bees&x=1", nil)
	border.Query(r)
	require.Equal(t, "q=bees&x=1", r.URL.RawQuery)
	r = httptest.NewRequest(http.MethodGet, "/a?q=%20bees&x", nil)
	border.Query(r)
	require.Equal(t, "q=%20bees&x", r.URL.RawQuery, "what is text stays as it was written")
	require.True(t, border.Path(httptest.NewRequest(http.MethodGet, "/%C3%BCber", nil)))
	require.False(t, border.Path(httptest.NewRequest(http.MethodGet, "/a%00", nil)))
	require.False(t, border.Path(httptest.NewRequest(http.MethodGet, "/a%FF", nil)))
	require.False(t, border.Path(httptest.NewRequest(http.MethodGet, "/a%09", nil)))
}
