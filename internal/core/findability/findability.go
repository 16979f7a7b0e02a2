// Package findability measures whether people find pages in a bare hierarchy:
// they are asked where something would be, and choose their way by titles alone.
package findability

import (
	"cmp"
	"math"
	"slices"
	"time"
)

// Node is one entry of the hierarchy as it was when it was put to people.
type Node struct {
	ID     string `json:"id"`
	Parent string `json:"parent,omitempty"`
	Title  string `json:"title"`
}

// Hierarchy is what people choose in.
type Hierarchy struct {
	Nodes    []Node
	at       map[string]int
	children map[string][]int
}

// New makes a hierarchy of nodes in document order.
func New(nodes []Node) *Hierarchy {
	h := &Hierarchy{nodes, make(map[string]int, len(nodes)), map[string][]int{}}
	for i, n := range nodes {
		h.at[n.ID] = i
		h.children[n.Parent] = append(h.children[n.Parent], i)
	}
	return h
}

// Has tells whether an entry is in the hierarchy.
func (h *Hierarchy) Has(id string) bool { _, ok := h.at[id]; return ok }

// Node gives an entry.
func (h *Hierarchy) Node(id string) Node { return h.Nodes[h.at[id]] }

// Below lists what stands right below an entry, "" for the top.
func (h *Hierarchy) Below(id string) []Node {
	out := make([]Node, 0, len(h.children[id]))
	for _, i := range h.children[id] {
		out = append(out, h.Nodes[i])
	}
	return out
}

// Way gives the entries from the top down to one.
func (h *Hierarchy) Way(id string) []Node {
	var out []Node
	for id != "" && h.Has(id) && len(out) <= len(h.Nodes) {
		n := h.Node(id)
		out = append(out, n)
		id = n.Parent
	}
	slices.Reverse(out)
	return out
}

// within tells whether an entry is another or below it.
func (h *Hierarchy) within(id, of string) bool {
	return slices.ContainsFunc(h.Way(id), func(n Node) bool { return n.ID == of })
}

// Try is how one person went about one task.
type Try struct {
	Task   string
	Opened []string // entries in the order in which they were opened, also again
	Chosen string   // "": they gave up
	Took   time.Duration
}

// Outcome is what a try came to.
type Outcome struct {
	Found  bool
	Direct bool // found without turning back
	First  bool // the first choice led to a right page
	Astray []string
}

// Judge holds a try against the right pages.
func (h *Hierarchy) Judge(t Try, right []string) Outcome {
	o := Outcome{Found: slices.Contains(right, t.Chosen)}
	leads := func(id string) bool {
		return slices.ContainsFunc(right, func(r string) bool { return h.within(r, id) || h.within(id, r) })
	}
	down, last := true, ""
	for i, id := range t.Opened {
		down = down && h.Has(id) && h.Node(id).Parent == last
		last = id
		if i == 0 {
			o.First = leads(id)
		}
		if !leads(id) && !slices.Contains(o.Astray, id) {
			o.Astray = append(o.Astray, id)
		}
	}
	if len(t.Opened) == 0 {
		o.First = o.Found
	}
	o.Direct = o.Found && down
	return o
}

// Result is how a task went for all who tried.
type Result struct {
	Tries                int
	Found, Direct, First Share
	Median               time.Duration
	Astray               []Astray // where people went wrong, most first
	Chosen               []Astray // where they said it is, most first
}

// Astray is an entry and how many went there.
type Astray struct {
	ID string
	N  int
}

// Share is a part of some, with the interval in which it lies with 95 %
// confidence (Wilson, Probable inference, 1927).
type Share struct {
	N, Of     int
	Low, High float64
}

const z = 1.959964 // of 95 %, both sides

func newShare(n, of int) Share {
	s := Share{N: n, Of: of, High: 1}
	if of == 0 {
		return s
	}
	p, m := float64(n)/float64(of), float64(of)
	mid, half := (p+z*z/(2*m))/(1+z*z/m), z/(1+z*z/m)*math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	s.Low, s.High = max(mid-half, 0), min(mid+half, 1)
	return s
}

// Part is the share as a number; 0 of none.
func (s Share) Part() float64 {
	if s.Of == 0 {
		return 0
	}
	return float64(s.N) / float64(s.Of)
}

// Difference is how much more one share is than another, with its interval
// (Newcombe, Interval estimation for the difference between independent
// proportions, 1998, method 10).
type Difference struct{ By, Low, High float64 }

// Clear tells whether the difference is more than chance.
func (d Difference) Clear() bool { return d.Low > 0 || d.High < 0 }

// Less gives how much more s is than other.
func (s Share) Less(other Share) Difference {
	p, q := s.Part(), other.Part()
	d := Difference{By: p - q}
	d.Low = d.By - math.Hypot(p-s.Low, other.High-q)
	d.High = d.By + math.Hypot(s.High-p, q-other.Low)
	return d
}

// Sum judges all tries of a task.
func (h *Hierarchy) Sum(tries []Try, right []string) Result {
	r := Result{Tries: len(tries)}
	astray, chosen := map[string]int{}, map[string]int{}
	found, direct, first := 0, 0, 0
	var took []time.Duration
	for _, t := range tries {
		o := h.Judge(t, right)
		found, direct, first = found+one(o.Found), direct+one(o.Direct), first+one(o.First)
		took = append(took, t.Took)
		for _, id := range o.Astray {
			astray[id]++
		}
		chosen[t.Chosen]++
	}
	r.Found, r.Direct, r.First = newShare(found, r.Tries), newShare(direct, r.Tries), newShare(first, r.Tries)
	if slices.Sort(took); len(took) > 0 {
		r.Median = took[len(took)/2]
	}
	r.Astray, r.Chosen = ranked(astray), ranked(chosen)
	return r
}

func one(yes bool) int {
	if yes {
		return 1
	}
	return 0
}

func ranked(n map[string]int) []Astray {
	out := make([]Astray, 0, len(n))
	for id, k := range n {
		out = append(out, Astray{id, k})
	}
	slices.SortFunc(out, func(a, b Astray) int { return cmp.Or(b.N-a.N, cmp.Compare(a.ID, b.ID)) })
	return out
}

// Line is one entry of the hierarchy on which a result is drawn.
type Line struct {
	Node
	Level  int // 1 at the top
	Astray int // who opened it though it leads nowhere
	Chosen int // who said that it is here
	Right  bool
	Leads  bool // a right page is here or below
}

// Drawn lays a result on the hierarchy: where people went astray, what they
// chose and the right pages, with the way to each; gaveUp is who chose none.
func (h *Hierarchy) Drawn(r Result, right []string) (lines []Line, gaveUp int) {
	at := map[string]*Line{}
	for _, n := range h.Nodes {
		at[n.ID] = &Line{Node: n}
	}
	shown := map[string]bool{}
	show := func(id string, note func(*Line)) {
		if l := at[id]; l != nil {
			note(l)
		}
		for _, n := range h.Way(id) {
			shown[n.ID] = true
		}
	}
	for _, a := range r.Astray {
		show(a.ID, func(l *Line) { l.Astray = a.N })
	}
	for _, c := range r.Chosen {
		if show(c.ID, func(l *Line) { l.Chosen = c.N }); c.ID == "" {
			gaveUp = c.N
		}
	}
	for _, id := range right {
		show(id, func(l *Line) { l.Right = true })
		for _, n := range h.Way(id) {
			at[n.ID].Leads = true
		}
	}
	for _, n := range h.Nodes {
		if l := at[n.ID]; shown[n.ID] {
			l.Level = len(h.Way(n.ID))
			lines = append(lines, *l)
		}
	}
	return lines, gaveUp
}
