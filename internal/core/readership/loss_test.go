package readership_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
)

func TestLosing(t *testing.T) {
	tree := func(staff, below string) *sitemap.Tree {
		tree, err := sitemap.New([]sitemap.Entry{
			{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page},
			{ID: "staff", Title: "Staff", Slug: "staff", Kind: sitemap.Page, Readership: staff},
			{ID: "pay", Parent: below, Title: "Pay", Slug: "pay", Kind: sitemap.Page},
			{ID: "slips", Parent: "pay", Title: "Slips", Slug: "slips", Kind: sitemap.Page},
			{ID: "forms", Parent: "pay", Title: "Forms", Kind: sitemap.Group},
		})
		require.NoError(t, err)
		return tree
	}
	open := readership.State{Tree: tree("", "home")}
	trail := map[string][]string{"pay": {"approver"}}
	all := func(string) bool { return true }
	for name, c := range map[string]struct {
		before, after readership.State
		of            func(string) bool
		want          readership.Loss
	}{
		"nothing":                {open, open, all, readership.Loss{}},
		"a trail":                {open, readership.State{Tree: open.Tree, Also: trail}, all, readership.Loss{Pages: 2, Anyone: 2, People: []string{"Ines Barrow"}}},
		"a trail as it was":      {readership.State{Tree: open.Tree, Also: trail}, readership.State{Tree: open.Tree, Also: trail}, all, readership.Loss{}},
		"of some":                {open, readership.State{Tree: open.Tree, Also: trail}, func(id string) bool { return id == "slips" }, readership.Loss{Pages: 1, Anyone: 1, People: []string{"Ines Barrow"}}},
		"moved below":            {readership.State{Tree: tree("editor", "home")}, readership.State{Tree: tree("editor", "staff")}, all, readership.Loss{Pages: 2, Anyone: 2, People: []string{"Anselm Friis"}}},
		"narrower than before":   {readership.State{Tree: tree("editor; approver", "staff")}, readership.State{Tree: tree("editor", "staff")}, all, readership.Loss{Pages: 3, People: []string{"Anselm Friis"}}},
		"removed is not lost":    {open, readership.State{Tree: sitemapOf(t)}, all, readership.Loss{}},
		"wider loses nothing":    {readership.State{Tree: tree("editor", "staff")}, open, all, readership.Loss{}},
		"site managers read all": {open, readership.State{Tree: tree("nobody at all", "staff")}, all, readership.Loss{Pages: 3, Anyone: 3, People: []string{"Anselm Friis", "Ines Barrow"}}},
	} {
		require.Equal(t, c.want, readership.Losing(c.before, c.after, c.of, []readership.Reader{marta, ines, anselm}), name)
	}
}

func sitemapOf(t *testing.T) *sitemap.Tree {
	tree, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}})
	require.NoError(t, err)
	return tree
}
