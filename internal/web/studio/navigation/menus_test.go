package navigation

import (
	"fmt"
	"net/http/httptest"
	"net/url"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

// menusOf is the menu screen of some trees, asked for with a query.
func menusOf(t *testing.T, trees plan.Trees, query url.Values) (menusView, error) {
	t.Helper()
	gin.SetMode(gin.TestMode)
	c, _ := gin.CreateTestContext(httptest.NewRecorder())
	c.Request = httptest.NewRequest("GET", "/studio/menus?"+query.Encode(), nil)
	return newMenusView(&shell.Request{Context: c}, trees, 0, []plan.Person{{Login: "noor", Name: "Noor Castell", Role: "reader"}})
}

func withMenu(tr plan.Trees, id string, own menu.Overrides) plan.Trees {
	tr.Shapes.Next = tr.Shapes.Next.With(shape.MenuID(id), &shape.Item{Menu: &own})
	return tr
}

func TestTheItemsOfAMenu(t *testing.T) {
	tr := withMenu(screentest.Trees(t), menu.Top, menu.Overrides{
		Items: map[string]menu.ItemOverride{"g": {Title: "Out of doors"}, "r": {Out: true}, "+1": {Kind: menu.Divider}, "+2": {Kind: menu.AnEntry, Entry: "c"}, "+3": {Kind: menu.Children, Entry: "g"}},
		Order: map[string][]string{"": {"g", "h", "+1"}},
	})
	v, err := menusOf(t, tr, url.Values{"item": {"r"}})
	require.NoError(t, err)
	require.True(t, v.TakenOver)
	require.Equal(t, "On every page.", v.Where)
	require.Equal(t, "3 items added, one left out, one says something else, another order", part.LowerFirst(v.Changed))
	rows := map[string]menuLine{}
	for _, l := range v.Lines {
		l.DOM = ""
		rows[l.Key] = l
	}
	require.Equal(t, menuLine{Key: "g", Level: 1, Title: "Out of doors", Address: "/outdoors", Tags: []string{"own words"}, Holds: true}, rows["g"])
	require.Equal(t, []string{"placed"}, rows["h"].Tags, "one of the two was moved")
	require.Equal(t, menuLine{Key: "+1", Level: 1, Title: "———", What: "divider"}, rows["+1"])
	require.Equal(t, menuLine{Key: "+2", Level: 1, Title: "A page that is gone", What: "added", Why: "its page is not there (any more)", Holds: true}, rows["+2"])
	require.Equal(t, "open", rows["+3"].Twist)
	require.Equal(t, "/outdoors/ponds", rows["+3/p"].Address)
	require.True(t, rows["r"].At)
	require.Contains(t, rows["r"].Why, "the page stays")

	require.Equal(t, "See ponds", v.Item.Usual)
	require.True(t, v.Item.CanLetIn && v.Item.Out && v.Item.Touched && !v.Item.Mine)
	v, err = menusOf(t, tr, url.Values{"item": {"+3"}})
	require.NoError(t, err)
	require.True(t, v.Item.Mine)
	require.Equal(t, part.Option{Value: "0", Label: "one level", Chosen: true}, v.Item.Levels[0])
	v, err = menusOf(t, tr, url.Values{"item": {"nothing"}})
	require.NoError(t, err)
	require.Equal(t, "g", v.Item.Key, "the first, where the one asked for is gone")
	_, err = menusOf(t, tr, url.Values{"menu": {"side:nowhere"}})
	require.ErrorIs(t, err, plan.ErrNotFound)
}

func TestAMenuOfNothing(t *testing.T) {
	empty, err := sitemap.New(nil)
	require.NoError(t, err)
	for _, id := range []string{menu.Top, menu.Foot} {
		v, err := menusOf(t, plan.Trees{Live: empty, Next: empty}, url.Values{"menu": {id}})
		require.NoError(t, err)
		require.Empty(t, v.Lines)
		require.Nil(t, v.Item)
		require.Len(t, v.Menus, 2)
	}
}

func TestSideMenusSayWhereTheyAre(t *testing.T) {
	tr := screentest.Trees(t)
	v, err := menusOf(t, tr, url.Values{"menu": {menu.Side("g")}})
	require.NoError(t, err)
	require.Equal(t, "On 3 pages: Outdoors and all below it.", v.Where)
	require.Equal(t, "Outdoors", v.Set.OfTitle)
	require.Equal(t, "/outdoors", v.Look.At, "the preview begins where the menu is")
	tr.Next, err = tr.Next.Remove("g")
	require.NoError(t, err)
	v, err = menusOf(t, withMenu(tr, menu.Side("g"), menu.Overrides{AZ: true}), url.Values{"menu": {menu.Side("g")}})
	require.NoError(t, err, "what was said of it can still be looked at, and given up")
	require.Contains(t, v.Where, "On no page")
}

// A long menu starts closed; what is opened is opened, and what is too much is
// counted.
func TestALongMenuIsFolded(t *testing.T) {
	list := []sitemap.Entry{{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page}, {ID: "b", Title: "Beds", Slug: "beds", Kind: sitemap.Page}}
	for i := range 2_000 {
		e := sitemap.Entry{ID: fmt.Sprint("p", i), Parent: "b", Title: fmt.Sprint("Bed ", i), Slug: fmt.Sprint("bed-", i), Kind: sitemap.Page}
		if i >= 20 {
			e.Parent = fmt.Sprint("p", i%20)
		}
		list = append(list, e)
	}
	tree, err := sitemap.New(list)
	require.NoError(t, err)
	tr := plan.Trees{Live: tree, Next: tree}
	v, err := menusOf(t, tr, url.Values{"menu": {menu.Side("b")}})
	require.NoError(t, err)
	require.Len(t, v.Lines, 20)
	require.Equal(t, "closed", v.Lines[0].Twist)
	v, err = menusOf(t, tr, url.Values{"menu": {menu.Side("b")}, "open": {"p3"}})
	require.NoError(t, err)
	require.Len(t, v.Lines, 20+99)
	all := url.Values{"menu": {menu.Side("b")}}
	for i := range 20 {
		all.Add("open", fmt.Sprint("p", i))
	}
	v, err = menusOf(t, tr, all)
	require.NoError(t, err)
	require.Len(t, v.Lines, menuLinesShown)
	require.Equal(t, "500 more; close branches to see them.", v.More)
}

func TestThePreviewFallsBackOnADesk(t *testing.T) {
	v, err := menusOf(t, screentest.Trees(t), url.Values{"width": {"99999"}, "as": {"noor"}, "page": {"/outdoors/ponds"}})
	require.NoError(t, err)
	require.Equal(t, []part.Option{{Value: "360", Label: "Phone", Chosen: false}, {Value: "768", Label: "Tablet", Chosen: false}, {Value: "1280", Label: "Desk", Chosen: true}}, v.Look.Widths)
	require.Equal(t, "Ponds", v.Look.AtTitle)
	require.Equal(t, part.Option{Value: "noor", Label: "Noor Castell, reader", Chosen: true}, v.Look.People[1])
}

func TestWhatLeadsToAPageInWords(t *testing.T) {
	require.Equal(t, "nothing leads here", leadingWords(appnavigation.Leading{}))
	require.Equal(t, "led to by: top menu, 1 link, 2 tiles, trail First days", leadingWords(appnavigation.Leading{Menus: []string{"Top menu"}, Links: 1, Tiles: 2, Trails: []string{"First days"}}))
}
