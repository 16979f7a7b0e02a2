package drawing

import (
	"strings"

	"candlepath/internal/core/sitemap"
)

// Opening says which branches of a sitemap are drawn.
type Opening struct {
	Level   int             // branches above this level are open
	Flipped map[string]bool // ids of entries for which it is the other way round
	At      string          // an entry that is drawn in any case, with its way from home
	Branch  string          // only this branch, or all
}

// few is how many boxes a drawing has to begin with.
const few = 70

// FittingLevel is the deepest level down to which a sitemap can be opened at
// once and still be overlooked.
func FittingLevel(t *sitemap.Tree) int {
	var breadth []int
	for i := range t.Len() {
		for len(breadth) <= t.Level(i) {
			breadth = append(breadth, 0)
		}
		breadth[t.Level(i)]++
	}
	sum := 0
	for level, n := range breadth {
		if sum += n; sum > few && level > 1 {
			return level - 1
		}
	}
	return max(1, len(breadth)-1)
}

// Measure tells how wide a text is in px.
type Measure func(text string) float64

// Sizes of boxes in px.
const (
	minWidth   = 76
	maxText    = 190 // of one line
	padding    = 20  // left and right of the text
	glyphWidth = 20  // of the sign of a kind other than page
	oneLine    = 28
	twoLines   = 44
	tagGap     = 10
	boldness   = 1.08 // titles of the upper two levels are bold
)

// Nodes gives the entries that are drawn, with the sizes of their boxes. tag
// is a short text at the right end of a box.
func Nodes(t *sitemap.Tree, o Opening, title, small Measure, tag func(i int) string) []Node {
	from, end := 0, t.Len()
	if i := t.Find(o.Branch); i != sitemap.None {
		from, end = i, t.End(i)
	}
	way := map[int]bool{}
	if i := t.Find(o.At); i != sitemap.None {
		for p := t.Parent(i); p != sitemap.None; p = t.Parent(p) {
			way[p] = true
		}
	}
	var nodes []Node
	at := map[int]int{}
	for i := from; i < end; {
		n := Node{Entry: i, Parent: None, Level: t.Level(i), Lines: lines(t.Ref(i).Title, title)}
		if p, ok := at[t.Parent(i)]; ok {
			n.Parent = p
		}
		n.Open = t.HasChildren(i) && (way[i] || i == from || (t.Level(i) < o.Level) != o.Flipped[t.Ref(i).ID])
		n.size(t.Ref(i).Kind, title, small, tag(i))
		next := i + 1
		if !n.Open {
			n.Hidden, next = t.End(i)-i-1, t.End(i)
		}
		at[i] = len(nodes)
		nodes = append(nodes, n)
		i = next
	}
	return nodes
}

func (n *Node) size(k sitemap.Kind, title, small Measure, tag string) {
	for _, l := range n.Lines {
		n.W = max(n.W, title(l))
	}
	if n.Level < 2 {
		n.W *= boldness
	}
	n.W += padding
	if k != sitemap.Page {
		n.W += glyphWidth
	}
	if tag != "" {
		n.W += small(tag) + tagGap
	}
	n.W = max(n.W, minWidth)
	if n.H = oneLine; len(n.Lines) > 1 {
		n.H = twoLines
	}
}

// lines breaks a title into at most two lines that fit a box.
func lines(title string, width Measure) []string {
	if width(title) <= maxText {
		return []string{title}
	}
	first, rest := "", ""
	for i, r := range title {
		if r == ' ' {
			if width(title[:i]) > maxText {
				break
			}
			first, rest = title[:i], title[i+1:]
		}
	}
	if first == "" { // one long word
		first = fitting(title, width, "")
		rest = title[len(first):]
	}
	if width(rest) > maxText {
		rest = fitting(rest, width, "…") + "…"
	}
	return []string{first, strings.TrimSpace(rest)}
}

// fitting is the longest beginning of a text that fits a line with an ending.
func fitting(text string, width Measure, ending string) string {
	end := 0
	for i := range text {
		if i > 0 && width(text[:i]+ending) > maxText {
			break
		}
		end = i
	}
	return strings.TrimRight(text[:end], " ")
}

// Edge joins a box to the one it is below: four points, of a Bézier curve or of
// lines with corners.
type Edge struct {
	Curved bool
	Points [4]Point
}

// Point is a place in a drawing.
type Point struct{ X, Y float64 }

// EdgeTo gives the line from the parent of a node to the node.
func EdgeTo(nodes []Node, boxes []Box, i int, d Direction) (Edge, bool) {
	p := nodes[i].Parent
	if p == None {
		return Edge{}, false
	}
	from, to := boxes[p], boxes[i]
	switch {
	case d == Down:
		a, b := Point{from.X + from.W/2, from.Y + from.H}, Point{to.X + to.W/2, to.Y}
		mid := (b.Y - Reach/2)
		return Edge{true, [4]Point{a, {a.X, max(mid, a.Y)}, {b.X, max(mid, a.Y)}, b}}, true
	case d == Indented && from.X+indent <= to.X+0.5 && nodes[p].Parent != None || d == Indented && to.X == from.X+indent && to.Y > from.Y:
		a, b := Point{from.X + indent/2, from.Y + from.H}, Point{to.X, to.Y + to.H/2}
		return Edge{false, [4]Point{a, {a.X, b.Y}, {a.X, b.Y}, b}}, true
	case d == Indented:
		a, b := Point{from.X + indent/2, from.Y + from.H}, Point{to.X + indent/2, to.Y}
		mid := from.Y + from.H + Reach/4
		return Edge{false, [4]Point{a, {a.X, mid}, {b.X, mid}, b}}, true
	}
	a, b := Point{from.X + from.W, from.Y + from.H/2}, Point{to.X, to.Y + to.H/2}
	mid := b.X - Reach/2
	return Edge{true, [4]Point{a, {max(mid, a.X), a.Y}, {max(mid, a.X), b.Y}, b}}, true
}
