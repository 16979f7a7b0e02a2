package sitemap

import (
	"maps"
	"slices"
	"strings"
)

// A tree that is made of another shares with it what it can. What follows from the
// places of entries is the same where none moved, came or went. Where some did, most
// entries still stand beside those that they stood beside: their ids, addresses and
// the indexes of both are taken over, and the few that are different are laid over
// them. Where they are no longer few, the tree is made afresh.

// fewer tells whether so many are still few beside n.
func fewer(late, n int) bool { return late <= n/8+64 }

// slots gives each id a number. first is shared by trees made of each other and never
// changes; late are those that came since.
type slots struct{ first, late map[string]int32 }

func (s slots) of(id string) int32 {
	if n, ok := s.first[id]; ok {
		return n
	}
	if n, ok := s.late[id]; ok {
		return n
	}
	return None
}

func (s slots) len() int { return len(s.first) + len(s.late) }

// sorting is how siblings come to stand in a tree.
type sorting bool

const (
	asListed sorting = false
	byRank   sorting = true
)

// Alter gives the tree of entries most of which stand as those of t do: what New gives,
// sooner. The slice may be kept.
func (t *Tree) Alter(entries []*Entry) (*Tree, error) { return t.alter(entries, asListed) }

func (t *Tree) alter(entries []*Entry, o sorting) (*Tree, error) {
	if len(entries) == len(t.entries) && o == asListed {
		if next := t.withFacts(entries); next != nil {
			return next, nil
		}
	}
	if next := t.moved(entries, o); next != nil {
		return next, nil
	}
	if o == byRank {
		return ranked(entries)
	}
	return build(entries)
}

// withFacts gives the tree of entries of which all stand where those of t do, or nil.
func (t *Tree) withFacts(entries []*Entry) *Tree {
	readdressed := false
	var changed []int32 // that are perhaps served elsewhere
	for i := range entries {
		was, is := t.entries[i], entries[i]
		if was == is {
			continue
		}
		if was.ID != is.ID || was.Parent != is.Parent || was.IsHome() != is.IsHome() {
			return nil
		}
		readdressed = readdressed || was.Slug != is.Slug || was.Fixed != is.Fixed || was.Kind != is.Kind
		if was.Withdrawn != is.Withdrawn || was.Kind != is.Kind {
			changed = append(changed, int32(i))
		}
	}
	next := &Tree{entries: entries, parent: t.parent, end: t.end, level: t.level, ids: t.ids, placed: t.placed, slot: t.slot, home: t.home, claim: t.claim, prefix: t.prefix}
	if readdressed {
		before := make([]int32, len(entries))
		for i := range before {
			before[i] = int32(i)
		}
		next.deriveAddresses(t, before)
		for i := range entries {
			if t.claim[i] != next.claim[i] {
				changed = append(changed, int32(i))
			}
		}
	}
	next.takeOver(t, changed)
	next.takeTitles(t, func(i int) int { return i })
	next.prepare()
	return next
}

// moved gives the tree of entries of which some moved, came or went, or nil where
// there are many or where they form no tree.
func (t *Tree) moved(entries []*Entry, o sorting) *Tree {
	if len(t.entries) == 0 {
		return nil
	}
	slot, before, ids := t.number(entries)
	if slot == nil {
		return nil
	}
	at := slices.Repeat([]int32{None}, ids.len()) // where each was handed in
	for i, s := range slot {
		if at[s] != None {
			return nil
		}
		at[s] = int32(i)
	}
	first, next, top := t.linkAgain(entries, before, ids, at)
	if first == nil {
		return nil
	}
	if o == byRank {
		top = sortSiblings(entries, first, next, top)
	}
	n := &Tree{home: None, ids: ids, placed: slices.Repeat([]int32{None}, ids.len()), slot: make([]int32, 0, len(entries))}
	n.place(entries, first, next, top, func(from int32) int32 { return slot[from] })
	if len(n.entries) < len(entries) {
		return nil
	}
	was := make([]int32, len(entries)) // by index now
	for i, s := range n.slot {
		was[i] = before[at[s]]
	}
	n.deriveAddresses(t, was)
	var changed []int32
	for i, b := range was {
		if b == None || t.claim[b] != n.claim[i] || t.entries[b].Withdrawn != n.entries[i].Withdrawn || t.entries[b].Kind != n.entries[i].Kind {
			changed = append(changed, int32(i))
		}
	}
	n.takeOver(t, changed)
	n.takeTitles(t, func(i int) int { return int(was[i]) })
	n.prepare()
	return n
}

// number gives the numbers of entries, and where in t each stands. Those that t does
// not know get numbers of their own. It gives up where they are many.
func (t *Tree) number(entries []*Entry) (slot, before []int32, ids slots) {
	slot, before, ids = make([]int32, len(entries)), make([]int32, len(entries)), t.ids
	guess, fresh := None, false
	for i := range entries {
		id := entries[i].ID
		b := t.FindNear(id, guess+1)
		if before[i] = int32(b); b != None {
			slot[i], guess = t.slot[b], b
			continue
		}
		s := ids.of(id) // it was there once
		if s == None {
			if !fresh {
				ids.late, fresh = maps.Clone(ids.late), true
				if ids.late == nil {
					ids.late = map[string]int32{}
				}
			}
			s = int32(ids.len())
			ids.late[id] = s
			if id == "" || !fewer(len(ids.late), len(t.entries)) {
				return nil, nil, ids
			}
		}
		slot[i] = s
	}
	return slot, before, ids
}

// linkAgain is link with what t knows of most parents. It gives up where there is one
// that is not listed.
func (t *Tree) linkAgain(entries []*Entry, before []int32, ids slots, at []int32) (first, next []int32, top int32) {
	home := int32(None)
	for i := range entries {
		if entries[i].IsHome() {
			home = int32(i)
			break
		}
	}
	first, next = slices.Repeat([]int32{None}, len(entries)), slices.Repeat([]int32{None}, len(entries))
	top = None
	for i := len(entries) - 1; i >= 0; i-- {
		p := home
		if id := entries[i].Parent; id != "" {
			var s int32
			if b := before[i]; b != None && t.entries[b].Parent == id {
				s = t.slot[t.parent[b]]
			} else {
				s = ids.of(id)
			}
			if s == None || at[s] == None {
				return nil, nil, None
			}
			p = at[s]
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
	return first, next, top
}

// sortSiblings brings the children of each entry into the order of their ranks, and
// gives the first at the top.
func sortSiblings(entries []*Entry, first, next []int32, top int32) int32 {
	before := func(a, b int32) int {
		if c := strings.Compare(entries[a].Rank, entries[b].Rank); c != 0 {
			return c
		}
		return strings.Compare(entries[a].ID, entries[b].ID)
	}
	var run []int32
	sorted := func(from int32) int32 {
		run = run[:0]
		for c := from; c != None; c = next[c] {
			run = append(run, c)
		}
		if slices.IsSortedFunc(run, before) {
			return from
		}
		slices.SortFunc(run, before)
		for k, c := range run[:len(run)-1] {
			next[c] = run[k+1]
		}
		next[run[len(run)-1]] = None
		return run[0]
	}
	for p := range first {
		first[p] = sorted(first[p])
	}
	return sorted(top)
}
