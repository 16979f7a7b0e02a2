package navigation_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/change"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/navigation"
	"candlepath/internal/core/sitemap"
)

func taken(own menu.Overrides) navigation.Item { return navigation.Item{Menu: &own} }

func along(title string, pages ...string) navigation.Item {
	return navigation.Item{Trail: &navigation.Trail{Title: title, Pages: pages}}
}

func garden(t *testing.T) *sitemap.Tree {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "a", Title: "Arboretum", Slug: "arboretum", Kind: sitemap.Page},
		{ID: "b", Title: "Bog garden", Slug: "bog", Kind: sitemap.Page, Withdrawn: true},
		{ID: "c", Title: "Compost", Slug: "compost", Kind: sitemap.Page},
		{ID: "d", Title: "Ditch", Slug: "ditch", Kind: sitemap.Page},
		{ID: "g", Title: "Group", Kind: sitemap.Group},
	})
	require.NoError(t, err)
	return tree
}

// What is done to menus and trails is told in words, one change each.
func TestWords(t *testing.T) {
	for _, c := range []struct {
		what        string
		live, next  navigation.Item
		hasNot, not bool // in live, in next
		want        string
	}{
		{"taken over", navigation.Item{}, taken(menu.Overrides{Items: map[string]menu.ItemOverride{"+1": {Kind: menu.Label, Title: "x"}, "a": {Out: true}, "b": {Title: "y"}}, Order: map[string][]string{"": {"a"}}}), true, false, "one item added, one left out, one says something else, another order"},
		{"given up", taken(menu.Overrides{AZ: true}), navigation.Item{}, false, true, "as computed again"},
		{"some of it", taken(menu.Overrides{Items: map[string]menu.ItemOverride{"+1": {Kind: menu.Label}, "+2": {Kind: menu.Label}, "a": {Out: true}}}), taken(menu.Overrides{Wait: true, Items: map[string]menu.ItemOverride{"c": {In: true}, "d": {In: true}}}), false, false, "2 items taken away, 3 let in, computed in another way"},
		{"a trail", navigation.Item{}, along("First days", "a", "c"), true, false, "new, with 2 pages"},
		{"no trail", along("First days"), navigation.Item{}, false, true, "taken away; its pages stay"},
		{"other steps", along("First days", "a", "c", "d"), along("First week", "d", "a", "h"), false, false, `renamed from "First days", one page added, one page taken off`},
		{"turned round", along("First days", "a", "c"), along("First days", "c", "a"), false, false, "another order"},
	} {
		id := navigation.MenuID(menu.Top)
		if c.live.Trail != nil || c.next.Trail != nil {
			id = navigation.TrailID("t")
		}
		live, next := navigation.Set{id: c.live}, navigation.Set{id: c.next}
		if c.hasNot {
			live = nil
		}
		if c.not {
			next = nil
		}
		diff := navigation.Diff(live, next)
		require.Len(t, diff, 1, c.what)
		require.Equal(t, c.want, change.Words(diff[0], nil, nil), c.what)
	}
}

// Whatever is chosen goes out, the rest can go out later, and going back on it
// leads back.
func TestChosenChangesGoOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		some := func(name string) navigation.Set {
			s := navigation.Set{}
			for _, id := range []string{navigation.MenuID("top"), navigation.MenuID("foot"), navigation.TrailID("1"), navigation.TrailID("2")} {
				if n := rapid.IntRange(0, 3).Draw(t, name+id); n > 0 && navigation.MenuOf(id) != "" {
					s[id] = taken(menu.Overrides{Levels: n})
				} else if n > 0 {
					s[id] = along(strings.Repeat("x", n))
				}
			}
			return s
		}
		live, next := some("live"), some("next")
		all := navigation.Diff(live, next)
		chosen := change.Set{}
		for _, c := range all {
			chosen[c.Key] = rapid.Bool().Draw(t, "chosen")
		}
		out := navigation.Apply(live, next, chosen)
		require.Len(t, navigation.Diff(out, next), len(all)-len(navigation.Diff(live, out)))
		require.Empty(t, navigation.Diff(navigation.Apply(out, next, change.All(all)), next))
		require.Empty(t, navigation.Diff(navigation.Apply(live, next, change.Set{}), live))
		back := next
		for _, p := range navigation.Patches(live, next) {
			back = back.With(p.ID, p.Before)
		}
		require.Empty(t, navigation.Patches(live, back))
	})
}

func TestTrails(t *testing.T) {
	tree := garden(t)
	for want, tr := range map[error]navigation.Trail{
		navigation.ErrNoTitle: {Title: "  "},
		navigation.ErrTitle:   {Title: strings.Repeat("é", 201)},
		navigation.ErrAbout:   {Title: "x", About: strings.Repeat("é", 2001)},
		navigation.ErrNoPage:  {Title: "x", Pages: []string{"g"}},
		nil:                   {Title: "x", Pages: []string{"a"}},
		navigation.ErrSteps:   {Title: "x", Pages: strings.Split(strings.Repeat(".", 101), "")},
	} {
		for i := range tr.Pages {
			tr.Pages[i] = strings.Repeat(tr.Pages[i], i+1)
		}
		_, err := tr.Cleaned(tree, nil)
		require.Equal(t, want, err)
	}
	tr, err := navigation.Trail{Title: " First \n days ", Pages: []string{"a", "b", "a", "gone", "c"}}.Cleaned(tree, &navigation.Trail{Pages: []string{"gone"}})
	require.NoError(t, err)
	require.Equal(t, navigation.Trail{Title: "First days", Pages: []string{"a", "b", "gone", "c"}}, tr, "each page once")
	set := navigation.Set{navigation.TrailID("1"): {Trail: &tr}, navigation.TrailID("2"): along("A walk", "c", "d")}
	require.Equal(t, "A walk", set.Trails()[0].Title, "by title")
	on := navigation.On(set.Trails(), tree, tree.Find("c"))
	require.Len(t, on, 2, "a page may be on several")
	require.Equal(t, 0, on[0].At)
	require.Equal(t, []int{tree.Find("a"), tree.Find("c")}, on[1].Steps, "what is withdrawn or gone is no step")
	require.Equal(t, 1, on[1].At)
	require.Empty(t, navigation.On(set.Trails(), tree, tree.Find("h")))
	require.Nil(t, set.Readerships())
}

func TestWhatTwoPagesBecomingOneDoes(t *testing.T) {
	set := navigation.Set{
		navigation.MenuID(menu.Foot): taken(menu.Overrides{Of: "c", Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "c"}}}),
		navigation.TrailID("1"):      along("One", "a", "c"), navigation.TrailID("2"): along("Two", "c", "d"),
	}
	got := set.Replaced("c", "a")
	require.Equal(t, "a", got[navigation.MenuID(menu.Foot)].Menu.Items["+1"].Entry)
	require.Equal(t, "a", got[navigation.MenuID(menu.Foot)].Menu.Of)
	require.Equal(t, []string{"a"}, got[navigation.TrailID("1")].Trail.Pages)
	require.Equal(t, []string{"a", "d"}, got[navigation.TrailID("2")].Trail.Pages)
	require.Equal(t, []string{"a", "c"}, set[navigation.TrailID("1")].Trail.Pages, "the set itself stays")
	tree := garden(t)
	require.Empty(t, set.Lost(tree))
	tree, err := tree.Remove("c")
	require.NoError(t, err)
	require.Len(t, set.Lost(tree), 4)
	require.Equal(t, "Foot menu", navigation.Title(navigation.MenuID(menu.Foot), tree))
	require.Equal(t, "Trail Two", navigation.Title(navigation.TrailID("2"), tree, nil, set))
}

// Going back never lets somebody read what was closed to them since.
func TestGoingBackKeepsReadersOut(t *testing.T) {
	narrow := func(readership string, pages ...string) navigation.Item {
		return navigation.Item{Trail: &navigation.Trail{Title: "Keys", Readership: readership, Pages: pages}}
	}
	live := navigation.Set{navigation.TrailID("1"): narrow("editor", "a", "c"), navigation.TrailID("2"): narrow("approver", "d"), navigation.TrailID("3"): along("Open", "d"), navigation.MenuID("top"): taken(menu.Overrides{AZ: true})}
	earlier := navigation.Set{navigation.TrailID("1"): narrow("editor; reader", "a")}
	got := navigation.Back(live, earlier)
	require.Equal(t, map[string][]string{"a": {"editor"}, "c": {"editor"}, "d": {"approver"}}, got.Readerships())
	require.Len(t, got, 2, "all else is as it was then")
}
