package redirect_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/redirect"
)

// prove asks a table for everything.
func prove(t *redirect.Table, addresses []string) redirect.Proof {
	return redirect.NewReplay(t, addresses).Over(t, nil)
}

func TestProof(t *testing.T) {
	table, err := redirect.NewTable([]redirect.Row{
		row("/old", "/tea", 301, redirect.Exact), row("/over", "", 410, redirect.Exact), row("/two", "/old", 301, redirect.Exact), row("/nowhere-to", "/not-there", 301, redirect.Exact),
		row("/page.php?id=1", "/tea", 301, redirect.Exact), row("/away", "https://away.quillmere.example/", 302, redirect.Branch), row("/card", "/files/00112233445566778899aabbccddeeff/card.pdf", 301, redirect.Exact),
	}, pages(t, "/", "/tea"))
	require.NoError(t, err)
	p := prove(table, []string{"/", "/tea", "/old", "/over", "/page.php?id=1", "/away/far", "/card"})
	require.True(t, p.Holds())
	require.Equal(t, redirect.Proof{Asked: 7, Pages: 2, Led: 4, Gone: 1, Longest: 1}, p)
	require.Equal(t, "7 of 7 addresses answered, longest way one hop", p.Words())
	p = prove(table, []string{"/tea", "/two", "/nowhere-to", "/lost"})
	require.False(t, p.Holds())
	require.Equal(t, []string{"/lost", "/nowhere-to", "/two"}, p.Lost, "nothing, a target that is not there, and a chain")
}

// A plan without findings is proved for all that answered before.
func TestPlansAreProved(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := newSituation(t)
		before, err := redirect.NewTable(s.table, s.live)
		require.NoError(t, err)
		plan, err := redirect.Plan(redirect.Input{Live: s.live, Next: s.next, Table: s.table, Decisions: s.decisions})
		require.NoError(t, err)
		for _, r := range plan {
			if r.Status == redirect.Dangling {
				return // it is told
			}
		}
		after, err := redirect.NewTable(plan, s.next)
		require.NoError(t, err)
		var answered []string
		for _, a := range s.addresses() {
			if prove(before, []string{a}).Holds() {
				answered = append(answered, a)
			}
		}
		require.Empty(t, prove(after, answered).Lost)
	})
}
