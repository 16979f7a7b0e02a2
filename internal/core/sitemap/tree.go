package sitemap

import (
	"fmt"
	"iter"
	"slices"
	"strings"
	"sync"

	"candlepath/internal/core/address"
)

// The limits of a sitemap: how many entries it may have, and how many levels may
// stand below each other.
const (
	MaxRows   = 200_000
	MaxLevels = 64
)

// None is the index of no entry: the parent of what stands at the top.
const None = -1

// Tree is an immutable sitemap. Entries are named by their index in document
// order, from 0 to Len()-1; None stands for the top.
type Tree struct {
	entries []*Entry // shared by trees made of each other, and never changed
	parent  []int32
	end     []int32 // index after the last entry of the branch
	level   []int32
	claim   []string // own address or group segment, "" where there is none
	prefix  []string // what addresses of children start with
	ids     slots    // a number for each id, the same in trees made of each other
	placed  []int32  // where the entry of each number stands, or None
	slot    []int32  // the number of the entry at each index
	home    int

	claims lazy[directory]
	served lazy[directory]
	lower  lazy[[]string]          // titles in lower case
	named  func() map[string]int32 // the first entry of each title, by titleKey
}

// Clash is two entries that claim the same address.
type Clash struct {
	Address       string
	First, Second int
}

// ShapeError says why entries form no tree.
type ShapeError struct {
	ID      string
	Parent  string
	Problem ShapeProblem
}

// ShapeProblem is a way in which entries can fail to form a tree.
type ShapeProblem string

// The shape problems.
const (
	DuplicateID   ShapeProblem = "is listed twice"
	UnknownParent ShapeProblem = "has a parent that is not listed"
	Cycle         ShapeProblem = "is below itself"
	MissingID     ShapeProblem = "has no id"
)

func (e *ShapeError) Error() string {
	if e.Problem == UnknownParent {
		return fmt.Sprintf("entry %q %s: %q", e.ID, e.Problem, e.Parent)
	}
	return fmt.Sprintf("entry %q %s", e.ID, e.Problem)
}

// New builds a tree. Siblings take the order in which they stand in entries;
// parents may come later than their children. The slice is not kept.
func New(entries []Entry) (*Tree, error) { return build(pointers(slices.Clone(entries))) }

// pointers gives a list of what is in a list.
func pointers(entries []Entry) []*Entry {
	out := make([]*Entry, len(entries))
	for i := range entries {
		out[i] = &entries[i]
	}
	return out
}

func build(entries []*Entry) (*Tree, error) {
	t := &Tree{home: None}
	handed, first, next, top, err := link(entries)
	if err != nil {
		return nil, err
	}
	t.ids, t.placed, t.slot = slots{first: handed}, slices.Repeat([]int32{None}, len(entries)), make([]int32, 0, len(entries))
	t.place(entries, first, next, top, func(from int32) int32 { return from })
	if len(t.entries) < len(entries) {
		return nil, cycleIn(entries, t.placed)
	}
	t.deriveAddresses(nil, nil)
	t.prepare()
	return t, nil
}

// prepare has the tree make its index of titles as soon as somebody asks for it.
func (t *Tree) prepare() {
	t.named = sync.OnceValue(func() map[string]int32 {
		return t.index(func(i int) string {
			if t.entries[i].Kind == Reference {
				return ""
			}
			return titleKey(t.entries[i].Title)
		})
	})
}

// Ranked builds a tree from entries in any order, siblings sorted by rank.
func Ranked(entries []Entry) (*Tree, error) { return ranked(pointers(slices.Clone(entries))) }

func ranked(entries []*Entry) (*Tree, error) {
	slices.SortFunc(entries, func(a, b *Entry) int {
		if c := strings.Compare(a.Rank, b.Rank); c != 0 {
			return c
		}
		return strings.Compare(a.ID, b.ID)
	})
	return build(entries)
}

// Renewed gives a tree, or no tree yet, without some entries and with others that came
// or are different now, siblings sorted by rank. The slices are kept.
func Renewed(t *Tree, gone []string, came []Entry) (*Tree, error) {
	if t == nil {
		return Ranked(came)
	}
	if len(gone) == 0 && len(came) == 0 {
		return t, nil
	}
	now := make(map[string]*Entry, len(gone)+len(came)) // nil: gone
	for _, id := range gone {
		now[id] = nil
	}
	for i := range came {
		now[came[i].ID] = &came[i]
	}
	entries, moved := make([]*Entry, 0, len(t.entries)+len(came)), false
	for i := range t.entries {
		e, touched := now[t.entries[i].ID]
		switch was := t.entries[i]; {
		case !touched:
			entries = append(entries, was)
		case e != nil:
			entries = append(entries, e)
			moved = moved || e.Rank != was.Rank || e.Parent != was.Parent || e.IsHome() != was.IsHome()
			delete(now, e.ID)
		default:
			moved = true
		}
	}
	for i := range came {
		if now[came[i].ID] != nil {
			entries, moved = append(entries, &came[i]), true
		}
	}
	if moved {
		return t.alter(entries, byRank)
	}
	return t.Alter(entries)
}

// link makes child lists of the entries: pos tells where each stands among them,
// first[i] and next[i] are such positions, top the first entry at the top. The home page, if there is one, is made the
// parent of the others at the top.
func link(entries []*Entry) (pos map[string]int32, first, next []int32, top int32, err error) {
	pos = make(map[string]int32, len(entries))
	home := int32(None)
	for i, e := range entries {
		if e.ID == "" {
			return nil, nil, nil, 0, &ShapeError{ID: e.Title, Problem: MissingID}
		}
		if _, twice := pos[e.ID]; twice {
			return nil, nil, nil, 0, &ShapeError{ID: e.ID, Problem: DuplicateID}
		}
		pos[e.ID] = int32(i)
		if home == None && e.IsHome() {
			home = int32(i)
		}
	}
	first = slices.Repeat([]int32{None}, len(entries))
	next = slices.Repeat([]int32{None}, len(entries))
	top = None
	for i := len(entries) - 1; i >= 0; i-- {
		p := home
		if id := entries[i].Parent; id != "" {
			at, ok := pos[id]
			if !ok {
				return nil, nil, nil, 0, &ShapeError{ID: entries[i].ID, Parent: id, Problem: UnknownParent}
			}
			p = at
		}
		switch {
		case int32(i) == home:
		case p == None:
			next[i], top = top, int32(i)
		default:
			next[i], first[p] = first[p], int32(i)
		}
	}
	if home != None {
		top = home
	}
	return pos, first, next, top, nil
}

// place puts the linked entries into document order; slot tells the number of what
// was handed in at a position.
func (t *Tree) place(entries []*Entry, first, next []int32, top int32, slot func(int32) int32) {
	t.entries = make([]*Entry, 0, len(entries))
	t.parent = make([]int32, 0, len(entries))
	t.end = make([]int32, len(entries))
	t.level = make([]int32, 0, len(entries))
	type frame struct{ from, at, parent int32 }
	var open []frame
	from, parent, level := top, int32(None), int32(1)
	for from != None || len(open) > 0 {
		if from == None {
			f := open[len(open)-1]
			open = open[:len(open)-1]
			t.end[f.at] = int32(len(t.entries))
			from, parent = next[f.from], f.parent
			level--
			continue
		}
		at := int32(len(t.entries))
		e := entries[from]
		if at == 0 && e.IsHome() {
			t.home, level = 0, 0
		}
		if t.home == 0 && e.Parent != "" && e.Parent == t.entriesHomeID() {
			top := *e
			top.Parent, e = "", &top
		}
		t.entries = append(t.entries, e)
		t.parent = append(t.parent, parent)
		t.level = append(t.level, level)
		t.slot = append(t.slot, slot(from))
		t.placed[slot(from)] = at
		open = append(open, frame{from, at, parent})
		from, parent = first[from], at
		level++
	}
}

func (t *Tree) entriesHomeID() string {
	if len(t.entries) == 0 {
		return ""
	}
	return t.entries[0].ID
}

// cycleIn names one entry that is below itself, the first in file order.
func cycleIn(entries []*Entry, placed []int32) error {
	parent := make(map[string]string, len(entries))
	for _, e := range entries {
		parent[e.ID] = e.Parent
	}
	for i, e := range entries {
		if placed[i] != None {
			continue
		}
		id := e.ID
		for range entries { // walk up until surely inside the ring
			id = parent[id]
		}
		return &ShapeError{ID: id, Problem: Cycle}
	}
	return &ShapeError{Problem: Cycle}
}

// deriveAddresses makes the addresses of all entries. Those that are as they were in
// another tree it takes from there; before tells where each stood in it.
func (t *Tree) deriveAddresses(was *Tree, before []int32) {
	t.claim = make([]string, len(t.entries))
	t.prefix = make([]string, len(t.entries))
	for i := range t.entries {
		e := t.entries[i]
		above := "/"
		if p := t.parent[i]; p != None {
			above = t.prefix[p]
		}
		if was != nil && before[i] != None && was.derivesLike(int(before[i]), e, above) {
			t.claim[i], t.prefix[i] = was.claim[before[i]], was.prefix[before[i]]
			continue
		}
		switch {
		case !e.Kind.HoldsChildren():
		case e.Fixed != "":
			t.claim[i] = e.Fixed
		case e.Slug != "":
			t.claim[i] = address.Join(above, "/"+e.Slug)
		}
		t.prefix[i] = above
		if t.claim[i] != "" {
			t.prefix[i] = t.claim[i]
		}
	}
}

// derivesLike tells whether an entry below an address has the address that the entry
// at an index has.
func (t *Tree) derivesLike(i int, e *Entry, above string) bool {
	was, wasAbove := t.entries[i], "/"
	if p := t.parent[i]; p != None {
		wasAbove = t.prefix[p]
	}
	return was.Slug == e.Slug && was.Fixed == e.Fixed && was.Kind == e.Kind && wasAbove == above
}

func (t *Tree) index(key func(int) string) map[string]int32 {
	m := make(map[string]int32, len(t.entries))
	for i := range t.entries {
		if a := key(i); a != "" {
			if _, taken := m[a]; !taken {
				m[a] = int32(i)
			}
		}
	}
	return m
}

// Len is the number of entries.
func (t *Tree) Len() int { return len(t.entries) }

// At gives the entry at an index.
func (t *Tree) At(i int) Entry { return *t.entries[i] }

// Ref gives the entry at an index without copying it. It must not be changed.
func (t *Tree) Ref(i int) *Entry { return t.entries[i] }

// Entries gives a copy of all entries in document order.
func (t *Tree) Entries() []Entry {
	out := make([]Entry, len(t.entries))
	for i, e := range t.entries {
		out[i] = *e
	}
	return out
}

// Refs lists all entries in document order. The list may be changed, the entries must
// not: others take their places.
func (t *Tree) Refs() []*Entry { return slices.Clone(t.entries) }

// Find gives the index of an entry, or None.
func (t *Tree) Find(id string) int {
	if s := t.ids.of(id); s != None {
		return int(t.placed[s])
	}
	return None
}

// FindNear gives the index of an entry, or None. It looks first where the entry is
// believed to be, which spares most lookups where two trees are gone through side by
// side.
func (t *Tree) FindNear(id string, guess int) int {
	if guess >= 0 && guess < len(t.entries) && t.entries[guess].ID == id {
		return guess
	}
	return t.Find(id)
}

// Home is the index of the home page, or None.
func (t *Tree) Home() int { return t.home }

// LowerTitles gives the titles of all entries in lower case, for looking through them. The
// list must not be changed.
func (t *Tree) LowerTitles() []string {
	return *t.lower.get(func() *[]string {
		out := make([]string, len(t.entries))
		for i, e := range t.entries {
			out[i] = strings.ToLower(e.Title)
		}
		return &out
	})
}

// Parent is the index of the parent; the home page for entries at the top.
func (t *Tree) Parent(i int) int { return int(t.parent[i]) }

// Level is 0 for home, 1 for the top and one more below each.
func (t *Tree) Level(i int) int { return int(t.level[i]) }

// End is the index after the last entry of the branch that starts at i. The
// entries i+1 to End(i)-1 are all those below i.
func (t *Tree) End(i int) int {
	if i == None {
		return len(t.entries)
	}
	return int(t.end[i])
}

// Children gives the entries right below i in order; None gives the top.
func (t *Tree) Children(i int) iter.Seq[int] {
	return func(yield func(int) bool) {
		for c := i + 1; c < t.End(i); c = int(t.end[c]) {
			if !yield(c) {
				return
			}
		}
	}
}

// HasChildren tells whether anything is below i.
func (t *Tree) HasChildren(i int) bool { return t.End(i) > i+1 }

// Contains tells whether entry i is b or below it.
func (t *Tree) Contains(b, i int) bool { return b <= i && i < t.End(b) }

// Address is the address that the page at i has or, withdrawn, would have
// again; "" for entries without a page.
func (t *Tree) Address(i int) string {
	if t.entries[i].Kind.IsPage() {
		return t.claim[i]
	}
	return ""
}

// Served is the address at which readers get the page at i, or "".
func (t *Tree) Served(i int) string {
	if t.entries[i].Withdrawn {
		return ""
	}
	return t.Address(i)
}

// ServedOf is the address at which readers get an entry, or "", also where there is no such entry.
func (t *Tree) ServedOf(id string) string {
	if i := t.Find(id); i != None {
		return t.Served(i)
	}
	return ""
}

// Claim is the page's address or the segment that a group gives, or "".
func (t *Tree) Claim(i int) string { return t.claim[i] }

// Prefix is what the addresses of the entries below i start with.
func (t *Tree) Prefix(i int) string {
	if i == None {
		return "/"
	}
	return t.prefix[i]
}

// PageAt gives the page served at a normal address, or None.
func (t *Tree) PageAt(addr string) int { return t.servedBy().find(t, addr, t.Served) }

// ClaimedBy gives the entry that claims a normal address first, or None.
func (t *Tree) ClaimedBy(addr string) int {
	return t.claims.get(func() *directory { return t.list(t.Claim) }).find(t, addr, t.Claim)
}

func (t *Tree) servedBy() *directory {
	return t.served.get(func() *directory { return t.list(t.Served) })
}

// Clashes lists the pages at whose address another page is served before them.
func (t *Tree) Clashes() []Clash {
	if !t.servedBy().twice {
		return nil
	}
	var found []Clash
	for i := range t.entries {
		if a := t.Served(i); a != "" {
			if first := t.PageAt(a); first != i {
				found = append(found, Clash{a, first, i})
			}
		}
	}
	return found
}

// Referred follows a reference to the entry it stands for, through references
// to references; None where it leads nowhere or in a ring.
func (t *Tree) Referred(i int) int {
	for range 64 {
		if i == None || t.entries[i].Kind != Reference {
			return i
		}
		i = t.Find(t.entries[i].Target)
	}
	return None
}

// Path gives the titles from the top to the entry, without home's.
func (t *Tree) Path(i int) []string {
	var titles []string
	for ; i != None && i != t.home; i = t.Parent(i) {
		titles = append(titles, t.entries[i].Title)
	}
	slices.Reverse(titles)
	return titles
}
