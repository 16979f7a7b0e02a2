package reader

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/render"
	"candlepath/web"
)

// A page of 10 KB with all menus of a site of 2,000 entries, composed to the bytes
// that are sent, beside the same page without any.
func BenchmarkPageWithMenus(b *testing.B) {
	set, err := render.Load(web.Files, "templates/layout/reader.html", "templates/screens/reader")
	require.NoError(b, err)
	list := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}}
	own := menu.Overrides{Items: map[string]menu.ItemOverride{}}
	for i := range 2_000 {
		e := sitemap.Entry{ID: fmt.Sprint("p", i), Title: fmt.Sprint("Page ", i), Slug: fmt.Sprint("page-", i), Kind: sitemap.Page}
		if i >= 10 {
			e.Parent = fmt.Sprint("p", i/10)
		}
		list = append(list, e)
		if i < 60 {
			own.Items[fmt.Sprint("+", i)] = menu.ItemOverride{Kind: menu.AnEntry, Entry: e.ID}
		}
	}
	tree, err := sitemap.Ranked(list)
	require.NoError(b, err)
	table, err := redirect.NewTable(nil, tree)
	require.NoError(b, err)
	trail := shape.Trail{Title: "Rounds", Pages: []string{"p1", "p17", "p170", "p1700", "p18"}}
	e, err := newEdition(reading.LiveSite{Tree: tree, Table: table, Shapes: shape.Set{
		shape.MenuID(menu.Foot): {Menu: &own}, shape.MenuID(menu.Top): {Menu: &menu.Overrides{Levels: 2}}, shape.MenuID(menu.Side("p1")): {Menu: &menu.Overrides{AZ: true}}, shape.TrailID("t"): {Trail: &trail},
	}}, set, nil)
	require.NoError(b, err)
	words := strings.Fields("water the trays before sun is on glass and write it down keys hang behind door of potting shed ask gwen when frost comes labels face south seeds rest dry cool dark until spring")
	var article strings.Builder
	for n := uint32(1); article.Len() < 10_000; {
		n = n*1_664_525 + 1_013_904_223 // a generator from Numerical Recipes
		article.WriteString(words[int(n>>16)%len(words)] + " ")
	}
	body := plan.LiveBody{VersionID: "v", HTML: "<p>" + article.String() + "</p>", At: time.Unix(0, 0)}
	page := tree.Find("p1700")
	composedIn := func(bare bool) time.Duration {
		begun := time.Now()
		v, err := e.public.pageView(page, body)
		require.NoError(b, err)
		if bare {
			v.snap, v.Side, v.Crumbs, v.Trails = nil, nil, nil, nil
		}
		out, err := set.Bytes("page", "layout", v)
		require.NoError(b, err)
		newComposed(out, plan.Reads{})
		return time.Since(begun)
	}
	composedIn(false)
	var with, without time.Duration
	for b.Loop() {
		for range 20 {
			with += composedIn(false)
			without += composedIn(true)
		}
	}
	b.ReportMetric(float64(with)/float64(without), "with/without")
	b.ReportMetric(float64(with.Microseconds())/float64(20*b.N), "µs/page")
}
