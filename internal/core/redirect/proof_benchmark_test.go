package redirect_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
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

// BenchmarkProof asks for 200,000 addresses of such a site; BenchmarkJudge judges a list of
// 10,000 redirects over it.
func BenchmarkProof(b *testing.B) {
	g, ever := largeGround(b)
	for b.Loop() {
		t, err := redirect.NewTable(g.Table, g.Next)
		require.NoError(b, err)
		require.True(b, redirect.Prove(t, ever).Holds())
	}
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
