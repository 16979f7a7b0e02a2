package sitemap_test

import (
	"fmt"
	"slices"
	"testing"

	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/check"
)

func entry(id, parent, title string, change ...func(*sitemap.Entry)) sitemap.Entry {
	e := sitemap.Entry{ID: id, Parent: parent, Title: title, Slug: id, Kind: sitemap.Page}
	for _, c := range change {
		c(&e)
	}
	return e
}

func as(k sitemap.Kind, target string) func(*sitemap.Entry) {
	return func(e *sitemap.Entry) { e.Kind, e.Target, e.Slug = k, target, "" }
}

func many(n int, parent string) (out []sitemap.Entry) {
	for i := range n {
		out = append(out, entry(fmt.Sprintf("%s%d", parent, i), parent, fmt.Sprintf("Bed %d below %s", i, parent)))
	}
	return out
}

// Every rule finds its fault, and only where it is.
func TestEveryCheckFindsItsFault(t *testing.T) {
	home := sitemap.Entry{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page}
	carried := func(source string) func(*sitemap.Entry) {
		return func(e *sitemap.Entry) { e.Kind, e.Source = sitemap.Carried, source }
	}
	owner := func(o string) func(*sitemap.Entry) { return func(e *sitemap.Entry) { e.Owner = o } }
	deep := []sitemap.Entry{}
	for i := range 9 {
		deep = append(deep, entry(fmt.Sprint("d", i), map[bool]string{true: "", false: fmt.Sprint("d", i-1)}[i == 0], "Level "+string(rune('A'+i))), entry(fmt.Sprint("e", i), fmt.Sprint("d", i), "Beside "+string(rune('A'+i))))
	}
	cases := map[check.Rule]struct {
		entries []sitemap.Entry
		at      []string
	}{
		sitemap.AddressClash:       {[]sitemap.Entry{entry("a", "", "A"), entry("b", "", "B", func(e *sitemap.Entry) { e.Slug = "a" })}, []string{"b"}},
		sitemap.ReservedAddress:    {[]sitemap.Entry{entry("studio", "", "Studio"), entry("studios", "", "Rooms")}, []string{"studio"}},
		sitemap.CannotHold:         {[]sitemap.Entry{entry("a", "", "A", as(sitemap.Outside, "https://a.quillmere.example")), entry("b", "a", "B")}, []string{"a"}},
		sitemap.ReferenceToNothing: {[]sitemap.Entry{entry("a", "", "A", as(sitemap.Reference, "zz"))}, []string{"a"}},
		sitemap.ReferenceRing:      {[]sitemap.Entry{entry("a", "", "A", as(sitemap.Reference, "b")), entry("b", "", "B", as(sitemap.Reference, "a"))}, []string{"a", "b"}},
		sitemap.NoTarget:           {[]sitemap.Entry{entry("a", "", "A", as(sitemap.Outside, "weather"))}, []string{"a"}},
		sitemap.NoSource:           {[]sitemap.Entry{entry("a", "", "A", carried(""))}, []string{"a"}},
		sitemap.SameTitle:          {[]sitemap.Entry{entry("a", "", "Opening hours"), entry("b", "a", "opening  HOURS!"), entry("c", "a", "Opening hours", as(sitemap.Reference, "a"))}, []string{"b"}},
		sitemap.SimilarTitle:       {[]sitemap.Entry{entry("a", "", "Watering rounds"), entry("b", "", "Watering round"), entry("c", "", "Round one 1"), entry("d", "", "Round one 2"), entry("e", "", "Beds"), entry("f", "", "Bees")}, []string{"b"}},
		sitemap.SameSource:         {[]sitemap.Entry{entry("a", "", "A", carried("/x")), entry("b", "", "B", carried("/x")), entry("c", "", "C", carried("/y"))}, []string{"b"}},
		sitemap.EmptyGroup:         {[]sitemap.Entry{entry("a", "", "A", as(sitemap.Group, "")), entry("b", "", "B", as(sitemap.Group, "")), entry("c", "b", "C")}, []string{"a"}},
		sitemap.TooDeep:            {deep, []string{"e5", "d6"}},
		sitemap.TooBroad:           {append(many(26, "a"), entry("a", "", "A"), entry("b", "", "B")), []string{"a"}},
		sitemap.SingleChild:        {[]sitemap.Entry{entry("a", "", "A"), entry("b", "a", "B"), entry("c", "b", "C"), entry("d", "", "D"), entry("e", "d", "E")}, []string{"a"}},
		sitemap.Lopsided:           {slices.Concat(many(20, "a"), many(9, "b"), many(8, "c"), []sitemap.Entry{entry("a", "", "A"), entry("b", "", "B"), entry("c", "", "C")}), []string{"a"}},
		sitemap.NoOwner:            {[]sitemap.Entry{entry("a", "", "A", owner("Gwen")), entry("b", "", "B"), entry("c", "", "C", as(sitemap.Group, "")), entry("d", "c", "D", owner("Gwen"))}, []string{"h", "b"}},
		sitemap.UnknownOwner:       {[]sitemap.Entry{entry("a", "", "A", owner("Gwen")), entry("b", "", "B", owner("Nobody Known"))}, []string{"b"}},
		sitemap.ReviewPassed:       {[]sitemap.Entry{entry("a", "", "A", func(e *sitemap.Entry) { e.Review = "2026-11-24" }), entry("b", "", "B", func(e *sitemap.Entry) { e.Review = "2026-11-25" })}, []string{"a"}},
	}
	for _, r := range sitemap.Rules() {
		require.NotEmpty(t, r.Words)
		c, ok := cases[r.Rule]
		if r.Rule == sitemap.NoHome {
			continue
		}
		require.True(t, ok, "no case for %s", r.Rule)
		tree, err := sitemap.New(append([]sitemap.Entry{home}, c.entries...))
		require.NoError(t, err)
		var at []string
		for _, f := range sitemap.Check(tree, sitemap.CheckOptions{People: map[string]bool{"Gwen": true}, Today: "2026-11-25"}) {
			if f.Rule == r.Rule {
				require.Equal(t, r.Severity, f.Severity)
				at = append(at, f.ID)
			}
		}
		require.Equal(t, c.at, at, r.Rule)
	}
	tree, err := sitemap.New([]sitemap.Entry{entry("a", "", "A")})
	require.NoError(t, err)
	found := sitemap.Check(tree, sitemap.CheckOptions{})
	require.Len(t, found, 1)
	require.EqualValues(t, string(sitemap.NoHome), found[0].Rule)
}

func TestAGoodTreeHasNothingToTell(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Owner: "Gwen"},
		entry("a", "", "Grounds", func(e *sitemap.Entry) { e.Owner = "Gwen" }),
		entry("w", "", "Weather", as(sitemap.Outside, "https://weather.quillmere.example")),
	})
	require.NoError(t, err)
	require.Empty(t, sitemap.Check(tree, sitemap.CheckOptions{People: map[string]bool{"Gwen": true}, Today: "2026-11-25"}))
}

func TestShapeOfATree(t *testing.T) {
	tree, err := sitemap.New(append([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Owner: "Gwen"},
		entry("a", "", "A"), entry("b", "", "B", as(sitemap.Group, "")),
	}, many(3, "b")...))
	require.NoError(t, err)
	s := sitemap.ShapeOf(tree, 2)
	require.Equal(t, 6, s.Entries)
	require.Equal(t, []sitemap.Count{{Name: "page", N: 5}, {Name: "group", N: 1}}, s.Kinds)
	require.Equal(t, []sitemap.Level{{Number: 0, Entries: 1, Below: sitemap.None}, {Number: 1, Entries: 2, Broad: 2, Below: 0}, {Number: 2, Entries: 3, Broad: 3, Below: tree.Find("b")}}, s.Levels)
	require.Equal(t, []sitemap.Count{{Name: "", N: 4}, {Name: "Gwen", N: 1}}, s.Owners)
	require.Equal(t, "/b0", tree.Address(s.Longest[0]))
	none, err := sitemap.New(nil)
	require.NoError(t, err)
	require.Equal(t, sitemap.Shape{}, sitemap.ShapeOf(none, 3))
}
