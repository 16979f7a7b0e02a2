package edition_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Addresses that change are told by what takes them along: a branch that moves, a branch that
// goes, and redirects that lead elsewhere since.
func TestMovesAreGroupedByWhatTakesThemAlong(t *testing.T) {
	entry := func(id, parent, rank string) sitemap.Entry {
		return sitemap.Entry{ID: id, Title: "The " + id, Slug: id, Kind: sitemap.Page, Parent: parent, Rank: rank}
	}
	home := sitemap.Entry{ID: "home", Title: "Home", Kind: sitemap.Page, Fixed: "/"}
	live, err := sitemap.New([]sitemap.Entry{home, entry("vault", "", "a"), entry("drying", "vault", "a"), entry("tests", "vault", "b"), entry("shop", "", "b"), entry("stock", "shop", "a"), entry("science", "", "c")})
	require.NoError(t, err)
	next, err := sitemap.New([]sitemap.Entry{home, entry("science", "", "c"), entry("vault", "science", "a"), entry("drying", "vault", "a"), entry("tests", "vault", "b")})
	require.NoError(t, err)
	table := []redirect.Row{{From: "/old", To: redirect.Target{Entry: "stock"}, Code: 301, Match: redirect.Exact}, {From: "/kept", To: redirect.Target{Entry: "science"}, Code: 301, Match: redirect.Exact}}
	all := change.Diff(live, next)
	d, err := edition.Publish(edition.Live{Tree: live, Table: table}, next, change.All(all), nil, nil, nil, nil)
	require.NoError(t, err)
	var told []string
	for _, g := range edition.Moves(live, d, all) {
		told = append(told, fmt.Sprintf("%s (%s), %d to decide:", g.Title, g.Words, g.Undecided()))
		for _, m := range g.Moves {
			told = append(told, fmt.Sprintf("  %s %s %s", m.From, m.Title, m.Status))
		}
	}
	require.Equal(t, []string{
		"The shop (removed at the top, with 1 below it), 2 to decide:",
		"  /shop The shop undecided",
		"  /shop/stock The stock undecided",
		`The vault (moved from the top to "The science", with 2 below it), 0 to decide:`,
		"  /vault The vault added",
		"  /vault/drying The drying added",
		"  /vault/tests The tests added",
		"Redirects that were there already (what they lead to changes), 1 to decide:",
		"  /old  undecided",
	}, told)
}
