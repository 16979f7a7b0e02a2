package redirect_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
)

// A row that stands for several addresses answers made-up ones too, unless a row of the table did already.
func TestSpreads(t *testing.T) {
	row := func(from, to string, m redirect.Match) redirect.Row {
		return redirect.Row{From: from, To: redirect.Target{Address: to}, Code: 301, Match: m}
	}
	apart := []redirect.Row{row("/grounds/mulch", "/estate/mulch", redirect.Exact), row("/grounds/saws", "/estate/saws", redirect.Exact), row("/tea", "/cafe", redirect.Exact)}
	for name, c := range map[string]struct {
		given []redirect.Row
		want  int
	}{
		"nothing to combine":      {apart[2:], 0},
		"a folder is combined":    {apart, 1},
		"a prefix was a prefix":   {[]redirect.Row{row("/grounds", "/estate", redirect.Prefix)}, 0},
		"a branch was a branch":   {[]redirect.Row{row("/grounds", "/estate", redirect.Branch)}, 0},
		"a prefix covered it all": {append([]redirect.Row{row("/grounds", "/estate", redirect.Prefix)}, apart...), 0},
	} {
		compact, err := redirect.Compact(c.given)
		require.NoError(t, err)
		got, err := redirect.Spreads(c.given, compact)
		require.NoError(t, err)
		require.Equal(t, c.want, got, "%s: %v", name, compact)
	}
}
