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
