package change

import (
	"slices"

	"candlepath/internal/core/sitemap"
)

// Row is one entry of two trees laid over each other.
type Row struct {
	ID      string
	Level   int
	Live    int // its index there, or None
	Next    int
	Changes []Change
	Touched bool // it or something below it changes
}

// Merged lays Next over Live: Next in its order, and what was removed where it
// stood, after the nearest sibling before it that is there.
func Merged(live, next *sitemap.Tree, changes []Change) []Row {
	m := merger{live: live, next: next, first: map[node]node{}, after: map[node]node{}, of: map[string][]Change{}, out: make([]Row, 0, next.Len())}
	for _, c := range changes {
		m.of[c.ID] = append(m.of[c.ID], c)
	}
	m.is = make([]int32, live.Len())
	m.was = slices.Repeat([]int32{sitemap.None}, next.Len())
	near := sitemap.None
	for i := range m.is {
		j := next.FindNear(live.Ref(i).ID, near+1)
		if m.is[i] = int32(j); j != sitemap.None {
			m.was[j], near = int32(i), j
		}
	}
	for i := sitemap.None; i < live.Len(); i++ {
		m.insertBelow(i)
	}
	m.below(sitemap.None, 0)
	return m.out
}

// node is an entry of Next by its index, or one that was removed by its index in Live,
// counted on from the last of Next; None is above them all.
type node = int

type merger struct {
	live, next   *sitemap.Tree
	is, was      []int32       // where the entries of Live are in Next, and the other way round
	first, after map[node]node // removed entries: the first below another, and the one right after it
	of           map[string][]Change
	out          []Row
}

// insertBelow puts each removed entry below one of Live after the sibling that stands
// nearest before it and is there.
func (m *merger) insertBelow(parent int) {
	at, last := sitemap.None, sitemap.None
	if parent != sitemap.None {
		at = m.nodeOf(parent)
	}
	for i := range m.live.Children(parent) {
		switch n := m.nodeOf(i); {
		case n < m.next.Len():
			if m.next.Parent(n) == at {
				last = n
			}
		case last == sitemap.None:
			m.first[at], last = n, n
		default:
			m.after[last], last = n, n
		}
	}
}

func (m *merger) nodeOf(i int) node {
	if j := int(m.is[i]); j != sitemap.None {
		return j
	}
	return m.next.Len() + i
}

// below tells what stands below a node, and whether anything of it changes.
func (m *merger) below(parent node, level int) (touched bool) {
	if n, ok := m.first[parent]; ok {
		touched = m.put(n, level)
	}
	if parent >= m.next.Len() {
		return touched
	}
	for j := range m.next.Children(parent) {
		touched = m.put(j, level) || touched
	}
	return touched
}

// put tells a node with all below it, and the removed entries after it.
func (m *merger) put(n node, level int) (touched bool) {
	for there := true; there; {
		at, r := len(m.out), Row{Level: level, Live: n - m.next.Len(), Next: n}
		if n < m.next.Len() {
			r.ID, r.Live = m.next.Ref(n).ID, int(m.was[n])
		} else {
			r.ID, r.Next = m.live.Ref(r.Live).ID, sitemap.None
		}
		r.Changes = m.of[r.ID]
		m.out = append(m.out, r)
		below := m.below(n, level+1)
		m.out[at].Touched = below || len(r.Changes) > 0
		touched = touched || m.out[at].Touched
		n, there = m.after[n]
	}
	return touched
}
