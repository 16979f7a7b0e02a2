package site_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/testkit"
)

// marker is in the title of whatever is not for everybody.
const marker = "Quince"

// Each demo person walks the whole reader site, and nobody meets a word of what is
// not for them: in menus, labels over items, trails, lists, feed or search.
func TestNobodyMeetsWhatIsNotForThem(t *testing.T) {
	site := kit.Site(t, true)
	marta, who := testkit.SignIn(t, site, "marta"), testkit.PersonOf(t, site, "marta")
	pay, chipper := testkit.EntryID(t, site, "/working-here/pay-and-pension"), testkit.EntryID(t, site, "/grounds/machines/book-the-wood-chipper")
	for id, title := range map[string]string{pay: marker + " pay", chipper: marker + " chipper"} {
		status, _ := marta.Act(map[string]any{"do": "retitle", "id": id, "value": title})
		require.Equal(t, 200, status)
	}
	status, _ := marta.Act(map[string]any{"do": "fact", "id": pay, "field": "readership", "value": "Ines Barrow; Wilf Tarrant"})
	require.Equal(t, 200, status)
	plan := func(act appnavigation.MenuAct) string {
		act.Key, act.After = uuid.NewString(), menu.Last
		res, err := site.App.PlanMenu(t.Context(), who, act)
		require.NoError(t, err)
		return res.ID
	}
	for _, m := range []string{menu.Top, menu.Foot, menu.Side(testkit.EntryID(t, site, "/visitors"))} {
		label := plan(appnavigation.MenuAct{Menu: m, Do: "add", Override: menu.ItemOverride{Kind: menu.Label, Title: marker + " matters"}})
		plan(appnavigation.MenuAct{Menu: m, Do: "add", Parent: label, Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: pay, Title: marker + ", as we call it"}})
		plan(appnavigation.MenuAct{Menu: m, Do: "add", Parent: label, Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: chipper}})
	}
	_, err := site.App.PlanTrail(t.Context(), who, appnavigation.TrailAct{Key: uuid.NewString(), Confirmed: true, Trail: shape.Trail{
		Title: marker + " round", About: "All about " + marker, Readership: "Ines Barrow; approver", Pages: []string{chipper, testkit.EntryID(t, site, "/visitors/opening-hours")},
	}})
	require.NoError(t, err)
	testkit.PublishOnly(t, site, "Some of it is not for everybody", func(a string) bool {
		return a == "title" || a == "readership" || a == "menu" || a == "trail"
	})

	b, err := os.ReadFile(testkit.Root("demo", "people.json"))
	require.NoError(t, err)
	var people []struct{ Login string }
	require.NoError(t, json.Unmarshal(b, &people))
	met := map[string]bool{}
	for _, p := range append(people, struct{ Login string }{}) {
		c := testkit.SignIn(t, site, p.Login)
		pages := walked(t, c)
		require.Greater(t, len(pages), 130, p.Login)
		for path, body := range pages {
			met[p.Login] = met[p.Login] || strings.Contains(body, marker)
			if !strings.Contains(body, marker) {
				continue
			}
			require.Contains(t, []string{"marta", "gwen", "ines", "wilf", "anselm", "tessa", "lionel"}, p.Login, "%s met it at %s", p.Login, path)
			switch p.Login {
			case "wilf":
				require.NotContains(t, body, marker+" chipper", path)
				require.NotContains(t, body, marker+" round", path)
			case "anselm", "tessa", "lionel":
				require.NotContains(t, body, marker+" pay", path)
				require.NotContains(t, body, marker+", as we call it", path)
			}
		}
		_, found := c.Get("/search?q=" + marker)
		require.Equal(t, met[p.Login], strings.Contains(string(found), `class="hit`) || strings.Contains(string(found), "<mark>"), p.Login)
	}
	require.Equal(t, map[string]bool{
		"marta": true, "gwen": true, "ines": true, "anselm": true, "tessa": true, "lionel": true, "wilf": true,
		"kofi": false, "sunniva": false, "petra": false, "noor": false, "bram": false, "": false,
	}, met)
}

// walked gets every page of the reader site that links lead somebody to, and some
// more.
func walked(t *testing.T, c *testkit.Client, more ...string) map[string]string {
	t.Helper()
	out := map[string]string{}
	queue := append([]string{"/", "/search/a-z", "/search/overview", "/search/new", "/search/trails", "/feed.atom", "/nowhere-at-all"}, more...)
	for len(queue) > 0 {
		path := queue[0]
		queue = queue[1:]
		if _, done := out[path]; done {
			continue
		}
		_, body := c.Get(path)
		out[path] = string(body)
		doc, err := html.Parse(bytes.NewReader(body))
		require.NoError(t, err)
		for n := range doc.Descendants() {
			for _, a := range n.Attr {
				to, _, _ := strings.Cut(a.Val, "#")
				if a.Key == "href" && n.Data == "a" && strings.HasPrefix(to, "/") && !strings.HasPrefix(to, "/studio") {
					queue = append(queue, to)
				}
			}
		}
	}
	return out
}
