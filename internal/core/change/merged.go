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
	m := merger{live: live, next: next, children: map[string][]string{}, of: map[string][]Change{}}
	for _, c := range changes {
		m.of[c.ID] = append(m.of[c.ID], c)
	}
	for j := range next.Len() {
		m.children[m.parent(next, j)] = append(m.children[m.parent(next, j)], next.Ref(j).ID)
	}
	for i := range live.Len() {
		if e := live.Ref(i); next.Find(e.ID) == sitemap.None {
			m.insert(i)
		}
	}
	m.put("", 0)
	return m.out
}

type merger struct {
	live, next *sitemap.Tree
	children   map[string][]string
	of         map[string][]Change
	out        []Row
}

// parent names what an entry stands below; "" is above home, or above the top
// where there is no home.
func (m *merger) parent(t *sitemap.Tree, i int) string {
	if p := t.Parent(i); p != sitemap.None {
		return t.Ref(p).ID
	}
	return ""
}

// insert puts a removed entry after the sibling of Live that stands nearest
// before it and is there.
func (m *merger) insert(i int) {
	p := m.parent(m.live, i)
	siblings := m.children[p]
	at := 0
	for s := range m.live.Children(m.live.Parent(i)) {
		if s >= i {
			break
		}
		if k := slices.Index(siblings, m.live.Ref(s).ID); k >= 0 {
			at = k + 1
		}
	}
	m.children[p] = slices.Insert(siblings, at, m.live.Ref(i).ID)
}

func (m *merger) put(parent string, level int) (touched bool) {
	for _, id := range m.children[parent] {
		at := len(m.out)
		m.out = append(m.out, Row{ID: id, Level: level, Live: m.live.Find(id), Next: m.next.Find(id), Changes: m.of[id]})
		below := m.put(id, level+1)
		m.out[at].Touched = below || len(m.of[id]) > 0
		touched = touched || m.out[at].Touched
	}
	return touched
}
