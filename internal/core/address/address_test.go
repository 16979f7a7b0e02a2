package address_test

import (
	"cmp"
	"encoding/csv"
	"fmt"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
)

// The cases are those agreed with everyone who reads or writes our files.
func TestNormalForm(t *testing.T) {
	f, err := os.Open("testdata/normal-form.csv")
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	for _, r := range rows[1:] {
		normal, err := address.Normal(r[0])
		if r[1] == "refused" {
			require.ErrorIs(t, err, address.ErrRefused, r[0])
			continue
		}
		require.NoError(t, err, r[0])
		require.Equal(t, r[1], normal, r[0])
		require.Equal(t, r[2], address.Written(normal), r[0])
	}
}

// What stays escaped does so beside characters that ought to be escaped and are not.
func TestPathOf(t *testing.T) {
	for raw, want := range map[string]string{
		"/a%2Fb": "/a%2Fb", "/ü%2Fb": "/%C3%BC%2Fb", "/a%2Cb<": "/a%2Cb%3C", "/%c3%bc[": "/%c3%bc[", "/a b": "/a%20b", "": "", "/a'(b)^%27": "/a'(b)%5E%27",
	} {
		u, err := url.Parse("https://inside.quillmere.example" + raw)
		require.NoError(t, err)
		require.Equal(t, want, address.PathOf(u), raw)
		on, is := address.PathOn("https://inside.quillmere.example"+raw+"?x=%2F", []string{"inside.quillmere.example"})
		require.True(t, is)
		require.Equal(t, cmp.Or(want, "/")+"?x=%2F", on)
	}
}

func TestNormalTwiceEqualsOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) { checkStable(t, rapid.String().Draw(t, "path")) })
}

func FuzzNormal(f *testing.F) {
	for _, s := range []string{"/", "/a%2fb", "/%e4", "/../x/index.html", "/ͅ\u0301", "/%C3%9C%00", "/a%zz%"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) { checkStable(t, s) })
}

func checkStable(t require.TestingT, path string) {
	once, err := address.Normal(path)
	if err != nil {
		return
	}
	twice, err := address.Normal(once)
	require.NoError(t, err, "%q", once)
	require.Equal(t, once, twice)
	back, err := address.Normal(address.Written(once))
	require.NoError(t, err)
	require.Equal(t, once, back, "the written form means the same")
}

func TestNormalFormIsNotCopied(t *testing.T) {
	require.Zero(t, testing.AllocsPerRun(100, func() { _, _ = address.Normal("/visitors/opening-hours") }))
}

func TestKeyWithQuery(t *testing.T) {
	key, err := address.Options{}.Key("/Page.php?b=2&a=1&b=1#x")
	require.NoError(t, err)
	require.Equal(t, "/page.php?a=1&b=2&b=1", key)
}

func TestSlug(t *testing.T) {
	for title, want := range map[string]string{
		"Überwinterung & Schutz":              "uberwinterung-schutz",
		"Straße, Æther og Øl på łódź":         "strasse-aether-og-ol-pa-lodz",
		"  ":                                  "page",
		"注":                                   "page",
		"½ day":                               "1-2-day",
		strings.Repeat("longer ", 20):         strings.TrimSuffix(strings.Repeat("longer-", 11), "-"),
		strings.Repeat("x", 90):               strings.Repeat("x", 80),
		"Don't water: \u202eeman\u202c (yet)": "don-t-water-eman-yet",
	} {
		require.Equal(t, want, address.Slug(title), title)
	}
}

func TestUnusedKeepsWithinTheLength(t *testing.T) {
	long := address.Slug(strings.Repeat("abcd ", 20))
	got := address.Unused(long, func(s string) bool { return s == long || strings.HasSuffix(s, "-2") })
	require.True(t, strings.HasSuffix(got, "-3"), got)
	require.LessOrEqual(t, len(got), address.MaxSlug)
}

func TestReserved(t *testing.T) {
	require.True(t, address.Reserved("/studio/x"))
	require.True(t, address.Reserved("/robots.txt"))
	require.False(t, address.Reserved("/studios"))
	require.False(t, address.Reserved("/"))
}

func TestPathOn(t *testing.T) {
	p, ok := address.PathOn("https://Inside.quillmere.example/a?b=1#c", []string{"inside.quillmere.example"})
	require.True(t, ok)
	require.Equal(t, "/a?b=1#c", p)
	_, ok = address.PathOn("https://weather.quillmere.example/", []string{"inside.quillmere.example"})
	require.False(t, ok)
}

// A Namer gives what Unused gives, however often the same slug is asked for.
func TestNamerCountsOn(t *testing.T) {
	taken, plain := map[string]bool{"page-3": true}, map[string]bool{"page-3": true}
	var names address.Namer
	long := strings.Repeat("word-", 30)
	for i := range 3000 {
		slug := []string{"page", "page-3", "beds", long[:79]}[i%4]
		got := names.Unused(slug, func(s string) bool { return taken[s] })
		require.Equal(t, address.Unused(slug, func(s string) bool { return plain[s] }), got)
		require.LessOrEqual(t, len(got), address.MaxSlug)
		taken[got], plain[got] = true, true
	}
}

// An address under a host name is told from every other, and back.
func TestAddressesUnderAHostName(t *testing.T) {
	require.Equal(t, "//staff.quillmere.example/tea", address.OnHost("staff.quillmere.example", "/tea"))
	require.Equal(t, "/tea", address.OnHost("", "/tea"))
	for at, want := range map[string][3]string{
		"//staff.quillmere.example/tea?x=1": {"staff.quillmere.example", "/tea?x=1", "true"},
		"//staff.quillmere.example/":        {"staff.quillmere.example", "/", "true"},
		"/tea":                              {"", "/tea", "false"},
		"///tea":                            {"", "///tea", "false"},
		"//tea":                             {"", "//tea", "false"},
	} {
		host, rest, named := address.CutHost(at)
		require.Equal(t, want, [3]string{host, rest, fmt.Sprint(named)}, at)
	}
	for url, want := range map[string][3]string{
		"https://Staff.Quillmere.Example:8443/T%C3%AAa?x=1#y": {"staff.quillmere.example", "/T%C3%AAa?x=1#y", "true"},
		"HTTP://staff.quillmere.example":                      {"staff.quillmere.example", "/", "true"},
		"https:///tea":                                        {"", "", "false"},
		"mailto:gwen@quillmere.example":                       {"", "", "false"},
		"//staff.quillmere.example/tea":                       {"", "", "false"},
		"https://staff.quillmere.example/%zz":                 {"", "", "false"},
	} {
		host, rest, named := address.HostOf(url)
		require.Equal(t, want, [3]string{host, rest, fmt.Sprint(named)}, url)
	}
}
