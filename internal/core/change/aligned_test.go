package change_test

import (
	"strings"
	"testing"

	"candlepath/internal/core/change"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

func sideBySide(from, to *sitemap.Tree) string {
	var out []string
	for _, l := range change.Aligned(from, to) {
		side := func(t *sitemap.Tree, i int) string {
			if i == sitemap.None {
				return "-"
			}
			return t.Ref(i).Title
		}
		out = append(out, side(from, l.From)+"|"+side(to, l.To))
	}
	return strings.Join(out, " ")
}

func TestAligned(t *testing.T) {
	from, err := sitemap.New([]sitemap.Entry{
		{ID: "a", Title: "a", Kind: sitemap.Page, Rank: "a"},
		{ID: "b", Title: "b", Kind: sitemap.Page, Rank: "b"},
		{ID: "c", Title: "c", Kind: sitemap.Page, Rank: "c"},
		{ID: "d", Title: "d", Kind: sitemap.Page, Rank: "d"},
	})
	require.NoError(t, err)
	empty, err := sitemap.New(nil)
	require.NoError(t, err)
	moved, err := from.Move("a", sitemap.Spot{After: "c"})
	require.NoError(t, err)
	below, err := moved.Move("d", sitemap.Spot{Parent: "b"})
	require.NoError(t, err)
	gone, err := below.Remove("c")
	require.NoError(t, err)
	for want, to := range map[string]*sitemap.Tree{
		"a|a b|b c|c d|d":         from,
		"a|- b|- c|- d|-":         empty,
		"a|- b|b c|c -|a d|d":     moved,
		"a|- b|b -|d c|c d|- -|a": below,
		"a|- b|b c|- d|d -|a":     gone,
	} {
		require.Equal(t, want, sideBySide(from, to))
	}
	require.Equal(t, "-|a -|b -|c -|d", sideBySide(empty, from))
}

// Either side, read down, is its tree; what is on one line is the same entry.
func TestAlignedHoldsBothTrees(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		from := author.Small(t, 9)
		to := from
		for range rapid.IntRange(0, 6).Draw(t, "edits") {
			to = author.Edit(t, to)
		}
		i, j, together := 0, 0, 0
		for _, l := range change.Aligned(from, to) {
			if l.From != sitemap.None {
				require.Equal(t, i, l.From)
				i++
			}
			if l.To != sitemap.None {
				require.Equal(t, j, l.To)
				j++
			}
			if l.From != sitemap.None && l.To != sitemap.None {
				require.Equal(t, from.Ref(l.From).ID, to.Ref(l.To).ID)
				together++
			}
		}
		require.Equal(t, []int{from.Len(), to.Len()}, []int{i, j})
		if len(sitemap.Patches(from, to)) == 0 {
			require.Equal(t, from.Len(), together)
		}
	})
}
