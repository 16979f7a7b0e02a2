package readership_test

import (
	"testing"

	"candlepath/internal/core/readership"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
	"candlepath/internal/core/workflow"
)

var (
	marta  = readership.Reader{Name: "Marta Oduya", Login: "marta", Role: workflow.Manager}
	anselm = readership.Reader{Name: "Anselm Friis", Login: "anselm", Role: workflow.Approver}
	ines   = readership.Reader{Name: "Ines Barrow", Login: "ines", Role: workflow.Editor}
)

func TestReadershipIsInherited(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "staff", Title: "Staff", Slug: "staff", Kind: sitemap.Page, Readership: "editor; approver"},
		{ID: "pay", Parent: "staff", Title: "Pay", Slug: "pay", Kind: sitemap.Page, Readership: "marta oduya, ANSELM"},
		{ID: "slips", Parent: "pay", Title: "Slips", Slug: "slips", Kind: sitemap.Page},
		{ID: "mistyped", Title: "Mistyped", Slug: "mistyped", Kind: sitemap.Page, Readership: " ; "},
	})
	require.NoError(t, err)
	require.True(t, readership.Restricted(tree, nil))
	for reader, want := range map[readership.Reader][]string{
		{}:                      {"home"},
		{Role: workflow.Reader}: {"home"},
		ines:                    {"home", "staff"},
		anselm:                  {"home", "staff", "pay", "slips"},
		marta:                   {"home", "staff", "pay", "slips", "mistyped"},
	} {
		var got []string
		visible := readership.Visible(tree, reader, nil)
		for i := range visible.Len() {
			got = append(got, visible.At(i).ID)
			require.Equal(t, tree.Address(tree.Find(visible.At(i).ID)), visible.Address(i))
		}
		require.Equal(t, want, got, "%+v", reader)
	}
}

// A redirect to a page that a reader may not read is for them no redirect.
func TestRedirectsDoNotBetrayAPage(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "pay", Title: "Pay", Slug: "pay", Kind: sitemap.Page, Readership: "approver"},
	})
	require.NoError(t, err)
	rows := []redirect.Row{
		{From: "/salary", To: redirect.Target{Entry: "pay"}, Code: 301, Match: redirect.Exact},
		{From: "/money", To: redirect.Target{Entry: "pay"}, Code: 301, Match: redirect.Prefix},
	}
	for reader, want := range map[readership.Reader]int{ines: 404, anselm: 301} {
		table, err := redirect.NewTable(rows, readership.Visible(tree, reader, nil))
		require.NoError(t, err)
		require.Equal(t, want, table.Resolve("/salary").Code)
		require.Equal(t, want, table.Resolve("/money").Code)
	}
}

func TestVisibleHidesWholeBranchesOnly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		list := author.Small(t, 12).Entries()
		also := map[string][]string{} // by trails
		for i := range list {
			list[i].Readership = rapid.SampledFrom([]string{"", "", "editor", "approver; editor", "Anselm Friis"}).Draw(t, "readership")
			for range rapid.IntRange(0, 2).Draw(t, "trails") {
				also[list[i].ID] = append(also[list[i].ID], rapid.SampledFrom([]string{"", "editor", "reader; Ines Barrow", "approver"}).Draw(t, "trail"))
			}
		}
		tree, err := sitemap.New(list)
		require.NoError(t, err)
		visible := readership.Visible(tree, ines, also)
		for i := range tree.Len() {
			allowed := true
			for up := i; up != sitemap.None; up = tree.Parent(up) {
				allowed = allowed && ines.In(tree.Ref(up).Readership)
				for _, names := range also[tree.Ref(up).ID] {
					allowed = allowed && ines.In(names)
				}
			}
			require.Equal(t, allowed, visible.Find(tree.Ref(i).ID) != sitemap.None)
		}
		require.Same(t, tree, readership.Visible(tree, marta, also))
	})
}

func TestNarrower(t *testing.T) {
	for _, c := range []struct{ earlier, later, want string }{
		{"", "", ""},
		{"", "approver", "approver"},
		{"approver", "", "approver"},
		{"approver; editor", "editor", "editor"},
		{"editor", "approver; Editor", "Editor"},
		{"editor", "approver", "approver"},
	} {
		require.Equal(t, c.want, readership.Narrower(c.earlier, c.later), "%q then %q", c.earlier, c.later)
	}
}

func TestParse(t *testing.T) {
	known := func(n string) bool { return n == "Ines Barrow" || n == "editor" }
	for in, want := range map[string]string{"": "", "  ": "", "editor": "editor", " editor ;; Ines Barrow": "editor; Ines Barrow", "editor, Ines Barrow": "editor; Ines Barrow"} {
		got, err := readership.Parse(in, known)
		require.NoError(t, err, in)
		require.Equal(t, want, got)
	}
	for _, in := range []string{" ; ", ",", "Ines", "editor; nobody"} {
		_, err := readership.Parse(in, known)
		require.Error(t, err, in)
	}
}
