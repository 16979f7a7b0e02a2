// Package flow draws where a family of addresses leads: old folders on the left, new ones on the
// right, and bands between them as wide as their visits.
//
// Both sides are folded so that they stay readable: a side begins with the topmost folders, and
// the folder with the most visits is opened again and again while there is room for what is in
// it. So busy folders are told in detail, and quiet ones together. Addresses that nobody visited
// take a twentieth of the width, all together, unless none was visited.
package flow

import (
	"cmp"
	"slices"
	"strings"
)

// Lead is one address with where it leads.
type Lead struct {
	From   string // an address
	To     string // an address, or a name for what is none: a host, "gone"
	Visits int
}

// Node is a folder, or a single address, on one side.
type Node struct {
	Label string // with "/…" where it stands for what is below, too
	Base  string // the address of the folder
	Leads int
	Total int // visits
	Y, H  float64
}

// Band leads from a node on the left to one on the right.
type Band struct {
	Left, Right  int
	Leads, Total int
	Y1, H1       float64 // where it leaves
	Y2, H2       float64 // where it arrives
}

// Picture is the drawing, in units of a pixel; it is Height high and as wide as it is drawn.
type Picture struct {
	Left, Right []Node
	Bands       []Band
	Height      float64

	visits, addresses int
}

// weight is how wide some addresses with visits are beside others.
func (p *Picture) weight(visits, addresses int) int {
	if p.visits == 0 {
		return addresses
	}
	each := max(1, (20*p.addresses+p.visits-1)/p.visits) // of a visit, so that all addresses weigh a twentieth
	return visits*each + addresses
}

// Measures of the drawing.
const (
	gap    = 6.0
	lowest = 15.0 // so that a label fits
)

// Draw draws some addresses with at most so many nodes on each side.
func Draw(leads []Lead, most int) Picture {
	from, to := make([]string, len(leads)), make([]string, len(leads))
	weight := make([]int, len(leads))
	var p Picture
	for i, l := range leads {
		from[i], to[i] = l.From, l.To
		p.visits += l.Visits
	}
	p.addresses = len(leads)
	for i, l := range leads {
		weight[i] = p.weight(l.Visits, 1)
	}
	left, right := fold(from, weight, most), fold(to, weight, most)
	p.Left, p.Right = nodes(left, leads), nodes(right, leads)
	type key struct{ l, r int }
	at := map[key]int{}
	li, ri := index(p.Left), index(p.Right)
	for i, l := range leads {
		k := key{li[left[i]], ri[right[i]]}
		b, ok := at[k]
		if !ok {
			b = len(p.Bands)
			at[k] = b
			p.Bands = append(p.Bands, Band{Left: k.l, Right: k.r})
		}
		p.Bands[b].Leads++
		p.Bands[b].Total += l.Visits
	}
	p.place()
	return p
}

func index(list []Node) map[string]int {
	out := make(map[string]int, len(list))
	for i, n := range list {
		out[n.Label] = i
	}
	return out
}

func nodes(labels []string, leads []Lead) []Node {
	by := map[string]*Node{}
	for i, label := range labels {
		n := by[label]
		if n == nil {
			n = &Node{Label: label, Base: strings.TrimSuffix(label, "/…")}
			by[label] = n
		}
		n.Leads++
		n.Total += leads[i].Visits
	}
	out := make([]Node, 0, len(by))
	for _, n := range by {
		out = append(out, *n)
	}
	slices.SortFunc(out, func(a, b Node) int { return strings.Compare(a.Label, b.Label) })
	return out
}

// place gives nodes and bands their places: the right side in the order in which bands arrive.
func (p *Picture) place() {
	weigh := func(total, leads int) float64 { return float64(p.weight(total, leads)) }
	sum := 0.0
	for _, n := range p.Left {
		sum += weigh(n.Total, n.Leads)
	}
	room := lowest * 1.6 * float64(max(len(p.Left), len(p.Right), 1))
	height := func(n Node) float64 { return max(lowest, weigh(n.Total, n.Leads)/max(sum, 1)*room) }
	stack(p.Left, height)
	middle := make([]float64, len(p.Right))
	for i, n := range p.Right {
		for _, b := range p.Bands {
			if b.Right == i {
				middle[i] += (p.Left[b.Left].Y + p.Left[b.Left].H/2) * weigh(b.Total, b.Leads) / weigh(n.Total, n.Leads)
			}
		}
	}
	p.sortRight(middle)
	stack(p.Right, height)
	p.Height = max(end(p.Left), end(p.Right))
	slices.SortFunc(p.Bands, func(a, b Band) int { return cmp.Or(a.Left-b.Left, a.Right-b.Right) })
	used := make([]float64, len(p.Left))
	for i := range p.Bands {
		b := &p.Bands[i]
		n := p.Left[b.Left]
		b.H1 = n.H * weigh(b.Total, b.Leads) / weigh(n.Total, n.Leads)
		b.Y1 = n.Y + used[b.Left]
		used[b.Left] += b.H1
	}
	used = make([]float64, len(p.Right))
	for i := range p.Bands {
		b := &p.Bands[i]
		n := p.Right[b.Right]
		b.H2 = n.H * weigh(b.Total, b.Leads) / weigh(n.Total, n.Leads)
		b.Y2 = n.Y + used[b.Right]
		used[b.Right] += b.H2
	}
}

func (p *Picture) sortRight(middle []float64) {
	order := make([]int, len(p.Right))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(middle[a], middle[b]) })
	sorted, now := make([]Node, len(order)), make([]int, len(order))
	for k, i := range order {
		sorted[k], now[i] = p.Right[i], k
	}
	p.Right = sorted
	for i := range p.Bands {
		p.Bands[i].Right = now[p.Bands[i].Right]
	}
}

func stack(list []Node, height func(Node) float64) {
	y := 0.0
	for i := range list {
		list[i].Y, list[i].H = y, height(list[i])
		y += list[i].H + gap
	}
}

func end(list []Node) float64 {
	if len(list) == 0 {
		return 0
	}
	return list[len(list)-1].Y + list[len(list)-1].H
}

// part is a folder while it is folded.
type part struct {
	base   string
	below  map[string]*part // by the next segment
	own    int              // weight of the address itself
	weight int              // with all below
	leads  int
}

// fold gives each address the label of the node in which it is.
func fold(addresses []string, weight []int, most int) []string {
	root := &part{below: map[string]*part{}}
	for i, a := range addresses {
		root.add(a, weight[i])
	}
	open := map[string]bool{"": true}
	rest := root.rest(most)
	count := len(root.below)
	if len(rest) > 0 {
		count = most
	}
	for {
		best := root.heaviest(open, most-count)
		if best == nil {
			break
		}
		open[best.base] = true
		count += len(best.below) - 1
		if best.own > 0 {
			count++
		}
	}
	out := make([]string, len(addresses))
	for i, a := range addresses {
		if out[i] = root.label(a, open); rest[segmentsOf(a)[0]] {
			out[i] = Others
		}
	}
	return out
}

// Others is the label of the lightest nodes where there are too many at the top.
const Others = "others"

// rest gives those of the topmost folders that do not find room, the lightest.
func (p *part) rest(most int) map[string]bool {
	if len(p.below) <= most {
		return nil
	}
	list := make([]string, 0, len(p.below))
	for seg := range p.below {
		list = append(list, seg)
	}
	slices.SortFunc(list, func(a, b string) int {
		return cmp.Or(p.below[b].weight-p.below[a].weight, strings.Compare(a, b))
	})
	out := map[string]bool{}
	for _, seg := range list[most-1:] {
		out[seg] = true
	}
	return out
}

// segmentsOf takes an address apart; a name that is none is one segment.
func segmentsOf(a string) []string {
	if !strings.HasPrefix(a, "/") {
		return []string{a}
	}
	list := strings.Split(a[1:], "/")
	for i := range list {
		list[i] = "/" + list[i]
	}
	return list
}

func (p *part) add(a string, weight int) {
	p.weight += weight
	p.leads++
	for _, seg := range segmentsOf(a) {
		next := p.below[seg]
		if next == nil {
			next = &part{base: p.base + seg, below: map[string]*part{}}
			p.below[seg] = next
		}
		p = next
		p.weight += weight
		p.leads++
	}
	p.own += weight
}

// heaviest gives the folder to open next: the heaviest for whose parts there is room.
func (p *part) heaviest(open map[string]bool, room int) (best *part) {
	for _, next := range p.below {
		found := next
		if open[next.base] {
			found = next.heaviest(open, room)
		} else if len(next.below) == 0 || next.more() > room {
			found = nil
		}
		if found != nil && (best == nil || found.weight > best.weight || found.weight == best.weight && found.base < best.base) {
			best = found
		}
	}
	return best
}

// more is how many nodes opening adds.
func (p *part) more() int {
	n := len(p.below) - 1
	if p.own > 0 {
		n++
	}
	return n
}

func (p *part) label(a string, open map[string]bool) string {
	for _, seg := range segmentsOf(a) {
		p = p.below[seg]
		if !open[p.base] {
			if p.leads > 1 && len(p.below) > 0 {
				return p.base + "/…"
			}
			return a
		}
	}
	return a
}
