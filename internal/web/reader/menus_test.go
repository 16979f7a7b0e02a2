package reader

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/render"
	"candlepath/web"
)

// garden is an edition with menus that were taken over, and a trail.
func garden(t *testing.T) *edition {
	set, err := render.Load(web.Files, "templates/layout/reader.html", "templates/screens/reader")
	require.NoError(t, err)
	page := func(id, parent, title, readership string) sitemap.Entry {
		return sitemap.Entry{ID: id, Parent: parent, Title: title, Slug: id, Kind: sitemap.Page, Readership: readership}
	}
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		page("visit", "", "Visit", ""), page("hours", "visit", "Opening hours", ""), page("till", "visit", "Opening the <till>", "editor"),
		page("ponds", "", "Ponds", ""), page("newts", "ponds", "Newts", ""),
	})
	require.NoError(t, err)
	table, err := redirect.NewTable(nil, tree)
	require.NoError(t, err)
	top := menu.Overrides{
		Levels: 2, Items: map[string]menu.ItemOverride{
			"ponds": {Title: "Ponds & newts", Symbol: "leaf"}, "+1": {Kind: menu.Label, Title: "More"}, "+2": {Kind: menu.Link, Title: "Tides", URL: "https://tides.quillmere.example/?a=1&b=2"},
			"+3": {Kind: menu.Divider}, "+4": {Kind: menu.AnEntry, Entry: "till"}, "+5": {Kind: menu.Label, Title: "For editors"},
		},
		Order: map[string][]string{"+1": {"+2"}, "+5": {"+4"}, "": {"h", "visit", "ponds", "+3", "+1", "+5"}},
	}
	foot := menu.Overrides{Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "newts", Title: "Newts again"}}}
	trail := shape.Trail{Title: "Round the ponds", About: "On foot", Pages: []string{"hours", "till", "ponds", "newts"}}
	e, err := newEdition(reading.LiveSite{Tree: tree, Table: table, Shapes: shape.Set{
		shape.MenuID(menu.Top): {Menu: &top}, shape.MenuID(menu.Foot): {Menu: &foot}, shape.TrailID("t"): {Trail: &trail},
		shape.TrailID("u"): {Trail: &shape.Trail{Title: "For editors alone", Pages: []string{"till"}}},
	}}, set, nil)
	require.NoError(t, err)
	return e
}

// shown renders a page for a reader.
func shown(t *testing.T, v *view, id string) (body string, doc *html.Node) {
	p, err := v.pageView(v.Tree.Find(id), plan.LiveBody{})
	require.NoError(t, err)
	out, err := v.set.Bytes("page", "layout", p)
	require.NoError(t, err)
	doc, err = html.Parse(strings.NewReader(string(out)))
	require.NoError(t, err)
	return string(out), doc
}

// marked gives the words of the links that are marked as the page itself.
func marked(doc *html.Node) (out []string) {
	for n := range doc.Descendants() {
		for _, a := range n.Attr {
			if a.Key == "aria-current" && a.Val == "page" {
				text := ""
				for c := range n.Descendants() {
					if c.Type == html.TextNode {
						text += c.Data
					}
				}
				out = append(out, text)
			}
		}
	}
	return out
}

func TestMenusOfAPageAsSent(t *testing.T) {
	e := garden(t)
	body, doc := shown(t, e.public, "newts")
	require.Equal(t, []string{"Newts", "Newts", "Newts again"}, marked(doc), "in the top, side and foot menus")
	require.Contains(t, body, `href="https://tides.quillmere.example/?a=1&amp;b=2"`)
	require.Contains(t, body, "Ponds &amp; newts")
	require.Contains(t, body, `<li class="top-divider" aria-hidden="true">`)
	require.Contains(t, body, `<details class="open"><summary>`, "the branch of the page is marked")
	require.Contains(t, body, "Step 3 of 3")
	require.Contains(t, body, "The trail ends here.")
	for _, secret := range []string{"till", "For editors"} {
		require.NotContains(t, body, secret)
	}
}

func TestMenusOfSomebodyWhoMayReadMore(t *testing.T) {
	e := garden(t)
	ines := e.viewOf(readership.Reader{Name: "Ines Barrow", Role: "editor"})
	require.NotSame(t, e.public, ines)
	body, _ := shown(t, ines, "hours")
	require.Contains(t, body, "For editors")
	require.Contains(t, body, "Opening the &lt;till&gt;")
	require.Contains(t, body, "Step 1 of 4")
	require.Len(t, ines.trails, 2)
	require.Len(t, e.public.trails, 1, "a trail of which one may read nothing is not told")
	body, _ = shown(t, e.public, "hours")
	require.Contains(t, body, "Step 1 of 3", "steps are counted as far as one may go")
}

// However many looks a menu has, a view keeps only some, and all are right.
func TestAViewKeepsSomeLooks(t *testing.T) {
	e := garden(t)
	e.public.kept.Store(mostDrawn - 1)
	for range 2 {
		for _, id := range []string{"h", "visit", "hours", "ponds", "newts"} {
			_, doc := shown(t, e.public, id)
			title := e.public.Tree.Ref(e.public.Tree.Find(id)).Title
			require.Contains(t, strings.Join(marked(doc), "|"), title)
		}
	}
	n := 0
	e.public.drawn.Range(func(any, any) bool {
		n++
		return true
	})
	require.Equal(t, 1, n)
}
