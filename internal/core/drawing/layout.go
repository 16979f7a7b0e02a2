// Package drawing lays the sitemap out as a drawn tree: which entries are open,
// how large their boxes are, where they stand, how lines join them, and by what
// each is shaded. It knows no colours and no file format.
//
// The tidy layout is that of A. van der Ploeg, "Drawing non-layered tidy trees
// in linear time" (Software: Practice and Experience 44, 2014): boxes of any
// size, no two overlap, a parent stands in the middle of its children, equal
// branches look equal. Levels line up in columns (or rows), so that they can be
// read off the drawing.
package drawing

import "slices"

// Direction is how a drawing grows.
type Direction string

// The directions.
const (
	Across   Direction = "across"   // from left to right
	Down     Direction = "down"     // from the top down
	Indented Direction = "indented" // columns of indented lists, the most compact
)

// Directions lists them in the order in which interfaces offer them.
func Directions() []Direction { return []Direction{Across, Down, Indented} }

// Label is the direction in words.
func (d Direction) Label() string {
	switch d {
	case Down:
		return "Top down"
	case Indented:
		return "Compact"
	}
	return "Left to right"
}

// None is the parent of a node that has none.
const None = -1

// Distances in px.
const (
	Gap       = 8  // between neighbours
	Reach     = 48 // from one level to the next
	indent    = 20 // of a level in an indented list
	columnGap = 28 // between indented lists
)

// Node is one box to place. Nodes stand in document order.
type Node struct {
	Entry  int // index in the sitemap
	Parent int // index among the nodes, or None
	Level  int // from 0
	W, H   float64
	Lines  []string // the title as it is written into the box
	Open   bool     // what is below it is drawn
	Hidden int      // entries below it that are not drawn
}

// Box is where a node stands.
type Box struct{ X, Y, W, H float64 }

// Place gives every node its box. The drawing begins at 0,0 and has no
// negative coordinates. Time and space grow with the number of nodes.
func Place(nodes []Node, d Direction) []Box {
	if len(nodes) == 0 {
		return nil
	}
	if d == Indented {
		return placeIndented(nodes)
	}
	return placeTidy(nodes, d == Down)
}

// Extent is the size of what is drawn.
func Extent(boxes []Box) (w, h float64) {
	for _, b := range boxes {
		w, h = max(w, b.X+b.W), max(h, b.Y+b.H)
	}
	return w, h
}

// placeIndented puts each branch below the roots into a column of its own.
func placeIndented(nodes []Node) []Box {
	boxes := make([]Box, len(nodes))
	roots, base := 0, 0
	for _, n := range nodes {
		if n.Parent == None {
			roots++
		}
	}
	if roots == 1 {
		boxes[0] = Box{0, 0, nodes[0].W, nodes[0].H}
		base = 1
	}
	top := boxes[0].H
	if base == 1 {
		top += Reach / 2
	}
	x, y, right := 0.0, top, 0.0
	for i := base; i < len(nodes); i++ {
		n := nodes[i]
		deep := float64(n.Level - nodes[0].Level - base)
		if deep == 0 && i > base { // the next column
			x, y = right+columnGap, top
		}
		boxes[i] = Box{x + deep*indent, y, n.W, n.H}
		y += n.H + Gap
		right = max(right, boxes[i].X+n.W)
	}
	return boxes
}

// tidy is the state of the algorithm. "across" is the axis along which
// siblings stand side by side, "along" that along which levels follow one
// another. Node len(nodes) is an invisible root above all others.
type tidy struct {
	size, along, end           []float64 // across; beginning and end along
	prelim, mod, shift, change []float64
	leftThread, rightThread    []int32
	leftmost, rightmost        []int32 // deepest nodes of the contours
	leftModSum, rightModSum    []float64
	kids, firstKid             []int32 // of i: kids[firstKid[i]:firstKid[i+1]]
	lowest                     []low
}

// low remembers down to where earlier siblings reach, for finding the one that
// a collision is with.
type low struct {
	y     float64
	index int
}

func placeTidy(nodes []Node, down bool) []Box {
	n := len(nodes)
	t := newTidy(nodes, down)
	t.firstWalk(nodes)
	return t.secondWalk(nodes, n, down)
}

func newTidy(nodes []Node, down bool) *tidy {
	n := len(nodes) + 1
	floats := make([]float64, 9*n)
	cut := func() []float64 { c := floats[:n:n]; floats = floats[n:]; return c }
	ints := make([]int32, 6*n+1)
	cutInts := func(k int) []int32 { c := ints[:k:k]; ints = ints[k:]; return c }
	t := &tidy{
		size: cut(), along: cut(), end: cut(), prelim: cut(), mod: cut(), shift: cut(), change: cut(), leftModSum: cut(), rightModSum: cut(),
		leftThread: cutInts(n), rightThread: cutInts(n), leftmost: cutInts(n), rightmost: cutInts(n), kids: cutInts(n), firstKid: cutInts(n + 1),
	}
	var depth []float64 // the largest extent of each level
	for i, m := range nodes {
		a, l := m.W, m.H
		if !down {
			a, l = m.H, m.W
		}
		t.size[i] = a + Gap
		for len(depth) <= m.Level {
			depth = append(depth, 0)
		}
		depth[m.Level] = max(depth[m.Level], l)
	}
	at := make([]float64, len(depth)+1)
	for l, d := range depth {
		at[l+1] = at[l]
		if d > 0 {
			at[l+1] += d + Reach
		}
	}
	first := at[nodes[0].Level]
	for i, m := range nodes {
		t.along[i], t.end[i] = at[m.Level]-first, at[m.Level+1]-first
	}
	t.along[n-1], t.end[n-1] = -1, 0
	t.linkKids(nodes)
	for i := range n {
		t.leftThread[i], t.rightThread[i] = None, None
	}
	return t
}

// linkKids makes the lists of children, in order.
func (t *tidy) linkKids(nodes []Node) {
	root := len(nodes)
	parent := func(i int) int {
		if p := nodes[i].Parent; p != None {
			return p
		}
		return root
	}
	for i := range nodes {
		t.firstKid[parent(i)+1]++
	}
	for i := range root + 1 {
		t.firstKid[i+1] += t.firstKid[i]
	}
	fill := slices.Clone(t.firstKid)
	for i := range nodes {
		p := parent(i)
		t.kids[fill[p]] = int32(i)
		fill[p]++
	}
}

func (t *tidy) below(i int32) []int32 { return t.kids[t.firstKid[i]:t.firstKid[i+1]] }

// firstWalk works from the leaves up: in reverse document order every node
// comes after all that is below it.
func (t *tidy) firstWalk(nodes []Node) {
	for i := len(nodes) - 1; i >= 0; i-- {
		t.gather(int32(i))
	}
	t.gather(int32(len(nodes)))
}

// gather puts the children of a node side by side and the node in their middle.
func (t *tidy) gather(i int32) {
	kids := t.below(i)
	if len(kids) == 0 {
		t.leftmost[i], t.rightmost[i] = i, i
		return
	}
	t.lowest = append(t.lowest[:0], low{t.end[t.leftmost[kids[0]]], 0})
	for k := 1; k < len(kids); k++ {
		reach := t.end[t.rightmost[kids[k]]]
		t.separate(kids, k)
		t.remember(reach, k)
	}
	first, last := kids[0], kids[len(kids)-1]
	t.prelim[i] = (t.prelim[first]+t.mod[first]+t.mod[last]+t.prelim[last]+t.size[last])/2 - t.size[i]/2
	t.leftmost[i], t.leftModSum[i] = t.leftmost[first], t.leftModSum[first]
	t.rightmost[i], t.rightModSum[i] = t.rightmost[last], t.rightModSum[last]
}

func (t *tidy) remember(y float64, index int) {
	for len(t.lowest) > 0 && y >= t.lowest[len(t.lowest)-1].y {
		t.lowest = t.lowest[:len(t.lowest)-1]
	}
	t.lowest = append(t.lowest, low{y, index})
}

// separate moves child k to the right until it touches no earlier sibling.
func (t *tidy) separate(kids []int32, k int) {
	right, left := kids[k-1], kids[k]
	rightSum, leftSum := t.mod[right], t.mod[left]
	hit := len(t.lowest) - 1
	for right != None && left != None {
		for hit > 0 && t.end[right] > t.lowest[hit].y {
			hit--
		}
		if d := rightSum + t.prelim[right] + t.size[right] - (leftSum + t.prelim[left]); d > 0 {
			leftSum += d
			t.moveBranch(kids, k, t.lowest[hit].index, d)
		}
		rightEnd, leftEnd := t.end[right], t.end[left]
		if rightEnd <= leftEnd {
			if right = t.nextRight(right); right != None {
				rightSum += t.mod[right]
			}
		}
		if rightEnd >= leftEnd {
			if left = t.nextLeft(left); left != None {
				leftSum += t.mod[left]
			}
		}
	}
	switch {
	case right == None && left != None:
		t.threadLeft(kids, k, left, leftSum)
	case right != None && left == None:
		t.threadRight(kids, k, right, rightSum)
	}
}

func (t *tidy) nextLeft(i int32) int32 {
	if kids := t.below(i); len(kids) > 0 {
		return kids[0]
	}
	return t.leftThread[i]
}

func (t *tidy) nextRight(i int32) int32 {
	if kids := t.below(i); len(kids) > 0 {
		return kids[len(kids)-1]
	}
	return t.rightThread[i]
}

// moveBranch moves child k by d and spreads the move over the siblings between
// it and the one it hit.
func (t *tidy) moveBranch(kids []int32, k, hit int, d float64) {
	c := kids[k]
	t.mod[c] += d
	t.leftModSum[c] += d
	t.rightModSum[c] += d
	if hit != k-1 {
		share := d / float64(k-hit)
		t.shift[kids[hit+1]] += share
		t.shift[c] -= share
		t.change[c] -= d - share
	}
}

func (t *tidy) threadLeft(kids []int32, k int, to int32, sum float64) {
	first := kids[0]
	from := t.leftmost[first]
	t.leftThread[from] = to
	d := sum - t.mod[to] - t.leftModSum[first]
	t.mod[from] += d
	t.prelim[from] -= d
	t.leftmost[first], t.leftModSum[first] = t.leftmost[kids[k]], t.leftModSum[kids[k]]
}

func (t *tidy) threadRight(kids []int32, k int, to int32, sum float64) {
	c := kids[k]
	from := t.rightmost[c]
	t.rightThread[from] = to
	d := sum - t.mod[to] - t.rightModSum[c]
	t.mod[from] += d
	t.prelim[from] -= d
	t.rightmost[c], t.rightModSum[c] = t.rightmost[kids[k-1]], t.rightModSum[kids[k-1]]
}

// secondWalk adds up the moves from the root down.
func (t *tidy) secondWalk(nodes []Node, root int, down bool) []Box {
	sums := make([]float64, len(nodes)+1)
	boxes := make([]Box, len(nodes))
	t.spread(int32(root))
	sums[root] = t.mod[root]
	least := 0.0
	for i, n := range nodes {
		p := n.Parent
		if p == None {
			p = root
		}
		sums[i] = sums[p] + t.mod[i]
		t.spread(int32(i))
		a := t.prelim[i] + sums[i]
		if i == 0 || a < least {
			least = a
		}
		boxes[i] = Box{X: a, Y: t.along[i], W: n.W, H: n.H}
	}
	for i := range boxes {
		b := &boxes[i]
		b.X -= least
		if !down {
			b.X, b.Y = b.Y, b.X
		}
	}
	return boxes
}

// spread hands the shares of moves to the children between.
func (t *tidy) spread(i int32) {
	d, sum := 0.0, 0.0
	for _, c := range t.below(i) {
		d += t.shift[c]
		sum += d + t.change[c]
		t.mod[c] += sum
	}
}
