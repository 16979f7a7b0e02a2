package drawing_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"candlepath/internal/core/drawing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap"
)

// randomNodes draws a forest of boxes of any size, in document order.
func randomNodes(t *rapid.T) []drawing.Node {
	n := rapid.IntRange(1, 60).Draw(t, "n")
	nodes := make([]drawing.Node, n)
	way := []int{}
	for i := range nodes {
		least := 1
		if i == 0 || rapid.IntRange(0, 9).Draw(t, "root") == 0 {
			least = 0
		}
		up := rapid.IntRange(min(least, len(way)), len(way)).Draw(t, "depth")
		way = way[:up]
		nodes[i] = drawing.Node{Parent: drawing.None, Level: up, W: rapid.Float64Range(20, 220).Draw(t, "w"), H: rapid.SampledFrom([]float64{28, 44}).Draw(t, "h")}
		if up > 0 {
			nodes[i].Parent = way[up-1]
		}
		way = append(way, i)
	}
	return nodes
}

func TestPlace(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		nodes := randomNodes(t)
		for _, d := range drawing.Directions() {
			boxes := drawing.Place(nodes, d)
			for i, a := range boxes {
				if a.X < 0 || a.Y < 0 || a.W != nodes[i].W || a.H != nodes[i].H || math.IsNaN(a.X+a.Y) {
					t.Fatalf("%s: box %d is %v", d, i, a)
				}
				for k, b := range boxes[:i] {
					if a.X < b.X+b.W+drawing.Gap-0.001 && b.X < a.X+a.W+drawing.Gap-0.001 && a.Y < b.Y+b.H+drawing.Gap-0.001 && b.Y < a.Y+a.H+drawing.Gap-0.001 {
						t.Fatalf("%s: boxes %d %v and %d %v touch", d, k, b, i, a)
					}
				}
			}
			if d != drawing.Indented {
				checkTidy(t, nodes, boxes, d)
			}
		}
	})
}

// checkTidy holds a drawing against what makes it tidy: siblings stand in
// order, a parent in the middle of its children, levels in line.
func checkTidy(t *rapid.T, nodes []drawing.Node, boxes []drawing.Box, d drawing.Direction) {
	centre := func(i int) float64 {
		if d == drawing.Down {
			return boxes[i].X + boxes[i].W/2
		}
		return boxes[i].Y + boxes[i].H/2
	}
	along := func(i int) float64 {
		if d == drawing.Down {
			return boxes[i].Y
		}
		return boxes[i].X
	}
	first, last, lines := map[int]int{}, map[int]int{}, map[int]float64{}
	for i, n := range nodes {
		if l, ok := lines[n.Level]; ok && l != along(i) {
			t.Fatalf("%s: box %d of level %d is out of line", d, i, n.Level)
		}
		lines[n.Level] = along(i)
		if before, ok := last[n.Parent]; ok && centre(before) >= centre(i) {
			t.Fatalf("%s: %d stands before its elder %d", d, i, before)
		}
		if _, ok := first[n.Parent]; !ok {
			first[n.Parent] = i
		}
		last[n.Parent] = i
	}
	edge := func(i, k int) float64 { // of the room of a box across
		if d == drawing.Down {
			return centre(i) + float64(k)*(boxes[i].W+drawing.Gap)/2
		}
		return centre(i) + float64(k)*(boxes[i].H+drawing.Gap)/2
	}
	for p, f := range first {
		if p == drawing.None {
			continue
		}
		if mid := (edge(f, -1) + edge(last[p], 1)) / 2; math.Abs(mid-centre(p)) > 0.01 {
			t.Fatalf("%s: %d is at %.1f, the middle of its children at %.1f", d, p, centre(p), mid)
		}
	}
}

func perRune(text string) float64 { return float64(len([]rune(text))) * 7 }

func noTag(int) string { return "" }

var plan = func() *sitemap.Tree {
	t, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Owner: "Ann"},
		{ID: "a", Title: "Grounds", Kind: sitemap.Page, Owner: "Ann"},
		{ID: "b", Parent: "a", Title: "Machines", Kind: sitemap.Page, Owner: "Ben"},
		{ID: "c", Parent: "b", Title: "Book the wood chipper", Kind: sitemap.Page},
		{ID: "d", Parent: "a", Title: "Compost", Kind: sitemap.Group},
		{ID: "e", Title: "Visitors", Kind: sitemap.Page, Owner: "Ann"},
		{ID: "f", Parent: "e", Title: "Opening hours", Kind: sitemap.Reference},
	})
	if err != nil {
		panic(err)
	}
	return t
}()

func TestNodes(t *testing.T) {
	cases := map[string]struct {
		open drawing.Opening
		want string
	}{
		"to level 1":      {drawing.Opening{Level: 1}, "Home Grounds+3 Visitors+1"},
		"to level 2":      {drawing.Opening{Level: 2}, "Home Grounds Machines+1 Compost Visitors Opening hours"},
		"one flipped":     {drawing.Opening{Level: 1, Flipped: map[string]bool{"e": true}}, "Home Grounds+3 Visitors Opening hours"},
		"one closed":      {drawing.Opening{Level: 3, Flipped: map[string]bool{"a": true}}, "Home Grounds+3 Visitors Opening hours"},
		"the way to one":  {drawing.Opening{Level: 1, At: "c"}, "Home Grounds Machines Book the wood chipper Compost Visitors+1"},
		"a branch":        {drawing.Opening{Level: 1, Branch: "a"}, "Grounds Machines+1 Compost"},
		"no such branch":  {drawing.Opening{Level: 1, Branch: "zz"}, "Home Grounds+3 Visitors+1"},
		"home stays open": {drawing.Opening{Level: 0}, "Home Grounds+3 Visitors+1"},
	}
	for name, c := range cases {
		t.Run(name, func(t *testing.T) {
			var got []string
			for _, n := range drawing.Nodes(plan, c.open, perRune, perRune, noTag) {
				title := plan.Ref(n.Entry).Title
				if n.Hidden > 0 {
					title += fmt.Sprintf("+%d", n.Hidden)
				}
				got = append(got, title)
			}
			assert.Equal(t, c.want, strings.Join(got, " "))
		})
	}
}

func TestLinesOfTitles(t *testing.T) {
	cases := map[string][]string{
		"Compost": {"Compost"},
		"Booking the wood chipper and the stump grinder": {"Booking the wood chipper", "and the stump grinder"},
		strings.Repeat("word ", 20) + "end":              {"word word word word word", "word word word word word w…"},
		strings.Repeat("я", 60):                          {strings.Repeat("я", 27), strings.Repeat("я", 26) + "…"},
	}
	for title, want := range cases {
		tree, err := sitemap.New([]sitemap.Entry{{ID: "a", Title: title, Kind: sitemap.Page}})
		require.NoError(t, err)
		nodes := drawing.Nodes(tree, drawing.Opening{}, perRune, perRune, noTag)
		assert.Equal(t, want, nodes[0].Lines)
		for _, l := range nodes[0].Lines {
			assert.LessOrEqual(t, perRune(l)*1.08+20, nodes[0].W+0.01)
		}
	}
}

func TestFittingLevel(t *testing.T) {
	assert.Equal(t, 3, drawing.FittingLevel(plan), "a small plan opens whole")
	var broad []sitemap.Entry
	for i := range 500 {
		broad = append(broad, sitemap.Entry{ID: fmt.Sprint(i), Title: "x", Kind: sitemap.Page})
		if i > 0 && i < 400 {
			broad[i].Parent = fmt.Sprint(i / 20)
		}
	}
	tree, err := sitemap.New(broad)
	require.NoError(t, err)
	assert.Equal(t, 1, drawing.FittingLevel(tree))
	empty, err := sitemap.New(nil)
	require.NoError(t, err)
	assert.Equal(t, 1, drawing.FittingLevel(empty))
}

func TestShades(t *testing.T) {
	cases := map[drawing.Overlay]struct {
		facts  drawing.Facts
		legend string
		of     map[string]string
	}{
		drawing.ByChange: {
			drawing.Facts{Marks: map[string][]string{"a": {"moved", "retitled"}, "b": {"new address"}, "c": {"new"}, "d": {"facts"}}},
			"new 1, moved 1, new address 1, changed otherwise 1, unchanged 3",
			map[string]string{"a": "moved", "d": "facts"},
		},
		drawing.ByKind:   {legend: "reference 1, group 1, page 5", of: map[string]string{"f": "reference", "a": ""}},
		drawing.ByOwner:  {legend: "nobody 1, Ann 3, Ben 1, not a page 2", of: map[string]string{"a": "A", "c": "nobody"}},
		drawing.ByVisits: {drawing.Facts{Visits: map[string]int{"h": 12_345, "a": 7}}, "no visit 3, 1 to 9 1, 10,000 and more 1, not a page 2", map[string]string{"h": "12.3 k", "b": "0"}},
		drawing.ByDepth:  {legend: "level 1 2, level 2 3, level 3 1, home 1", of: map[string]string{"c": "3"}},
	}
	for o, c := range cases {
		t.Run(string(o), func(t *testing.T) {
			shades, legend := drawing.Shades(plan, o, c.facts)
			var lines []string
			for _, k := range legend {
				lines = append(lines, fmt.Sprintf("%s %d", k.Label, k.N))
			}
			assert.Equal(t, c.legend, strings.Join(lines, ", "))
			for id, tag := range c.of {
				assert.Equal(t, tag, shades[plan.Find(id)].Tag, id)
			}
		})
	}
}

// A way over entries is drawn along the boxes there are.
func TestAlong(t *testing.T) {
	page := func(id, parent string) sitemap.Entry {
		return sitemap.Entry{ID: id, Parent: parent, Title: id, Slug: id, Kind: sitemap.Page}
	}
	tree, err := sitemap.New([]sitemap.Entry{{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page}, page("a", ""), page("b", "a"), page("c", "b"), page("d", "")})
	require.NoError(t, err)
	wide := func(string) float64 { return 40 }
	d := drawing.New(tree, drawing.Ask{Opening: drawing.Opening{Level: 1}, Direction: drawing.Across, Overlay: drawing.ByKind}, drawing.Facts{}, wide, wide)
	require.Len(t, d.Nodes, 3)
	along := d.Along()
	require.Equal(t, []int{0, 2, 1}, along([]int{tree.Find("h"), tree.Find("d"), tree.Find("b"), tree.Find("c")}), "what is closed is where it is closed")
	require.Empty(t, along(nil))
}
