package sitemap

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/consequence"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
)

func TestConfirmNamesWhatAnActDoes(t *testing.T) {
	tr := screentest.Trees(t)
	texts := func(do string, of consequence.Of, links int) (v confirmView, out string) {
		v = newConfirm(actForm{Do: do}, plan.PlanResult{ID: "g", Trees: tr, Confirm: &of, Links: links, LinkPages: 1})
		for _, p := range v.Points {
			out += fmt.Sprintf("%s: %s %s\n", p.Mark, p.Strong, p.Text)
		}
		return v, out
	}
	v, moves := texts("move", consequence.Of{FromLive: 6, Staying: 6, Redirects: 6, NewAddress: "/x", SideMenus: 1}, 14)
	require.Equal(t, "Move it", v.Confirm)
	require.Equal(t, "planned: 6 addresses change and 6 redirects are added\nfine: 14 links on 1 page follow by themselves\nfine: Top menu stays as it is\nplanned: 1 menu shows the change of place\n",
		moves)
	_, removes := texts("remove", consequence.Of{FromLive: 1, Redirects: 1, Undecided: []string{"c"}, TopAfter: []string{"Home", "Grounds"}}, 1)
	require.Equal(t, "planned: 1 page leaves the site with the next edition\nwrong: 1 address then needs a decision: where do the visitors belong?\nwrong: 1 link on 1 page leads there and has to go\nplanned: Top menu shows Home, Grounds\n", removes)
	for act := range confirmWords {
		v, _ := texts(act, consequence.Of{FromLive: 1}, 0)
		require.NotEmpty(t, v.Verb, act)
	}
}

func TestChecksAreGroupedByRule(t *testing.T) {
	tr := screentest.Trees(t)
	found := []check.Finding{{Rule: "same-title", Severity: check.Warning, ID: "p", Message: "one"}, {Rule: "same-title", Severity: check.Warning, ID: "n", Message: "two"}, {Rule: "no-source", Severity: check.Error, ID: "n", Message: "three"}}
	var v checksView
	v.fill(appsitemap.Checked{Tree: tr.Next, Found: found}, "", 1)
	require.Equal(t, "3 findings", v.Total)
	require.Len(t, v.Rows, 3)
	require.True(t, v.Rows[2].Bad)
	var chips []string
	for _, c := range v.Chips {
		chips = append(chips, c.Words+" "+c.N)
	}
	require.Equal(t, []string{"All 3", "Carried pages without a source 1", "Same title 2"}, chips)
	v = checksView{}
	v.fill(appsitemap.Checked{Tree: tr.Next, Found: found}, "no-source", 1)
	require.Len(t, v.Rows, 1)
	require.Equal(t, []part.CountView{{Words: "pages", N: "3"}, {Words: "carried page", N: "1"}, {Words: "reference", N: "1"}}, v.Kinds)
	v = checksView{}
	v.fill(appsitemap.Checked{Tree: tr.Next, Found: nil}, "", 1)
	require.Empty(t, v.Rows)
}

func TestCompareShowsWhatDiffers(t *testing.T) {
	tr := screentest.Trees(t)
	changes := change.Diff(tr.Live, tr.Next)
	c := appsitemap.Comparison{From: appsitemap.StateLive, To: appsitemap.StateNext, FromTree: tr.Live, ToTree: tr.Next, Changes: changes, Rows: change.Merged(tr.Live, tr.Next, changes), Editions: 2}
	var v compareView
	v.fill(c)
	var got []string
	for _, r := range v.Rows {
		got = append(got, fmt.Sprint(r.Level, " ", r.Title, " ", r.Mark, " ", r.Before, " ", r.After))
	}
	require.Equal(t, []string{"0 Home  / /", "1 Outdoors changed /grounds /outdoors", "2 Ponds changed /grounds/ponds /outdoors/ponds", "2 Compost gone /grounds/compost ", "2 Bog garden new  /outdoors/bog-garden"}, got)
	require.Equal(t, "Grounds", v.Rows[1].Was)
	require.Empty(t, v.Rows[3].URL)
	v = compareView{All: true}
	v.fill(c)
	require.Len(t, v.Rows, 6, "the reference, too")
	names := []string{}
	for _, o := range states(c, "2") {
		names = append(names, o.Label)
	}
	require.Equal(t, []string{"Next", "Live", "Edition 2", "Edition 1"}, names)
}

func TestTreesSideBySide(t *testing.T) {
	tr := screentest.Trees(t)
	moved, err := tr.Next.Move("p", sitemap.Spot{})
	require.NoError(t, err)
	changes := change.Diff(tr.Live, moved)
	c := appsitemap.Comparison{From: appsitemap.StateLive, To: appsitemap.StateNext, FromTree: tr.Live, ToTree: moved, Changes: changes, Rows: change.Merged(tr.Live, moved, changes), Lines: change.Aligned(tr.Live, moved)}
	var v compareView
	v.Sides = true
	v.fill(c)
	var got []string
	for _, l := range v.Lines {
		got = append(got, l.From.Title+" "+l.From.Mark+" | "+l.To.Title+" "+l.To.Mark)
	}
	require.Equal(t, []string{
		"Home  | Home ", "  | Ponds changed", "Grounds  | Outdoors changed", "Ponds moved away |  ", "Compost gone |  ", "  | Bog garden new",
	}, got)
	require.Equal(t, "5 differences", v.Total)
}

func TestPlacesAreAsManyLevelsAsFit(t *testing.T) {
	grown := func(tops, below int) *sitemap.Tree {
		entries := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "0"}}
		for i := range tops {
			top := fmt.Sprint("t", i)
			entries = append(entries, sitemap.Entry{ID: top, Title: top, Slug: top, Kind: sitemap.Page, Rank: fmt.Sprintf("%05d", i+1)})
			for j := range below {
				id := fmt.Sprint(top, ".", j)
				entries = append(entries, sitemap.Entry{ID: id, Parent: top, Title: id, Slug: id, Kind: sitemap.Page, Rank: fmt.Sprintf("%05d", j+1)})
			}
		}
		out, err := sitemap.New(entries)
		require.NoError(t, err)
		return out
	}
	for name, c := range map[string]struct {
		tops, below, want int
		chosen            string
	}{
		"all of a small site":         {tops: 3, below: 4, want: 1 + 3 + 12},
		"the tops of a wide one":      {tops: 100, below: 20, want: 1 + 100},
		"and the one chosen":          {tops: 100, below: 20, want: 1 + 100 + 1, chosen: "t7.3"},
		"the top alone when too many": {tops: placesShown + 1, want: 1},
	} {
		t.Run(name, func(t *testing.T) {
			got := places(grown(c.tops, c.below), c.chosen)
			require.Len(t, got, c.want)
			require.True(t, slices.ContainsFunc(got, func(o part.Option) bool { return o.Chosen && o.Value == c.chosen }))
		})
	}
}
