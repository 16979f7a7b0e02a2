package menu_test

import (
	"testing"

	"candlepath/internal/core/menu"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/sitemap"
)

func TestMenusOfAPage(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page},
		{ID: "m", Parent: "g", Title: "Machines", Short: "Tools", Slug: "machines", Kind: sitemap.Page},
		{ID: "c", Parent: "m", Title: "Chipper", Slug: "chipper", Kind: sitemap.Page},
		{ID: "d", Parent: "m", Title: "Draft", Slug: "draft", Kind: sitemap.Page, Withdrawn: true},
		{ID: "x", Parent: "g", Title: "Hidden", Slug: "hidden", Kind: sitemap.Page, Unlisted: true},
		{ID: "e", Title: "For everyone", Kind: sitemap.Group},
		{ID: "r", Parent: "e", Title: "See chipper", Kind: sitemap.Reference, Target: "c"},
		{ID: "z", Title: "Empty group", Kind: sitemap.Group},
	})
	require.NoError(t, err)
	m := menu.For(tree, nil)
	page := tree.Find("c")
	top := m.Top(page)
	require.Len(t, top, 3, "home, grounds, and the group that holds something")
	require.True(t, top[1].Open)
	require.Equal(t, "/grounds/machines/chipper", top[2].Below[0].Href, "a reference shows its target's address")
	head, side := m.Side(page)
	require.Equal(t, "Grounds", head.Title)
	require.Equal(t, "Tools", side[0].Title)
	require.True(t, side[0].Below[0].Current)
	require.Len(t, side, 1, "unlisted is not shown")
	require.Len(t, side[0].Below, 1, "nor withdrawn")
	crumbs := m.Crumbs(page)
	require.Equal(t, []string{"Home", "Grounds", "Tools"}, []string{crumbs[0].Title, crumbs[1].Title, crumbs[2].Title})
	require.False(t, m.Shown(tree.Find("x")))
}
