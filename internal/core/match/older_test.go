package match_test

import (
	"encoding/csv"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

// The older site of the demo, whose answers are known: what is accepted is right for at least 98
// of 100, and the right page is among three for at least 90.
func TestOlderSite(t *testing.T) {
	f, err := os.Open("../../../demo/sitemap.csv")
	require.NoError(t, err)
	defer f.Close()
	s, err := files.ReadSitemap("sitemap.csv", f, files.Options{})
	require.NoError(t, err)
	old, answers := olderList(t)
	accepted, right, asked, among := 0, 0, 0, 0
	for k, m := range match.NewOlder(s.Tree, nil).Match(old) {
		want := answers[k]
		said := "nothing"
		if len(m.Best) > 0 {
			said = s.Tree.Served(m.Best[0].Page)
		}
		if m.Decision == match.Accept {
			accepted++
			if said == want {
				right++
			} else {
				t.Logf("accepted: %s (%s) to %s %v, not %q", old[k].Address, old[k].Title, said, m.Best, want)
			}
		}
		if want != "" {
			asked++
			if holds(s.Tree, m.Best, want) {
				among++
			} else {
				t.Logf("not among: %s (%s): %s %v, not %s", old[k].Address, old[k].Title, said, m.Best, want)
			}
		}
	}
	t.Logf("%d of %d accepted are right, %d of %d are among three", right, accepted, among, asked)
	require.GreaterOrEqual(t, accepted, len(old)/2)
	require.GreaterOrEqual(t, float64(right), 0.98*float64(accepted))
	require.GreaterOrEqual(t, float64(among), 0.90*float64(asked))
}

func holds(t *sitemap.Tree, best []match.Candidate, want string) bool {
	for _, c := range best {
		if t.Served(c.Page) == want {
			return true
		}
	}
	return false
}

func olderList(t *testing.T) (old []match.Old, answers []string) {
	t.Helper()
	list, known := csvOf(t, "../../../demo/older.csv"), csvOf(t, "testdata/older-answers.csv")
	require.Len(t, known, len(list))
	for k, r := range list {
		require.Equal(t, r[0], known[k][0])
		old = append(old, match.Old{Address: key(t, r[0]), Title: r[1]})
		answers = append(answers, known[k][1])
	}
	return old, answers
}

func key(t *testing.T, addr string) string {
	t.Helper()
	k, err := address.Options{}.Key(addr)
	require.NoError(t, err)
	return k
}

func csvOf(t *testing.T, name string) [][]string {
	t.Helper()
	f, err := os.Open(name)
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	return rows[1:]
}
