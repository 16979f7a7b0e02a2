package shape_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/change"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

func taken(own menu.Overrides) shape.Item { return shape.Item{Menu: &own} }

func along(title string, pages ...string) shape.Item {
	return shape.Item{Trail: &shape.Trail{Title: title, Pages: pages}}
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
		live, next  shape.Item
		hasNot, not bool // in live, in next
		want        string
	}{
		{"taken over", shape.Item{}, taken(menu.Overrides{Items: map[string]menu.ItemOverride{"+1": {Kind: menu.Label, Title: "x"}, "a": {Out: true}, "b": {Title: "y"}}, Order: map[string][]string{"": {"a"}}}), true, false, "one item added, one left out, one says something else, another order"},
		{"given up", taken(menu.Overrides{AZ: true}), shape.Item{}, false, true, "as computed again"},
		{"some of it", taken(menu.Overrides{Items: map[string]menu.ItemOverride{"+1": {Kind: menu.Label}, "+2": {Kind: menu.Label}, "a": {Out: true}}}), taken(menu.Overrides{Wait: true, Items: map[string]menu.ItemOverride{"c": {In: true}, "d": {In: true}}}), false, false, "2 items taken away, 3 let in, computed in another way"},
		{"a trail", shape.Item{}, along("First days", "a", "c"), true, false, "new, with 2 pages"},
		{"no trail", along("First days"), shape.Item{}, false, true, "taken away; its pages stay"},
		{"other steps", along("First days", "a", "c", "d"), along("First week", "d", "a", "h"), false, false, `renamed from "First days", one page added, one page taken off`},
		{"turned round", along("First days", "a", "c"), along("First days", "c", "a"), false, false, "another order"},
	} {
		id := shape.MenuID(menu.Top)
		if c.live.Trail != nil || c.next.Trail != nil {
			id = shape.TrailID("t")
		}
		live, next := shape.Set{id: c.live}, shape.Set{id: c.next}
		if c.hasNot {
			live = nil
		}
		if c.not {
			next = nil
		}
		diff := shape.Diff(live, next)
		require.Len(t, diff, 1, c.what)
		require.Equal(t, c.want, change.Words(diff[0], nil, nil), c.what)
	}
}

// Whatever is chosen goes out, the rest can go out later, and going back on it
// leads back.
func TestChosenChangesGoOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		some := func(name string) shape.Set {
			s := shape.Set{}
			for _, id := range []string{shape.MenuID("top"), shape.MenuID("foot"), shape.TrailID("1"), shape.TrailID("2")} {
				if n := rapid.IntRange(0, 3).Draw(t, name+id); n > 0 && shape.MenuOf(id) != "" {
					s[id] = taken(menu.Overrides{Levels: n})
				} else if n > 0 {
					s[id] = along(strings.Repeat("x", n))
				}
			}
			return s
		}
		live, next := some("live"), some("next")
		all := shape.Diff(live, next)
		chosen := change.Set{}
		for _, c := range all {
			chosen[c.Key] = rapid.Bool().Draw(t, "chosen")
		}
		out := shape.Apply(live, next, chosen)
		require.Len(t, shape.Diff(out, next), len(all)-len(shape.Diff(live, out)))
		require.Empty(t, shape.Diff(shape.Apply(out, next, change.All(all)), next))
		require.Empty(t, shape.Diff(shape.Apply(live, next, change.Set{}), live))
		back := next
		for _, p := range shape.Patches(live, next) {
			back = back.With(p.ID, p.Before)
		}
		require.Empty(t, shape.Patches(live, back))
	})
}

func TestTrails(t *testing.T) {
	tree := garden(t)
	for want, tr := range map[error]shape.Trail{
		shape.ErrNoTitle: {Title: "  "},
		shape.ErrTitle:   {Title: strings.Repeat("é", 201)},
		shape.ErrAbout:   {Title: "x", About: strings.Repeat("é", 2001)},
		shape.ErrNoPage:  {Title: "x", Pages: []string{"g"}},
		nil:              {Title: "x", Pages: []string{"a"}},
		shape.ErrSteps:   {Title: "x", Pages: strings.Split(strings.Repeat(".", 101), "")},
	} {
		for i := range tr.Pages {
			tr.Pages[i] = strings.Repeat(tr.Pages[i], i+1)
		}
		_, err := tr.Cleaned(tree, nil)
		require.Equal(t, want, err)
	}
	tr, err := shape.Trail{Title: " First \n days ", Pages: []string{"a", "b", "a", "gone", "c"}}.Cleaned(tree, &shape.Trail{Pages: []string{"gone"}})
	require.NoError(t, err)
	require.Equal(t, shape.Trail{Title: "First days", Pages: []string{"a", "b", "gone", "c"}}, tr, "each page once")
	set := shape.Set{shape.TrailID("1"): {Trail: &tr}, shape.TrailID("2"): along("A walk", "c", "d")}
	require.Equal(t, "A walk", set.Trails()[0].Title, "by title")
	on := shape.On(set.Trails(), tree, tree.Find("c"))
	require.Len(t, on, 2, "a page may be on several")
	require.Equal(t, 0, on[0].At)
	require.Equal(t, []int{tree.Find("a"), tree.Find("c")}, on[1].Steps, "what is withdrawn or gone is no step")
	require.Equal(t, 1, on[1].At)
	require.Empty(t, shape.On(set.Trails(), tree, tree.Find("h")))
	require.Nil(t, set.Readerships())
}

func TestWhatTwoPagesBecomingOneDoes(t *testing.T) {
	set := shape.Set{
		shape.MenuID(menu.Foot): taken(menu.Overrides{Of: "c", Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "c"}}}),
		shape.TrailID("1"):      along("One", "a", "c"), shape.TrailID("2"): along("Two", "c", "d"),
	}
	got := set.Replaced("c", "a")
	require.Equal(t, "a", got[shape.MenuID(menu.Foot)].Menu.Items["+1"].Entry)
	require.Equal(t, "a", got[shape.MenuID(menu.Foot)].Menu.Of)
	require.Equal(t, []string{"a"}, got[shape.TrailID("1")].Trail.Pages)
	require.Equal(t, []string{"a", "d"}, got[shape.TrailID("2")].Trail.Pages)
	require.Equal(t, []string{"a", "c"}, set[shape.TrailID("1")].Trail.Pages, "the set itself stays")
	tree := garden(t)
	require.Empty(t, set.Lost(tree))
	tree, err := tree.Remove("c")
	require.NoError(t, err)
	require.Len(t, set.Lost(tree), 4)
	require.Equal(t, "Foot menu", shape.Title(shape.MenuID(menu.Foot), tree))
	require.Equal(t, "Trail Two", shape.Title(shape.TrailID("2"), tree, nil, set))
}

// Going back never lets somebody read what was closed to them since.
func TestGoingBackKeepsReadersOut(t *testing.T) {
	narrow := func(readership string, pages ...string) shape.Item {
		return shape.Item{Trail: &shape.Trail{Title: "Keys", Readership: readership, Pages: pages}}
	}
	live := shape.Set{shape.TrailID("1"): narrow("editor", "a", "c"), shape.TrailID("2"): narrow("approver", "d"), shape.TrailID("3"): along("Open", "d"), shape.MenuID("top"): taken(menu.Overrides{AZ: true})}
	earlier := shape.Set{shape.TrailID("1"): narrow("editor; reader", "a")}
	got := shape.Back(live, earlier)
	require.Equal(t, map[string][]string{"a": {"editor"}, "c": {"editor"}, "d": {"approver"}}, got.Readerships())
	require.Len(t, got, 2, "all else is as it was then")
}
