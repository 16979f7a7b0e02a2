package drawing

import (
	"candlepath/internal/core/sitemap"
)

// Drawing is a sitemap as it is drawn.
type Drawing struct {
	Tree      *sitemap.Tree
	Direction Direction
	Overlay   Overlay
	Nodes     []Node
	Boxes     []Box
	Shades    []Shade // by node
	Legend    []Key
	W, H      float64
}

// Along gives a function that tells which nodes a way over entries is drawn
// along: an entry that is not drawn is where the nearest above it is.
func (d Drawing) Along() func(entries []int) []int {
	at := make([]int, d.Tree.Len())
	for i := range at {
		at[i] = None
	}
	for k, n := range d.Nodes {
		at[n.Entry] = k
	}
	for i := range at { // what is above comes first
		if p := d.Tree.Parent(i); at[i] == None && p != sitemap.None {
			at[i] = at[p]
		}
	}
	return func(entries []int) []int {
		var out []int
		for _, i := range entries {
			if k := at[i]; k != None && (len(out) == 0 || out[len(out)-1] != k) {
				out = append(out, k)
			}
		}
		return out
	}
}

// Ask says what is to be drawn and how.
type Ask struct {
	Opening
	Direction Direction
	Overlay   Overlay
}

// New draws a sitemap. title and small measure the two sizes of text.
func New(t *sitemap.Tree, ask Ask, f Facts, title, small Measure) Drawing {
	d := Drawing{Tree: t, Direction: ask.Direction, Overlay: ask.Overlay}
	all, legend := Shades(t, ask.Overlay, f)
	d.Legend = legend
	d.Nodes = Nodes(t, ask.Opening, title, small, func(i int) string { return all[i].Tag })
	d.Boxes = Place(d.Nodes, d.Direction)
	d.W, d.H = Extent(d.Boxes)
	d.Shades = make([]Shade, len(d.Nodes))
	for i, n := range d.Nodes {
		d.Shades[i] = all[n.Entry]
	}
	return d
}

// Edge gives the line that leads to a node, if one does.
func (d Drawing) Edge(i int) (Edge, bool) { return EdgeTo(d.Nodes, d.Boxes, i, d.Direction) }

// Kind is the kind of the entry of a node.
func (d Drawing) Kind(i int) sitemap.Kind { return d.Tree.Ref(d.Nodes[i].Entry).Kind }
