package redirect_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// largeGround is a site of 100,000 pages with as many redirects.
func largeGround(b *testing.B) (redirect.Ground, []string) {
	addresses, rows := []string{"/"}, make([]redirect.Row, 0, 100_000)
	for i := range 100 {
		addresses = append(addresses, fmt.Sprintf("/b%d", i))
		for j := range 1000 {
			addresses = append(addresses, fmt.Sprintf("/b%d/p%d", i, j))
			rows = append(rows, row(fmt.Sprintf("/old/%d/%d", i, j), fmt.Sprintf("/b%d/p%d", i, j), 301, redirect.Exact))
		}
	}
	tree := pages(b, addresses...)
	for i := range rows {
		rows[i].To = redirect.Target{Entry: tree.Ref(tree.PageAt(rows[i].To.Address)).ID}
		addresses = append(addresses, rows[i].From)
	}
	return redirect.Ground{Live: tree, Next: tree, Table: rows}, addresses
}

// BenchmarkProof asks for all 200,000 addresses of such a site, and then for what a renamed page
// and a redirect more can change of them; BenchmarkJudge judges a list of 10,000 redirects over it.
func BenchmarkProof(b *testing.B) {
	g, ever := largeGround(b)
	live, err := redirect.NewTable(g.Table, g.Next)
	require.NoError(b, err)
	b.Run("all", func(b *testing.B) {
		for b.Loop() {
			require.True(b, prove(live, ever).Holds())
		}
	})
	entries := g.Live.Entries()
	entries[500].Slug = "renamed"
	next, err := sitemap.New(entries)
	require.NoError(b, err)
	rows, err := redirect.Plan(redirect.Input{Live: g.Live, Next: next, Table: append(slices.Clone(g.Table), row("/more", "/b1", 301, redirect.Exact))})
	require.NoError(b, err)
	b.Run("a change", func(b *testing.B) {
		replay := redirect.NewReplay(live, ever)
		for b.Loop() {
			t, err := redirect.NewTable(rows, next)
			require.NoError(b, err)
			p := replay.Over(t, nil)
			require.True(b, p.Holds())
			require.Less(b, p.Again, 10)
		}
	})
}

func BenchmarkJudge(b *testing.B) {
	g, _ := largeGround(b)
	wishes := make([]redirect.Wish, 10_000)
	for i := range wishes {
		wishes[i] = redirect.Wish{Line: i, From: fmt.Sprintf("/new/%d", i), To: fmt.Sprintf("/old/%d/%d", i%100, i/100)}
	}
	for b.Loop() {
		got, err := g.Judge(wishes)
		require.NoError(b, err)
		require.Equal(b, redirect.New, got[9999].Verdict)
	}
}

// BenchmarkMoveAndProof plans and proves a move of 20,000 of the 100,000 pages, beside sorting the
// paths: ratio is how many times that takes. Target 4.
func BenchmarkMoveAndProof(b *testing.B) {
	g, ever := largeGround(b)
	entries := g.Live.Entries()
	for i := range entries {
		if at := g.Live.Find(entries[i].ID); g.Live.Level(at) == 2 && strings.HasPrefix(g.Live.Served(at), "/b1") { // b1 and b10 to b19, with 1,000 each
			entries[i].Slug = "moved-" + entries[i].Slug
		}
	}
	for i := range entries {
		if at := g.Live.Find(entries[i].ID); g.Live.Level(at) == 1 && strings.HasPrefix(g.Live.Served(at), "/b2") {
			entries[i].Slug = "moved-" + entries[i].Slug
		}
	}
	next, err := sitemap.New(entries)
	require.NoError(b, err)
	moved := 0
	for i := range g.Live.Len() {
		if at := g.Live.Served(i); at != next.Served(next.Find(g.Live.Ref(i).ID)) {
			moved++
		}
	}
	require.Greater(b, moved, 20_000)
	live, err := redirect.NewTable(g.Table, g.Live)
	require.NoError(b, err)
	replay := redirect.NewReplay(live, ever)
	var sorting, planning time.Duration
	for b.Loop() {
		paths := slices.Clone(ever)
		rand.Shuffle(len(paths), func(i, j int) { paths[i], paths[j] = paths[j], paths[i] })
		began := time.Now()
		slices.Sort(paths)
		sorting += time.Since(began)
		began = time.Now()
		rows, err := redirect.Plan(redirect.Input{Live: g.Live, Next: next, Table: g.Table, Index: live})
		require.NoError(b, err)
		t, err := redirect.NewTable(rows, next)
		require.NoError(b, err)
		require.True(b, replay.Over(t, nil).Holds())
		planning += time.Since(began)
	}
	b.ReportMetric(planning.Seconds()/sorting.Seconds(), "ratio")
}
