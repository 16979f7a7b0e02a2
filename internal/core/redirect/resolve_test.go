package redirect_test

import (
	"testing"

	"candlepath/internal/core/redirect"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

func pages(t testing.TB, addresses ...string) *sitemap.Tree {
	s, err := sheet.ReadAddresses(addresses)
	require.NoError(t, err)
	return s.Tree
}

func row(from, to string, code int, m redirect.Match) redirect.Row {
	r := redirect.Row{From: from, Code: code, Match: m}
	if to != "" {
		r.To, _ = redirect.ParseTo(to, nil)
	}
	return r
}

// The order of the package comment, case by case.
func TestResolve(t *testing.T) {
	table, err := redirect.NewTable([]redirect.Row{
		row("/old", "/new", 301, redirect.Prefix), row("/old/gone", "", 410, redirect.Exact), row("/old/deep", "/new/b", 302, redirect.Branch),
		row("/page.php?id=1&x=2", "/new/a#top", 301, redirect.Exact), row("/page.php", "/new", 302, redirect.Exact),
		row("/first", "/old", 302, redirect.Prefix), row("/away", "https://weather.quillmere.example/w?u=1", 307, redirect.Prefix),
		row("/new/a", "/nowhere", 301, redirect.Exact),
	}, pages(t, "/", "/new", "/new/a", "/new/b"))
	require.NoError(t, err)
	for request, want := range map[string]struct {
		code     int
		location string
		by       redirect.By
	}{
		"/New//a/":           {200, "", redirect.ByPage},
		"/old/a?q=1":         {301, "/new/a?q=1", redirect.ByPrefix},
		"/old":               {301, "/new", redirect.ByPrefix},
		"/old/none":          {404, "", redirect.ByNone},
		"/old/gone":          {410, "", redirect.ByExact},
		"/old/deep/er":       {302, "/new/b", redirect.ByBranch},
		"/page.php?x=2&id=1": {301, "/new/a#top", redirect.ByExact},
		"/page.php?x=3":      {302, "/new?x=3", redirect.ByExact},
		"/first/a":           {302, "/new/a", redirect.ByPrefix},
		"/away/x?b=2":        {307, "https://weather.quillmere.example/w/x?u=1&b=2", redirect.ByPrefix},
		"/older":             {404, "", redirect.ByNone},
		"/%00":               {404, "", redirect.ByNone},
	} {
		got := table.Resolve(request)
		require.Equal(t, want.code, got.Code, request)
		require.Equal(t, want.location, got.Location, request)
		require.Equal(t, want.by, got.By, request)
	}
}

func TestTablesThatContradictThemselves(t *testing.T) {
	tree := pages(t, "/", "/a")
	_, err := redirect.NewTable([]redirect.Row{row("/x", "/a", 301, redirect.Exact), row("/x", "/", 301, redirect.Exact)}, tree)
	require.ErrorIs(t, err, redirect.ErrTable)
	_, err = redirect.NewTable([]redirect.Row{row("/x", "/a", 301, redirect.Exact), row("/x", "/", 301, redirect.Prefix)}, tree)
	require.NoError(t, err, "one exact and one other may share a from")
	_, err = redirect.Plan(redirect.Input{Live: tree, Next: tree, Table: []redirect.Row{row("/x", "/y", 301, redirect.Exact), row("/y", "/x", 301, redirect.Exact)}})
	require.ErrorIs(t, err, redirect.ErrTable)
	rules := map[string]bool{}
	for _, f := range redirect.Check([]redirect.Row{
		row("/x", "/y", 301, redirect.Exact), row("/y", "/x", 301, redirect.Exact), row("/z", "/q", 301, redirect.Exact), row("/q", "/a", 301, redirect.Exact),
		row("/a", "/", 301, redirect.Exact), row("/m", "/none", 301, redirect.Exact), row("/m", "/", 301, redirect.Exact),
	}, tree) {
		rules[string(f.Rule)] = true
	}
	require.Equal(t, map[string]bool{"redirect-loop": true, "redirect-chain": true, "hidden-by-page": true, "target-missing": true, "two-of-a-kind": true}, rules)
}

func TestLookupOfANormalAddressDoesNotAllocate(t *testing.T) {
	table, err := redirect.NewTable([]redirect.Row{row("/old", "/new", 301, redirect.Exact)}, pages(t, "/", "/new"))
	require.NoError(t, err)
	require.Zero(t, testing.AllocsPerRun(100, func() { table.Resolve("/new") }))
}

// Rows for a host name alone are asked before the pages of the site, and only under that name.
func TestResolveUnderAHostName(t *testing.T) {
	table, err := redirect.NewTable([]redirect.Row{
		row("//staff.quillmere.example/", "/tea", 301, redirect.Exact), row("//staff.quillmere.example/new", "/tea", 301, redirect.Exact),
		row("//staff.quillmere.example/wiki", "/new", 302, redirect.Prefix), row("//staff.quillmere.example/p.php?a=1&b=2", "/new/a", 301, redirect.Exact),
		row("//wiki.quillmere.example/new", "", 410, redirect.Exact), row("/was", "/new", 301, redirect.Exact), row("/wiki/b", "/tea", 301, redirect.Exact),
	}, pages(t, "/", "/new", "/new/a", "/new/b", "/tea"))
	require.NoError(t, err)
	for request, want := range map[string]struct {
		code     int
		location string
	}{
		"/new":                                          {200, ""},
		"https://staff.quillmere.example/New/":          {301, "/tea"},
		"https://staff.quillmere.example":               {301, "/tea"},
		"HTTP://Staff.Quillmere.Example:8080/new?x=1":   {301, "/tea?x=1"},
		"https://wiki.quillmere.example/new":            {410, ""},
		"https://other.quillmere.example/new":           {200, ""},
		"https://staff.quillmere.example/new/a":         {200, ""},
		"https://staff.quillmere.example/was":           {301, "/new"},
		"https://staff.quillmere.example/wiki/a":        {302, "/new/a"},
		"https://staff.quillmere.example/wiki/b":        {302, "/new/b"}, // before the row for all names
		"https://staff.quillmere.example/wiki/c":        {404, ""},
		"https://staff.quillmere.example/p.php?b=2&a=1": {301, "/new/a"},
		"/wiki/a":                       {404, ""},
		"//staff.quillmere.example/new": {404, ""}, // a path with two slashes by mistake
		"https://staff.quillmere.example/nothing/of/that": {404, ""},
	} {
		got := table.Resolve(request)
		require.Equal(t, want.code, got.Code, request)
		require.Equal(t, want.location, got.Location, request)
		explained, steps := table.Explain(request)
		require.Equal(t, got, explained, request)
		require.True(t, steps[len(steps)-1].Ends, request)
	}
	require.Equal(t, table.Resolve("https://staff.quillmere.example/new"), table.ResolveUnder("staff.quillmere.example:443", "/new"))
	require.Equal(t, "https://staff.quillmere.example/new", redirect.WrittenFrom("//staff.quillmere.example/new"))
}

// A machine that stands for one name has what is for that name alone before what is for all.
func TestTableUnderAHostName(t *testing.T) {
	rows := []redirect.Row{
		row("//staff.quillmere.example/a", "/x", 301, redirect.Exact), row("//staff.quillmere.example/b", "/y", 301, redirect.Branch), row("//wiki.quillmere.example/a", "/z", 301, redirect.Exact),
		row("/a", "/w", 301, redirect.Exact), row("/b/c", "/w", 301, redirect.Exact), row("/d", "/w", 301, redirect.Exact),
	}
	written := func(host string) (out []string) {
		for _, r := range redirect.Under(rows, host) {
			out = append(out, r.From+" "+r.To.Address)
		}
		return out
	}
	require.Equal(t, []string{"/a /x", "/b /y", "/d /w"}, written("staff.quillmere.example"))
	require.Equal(t, []string{"/a /z", "/b/c /w", "/d /w"}, written("wiki.quillmere.example"))
	require.Equal(t, []string{"/a /w", "/b/c /w", "/d /w"}, written(""))
	compact, err := redirect.Compact(rows)
	require.NoError(t, err)
	for _, host := range []string{"staff.quillmere.example", "wiki.quillmere.example"} {
		for _, path := range []string{"/a", "/b", "/b/c", "/d"} {
			before, err := redirect.NewTable(rows, nil)
			require.NoError(t, err)
			after, err := redirect.NewTable(compact, nil)
			require.NoError(t, err)
			require.Equal(t, before.ResolveUnder(host, path).Location, after.ResolveUnder(host, path).Location, host+path)
		}
	}
}
