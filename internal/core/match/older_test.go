package match_test

import (
	"encoding/csv"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// The older site of the demo, whose answers are known: what is accepted is right for at least 98
// of 100, and the right page is among three for at least 90.
func TestOlderSite(t *testing.T) {
	s := demoSitemap(t)
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

func demoSitemap(t *testing.T) *sheet.Sheet {
	t.Helper()
	var records []sheet.Record
	for i, cells := range allOf(t, "../../../demo/sitemap.csv") {
		records = append(records, sheet.Record{Line: i + 1, Cells: cells})
	}
	s, err := sheet.Read(records)
	require.NoError(t, err)
	return s
}

func csvOf(t *testing.T, name string) [][]string {
	t.Helper()
	return allOf(t, name)[1:]
}

func allOf(t *testing.T, name string) [][]string {
	t.Helper()
	f, err := os.Open(name)
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	return rows
}

// A decided address raises the pages near its page for its siblings; text that came along finds
// a page whose title tells nothing.
func TestOlderSiteLearns(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "tea", Title: "Tea room", Slug: "tea-room", Kind: sitemap.Page},
		{ID: "menu", Title: "Menu", Slug: "menu", Parent: "tea", Kind: sitemap.Page},
		{ID: "cups", Title: "Cups", Slug: "cups", Parent: "tea", Kind: sitemap.Page},
		{ID: "rota1", Title: "Rota", Slug: "rota", Parent: "tea", Kind: sitemap.Page},
		{ID: "shop", Title: "Shop", Slug: "shop", Kind: sitemap.Page},
		{ID: "rota2", Title: "Rota", Slug: "rota", Parent: "shop", Kind: sitemap.Page},
		{ID: "from", Title: "Moths", Slug: "moths", Kind: sitemap.Carried, Source: "http://staff.quillmere.example/Bugs.htm?id=2"},
	})
	require.NoError(t, err)
	said := map[string]string{"menu": "Soup of the day with bread, scones with jam, a pot of tea for two", "cups": "Where cups are washed and stacked after closing"}
	o := match.NewOlder(tree, func(id string) string { return said[id] })
	list := []match.Old{
		{Address: "/kitchen/a", Title: "Menu"},
		{Address: "/kitchen/b", Title: "Cups"},
		{Address: "/kitchen/c", Title: "Rota"},
		{Address: "/kitchen"},
		{Address: "/x17", Text: "Scones with jam, soup of the day, bread, tea for two in a pot"},
		{Address: "/bugs.htm?id=2"},
		{Address: "/zzz"},
	}
	before := o.Match(list)
	list[0].To, list[1].To = "menu", "cups"
	after := o.Match(list)
	best := func(m match.Matched) (ids []string) {
		for _, c := range m.Best {
			ids = append(ids, tree.Ref(c.Page).ID)
		}
		return ids
	}
	require.ElementsMatch(t, []string{"rota1", "rota2"}, best(before[2])[:2])
	require.Equal(t, "rota1", best(after[2])[0])
	require.Greater(t, after[2].Best[0].Score, after[2].Best[1].Score)
	require.Equal(t, "tea", best(after[3])[0], "the page above those to which the folder leads")
	require.Equal(t, "menu", best(after[4])[0])
	require.Equal(t, []string{"from"}, best(after[5]))
	require.Equal(t, match.Accept, after[5].Decision)
	require.Equal(t, match.None, after[6].Decision)
	require.Equal(t, after, o.Match(list), "always the same")
}

// What one rule for a folder would do.
func TestFolderRule(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{{ID: "a", Title: "Tea", Slug: "tea", Kind: sitemap.Page}, {ID: "b", Title: "Cups", Slug: "cups", Parent: "a", Kind: sitemap.Page}, {ID: "c", Title: "Shop", Slug: "shop", Kind: sitemap.Page}})
	require.NoError(t, err)
	var lines []match.Line
	for _, a := range []string{"/old", "/old/cups", "/old/x", "/old/y", "/older"} {
		lines = append(lines, match.Line{Old: match.Old{Address: a}})
	}
	states := []match.State{match.Led, match.Open, match.Clear, match.Far, match.Open}
	found := make([]match.Matched, 5)
	found[2].Best = []match.Candidate{{Page: 2, Score: 1}}
	to := []int{1, sitemap.None, sitemap.None, sitemap.None, sitemap.None}
	dir := match.FolderOf(lines, "/old/x")
	require.Equal(t, "/old/", dir)
	require.Equal(t, match.Rule{Folder: "/old", Page: 0, Below: 4, Decided: 1, Agree: 1, Answers: 3, Differs: []int{2}}, match.FolderRule(tree, lines, states, found, to, dir, 0, false))
	require.Equal(t, match.Rule{Folder: "/old", Page: 0, Prefix: true, Below: 4, Decided: 1, Agree: 1, Answers: 1}, match.FolderRule(tree, lines, states, found, to, dir, 0, true))
}
