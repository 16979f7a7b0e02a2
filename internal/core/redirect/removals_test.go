package redirect_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Pages that go want a decision, but not those whose address another page takes, nor those that
// only move; what leads nowhere is to be decided again.
func TestRemovals(t *testing.T) {
	entry := func(id, parent, slug string) sitemap.Entry {
		return sitemap.Entry{ID: id, Title: id, Parent: parent, Slug: slug, Kind: sitemap.Page}
	}
	home := sitemap.Entry{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}
	live, err := sitemap.New([]sitemap.Entry{home, entry("tea", "", "tea"), entry("cups", "tea", "cups"), entry("shop", "", "shop"), entry("fair", "", "fair"), entry("mug", "", "mug")})
	require.NoError(t, err)
	next, err := sitemap.New([]sitemap.Entry{home, entry("tea", "", "tea"), entry("new", "", "shop"), entry("mug", "tea", "mug")})
	require.NoError(t, err)
	open := func(decisions map[string]redirect.Decision) map[string]bool {
		rows, err := redirect.Plan(redirect.Input{Live: live, Next: next, Decisions: decisions})
		require.NoError(t, err)
		out := map[string]bool{}
		for _, r := range redirect.Removals(live, next, rows, decisions) {
			out[live.Ref(r.Live).ID] = r.IsOpen()
			if live.Ref(r.Live).ID == "cups" {
				require.Equal(t, "tea", next.Ref(r.Above).ID)
			}
		}
		return out
	}
	require.Equal(t, map[string]bool{"cups": true, "fair": true}, open(nil))
	require.Equal(t, map[string]bool{"cups": false, "fair": true}, open(map[string]redirect.Decision{
		"cups": {Code: redirect.Gone}, "fair": {To: redirect.Target{Entry: "nobody"}},
	}))
}
