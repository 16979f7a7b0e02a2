package change

import (
	"errors"
	"slices"

	"candlepath/internal/core/sitemap"
)

// Set is a set of chosen changes.
type Set map[Key]bool

// All is every change that can be chosen.
func All(changes []Change) Set {
	s := make(Set, len(changes))
	for _, c := range changes {
		if c.Aspect != Readdressed {
			s[c.Key] = true
		}
	}
	return s
}

// bearsOnTree tells whether anything in the set changes the tree.
func (s Set) bearsOnTree() bool {
	for k := range s {
		if k.Aspect != Content && k.Aspect != Menu && k.Aspect != Trail {
			return true
		}
	}
	return false
}

// ErrNotClosed says that a set lacks changes without which it makes no tree;
// Closure adds them.
var ErrNotClosed = errors.New("the chosen changes need others")

// Apply gives Live with the chosen changes made. Applying all of them gives
// Next. A sibling that is new among its siblings, or reordered, goes after the
// nearest sibling that precedes it in Next and is there.
func Apply(live, next *sitemap.Tree, chosen Set) (*sitemap.Tree, error) {
	if !chosen.bearsOnTree() {
		return live, nil
	}
	list := partial(live, next, chosen)
	t, err := sitemap.New(list)
	if err != nil {
		return nil, errors.Join(ErrNotClosed, err)
	}
	return t, nil
}

// partial lists the entries of the partial tree, siblings in order.
func partial(live, next *sitemap.Tree, chosen Set) []sitemap.Entry {
	touched := make(map[string]bool, len(chosen)) // what nothing was chosen of stays as it is
	for k := range chosen {
		touched[k.ID] = true
	}
	entries := make(map[string]sitemap.Entry, live.Len())
	children := make(map[string][]string, live.Len()/2) // stayed in place
	for i := range live.Len() {
		e := live.At(i)
		moved := false
		if touched[e.ID] {
			if chosen[Key{e.ID, Removed}] {
				continue
			}
			if j := next.Find(e.ID); j != sitemap.None {
				e, moved = merge(e, next.At(j), chosen)
			}
		}
		entries[e.ID] = e
		if !moved {
			children[e.Parent] = append(children[e.Parent], e.ID)
		}
	}
	newcomers := map[string][]string{} // by parent, in Next's order
	for j := range next.Len() {
		if !touched[next.Ref(j).ID] {
			continue
		}
		e := next.At(j)
		if chosen[Key{e.ID, Added}] && live.Find(e.ID) == sitemap.None {
			entries[e.ID] = e
		} else if p, ok := entries[e.ID]; !ok || !inOrder(live, p, chosen) {
			continue
		}
		newcomers[e.Parent] = append(newcomers[e.Parent], e.ID)
	}
	for parent, ids := range newcomers {
		children[parent] = insert(children[parent], ids, siblingsBefore(next, parent))
	}
	return flatten(entries, children, live, next)
}

// merge takes the chosen aspects of an entry from Next, and tells whether its
// place among siblings is to be Next's.
func merge(e, n sitemap.Entry, chosen Set) (sitemap.Entry, bool) {
	is := func(a Aspect) bool { return chosen[Key{e.ID, a}] }
	moved := is(Reordered)
	if is(Placement) {
		moved = moved || e.Parent != n.Parent
		e.Parent, e.Slug, e.SlugHeld, e.Fixed, e.Kind = n.Parent, n.Slug, n.SlugHeld, n.Fixed, n.Kind
	}
	if is(Withdrawn) || is(Returned) {
		e.Withdrawn = n.Withdrawn
	}
	fields := sitemap.Fields()
	for i := range fields {
		f := &fields[i]
		if f.Counts == sitemap.Alone && is(Aspect(f.Key)) || f.Counts == sitemap.Together && is(Details) {
			f.Copy(&e, &n)
		}
	}
	return e, moved
}

// inOrder tells whether an entry of Live takes its place from Next.
func inOrder(live *sitemap.Tree, e sitemap.Entry, chosen Set) bool {
	i := live.Find(e.ID)
	return chosen[Key{e.ID, Reordered}] || chosen[Key{e.ID, Placement}] && live.Ref(i).Parent != e.Parent
}

// siblingsBefore gives the order of the children of a parent in Next.
func siblingsBefore(next *sitemap.Tree, parent string) []string {
	p := next.Home()
	if parent != "" {
		p = next.Find(parent)
	}
	var ids []string
	if parent == "" && p != sitemap.None {
		ids = append(ids, next.Ref(p).ID)
	}
	for c := range next.Children(p) {
		ids = append(ids, next.Ref(c).ID)
	}
	return ids
}

// insert puts the newcomers, which stand in the order of Next, among those who
// stayed: each after the nearest preceding sibling of Next that is there.
func insert(stayed, newcomers, order []string) []string {
	after := make(map[string]string, len(newcomers)) // newcomer → sibling, "" for first
	there := make(map[string]bool, len(stayed)+len(newcomers))
	for _, id := range stayed {
		there[id] = true
	}
	isNew := make(map[string]bool, len(newcomers))
	for _, id := range newcomers {
		isNew[id] = true
	}
	last := ""
	for _, id := range order {
		if isNew[id] {
			after[id] = last
		}
		if isNew[id] || there[id] {
			last = id
		}
	}
	follow := make(map[string][]string, len(newcomers))
	for _, id := range slices.Backward(newcomers) {
		follow[after[id]] = append(follow[after[id]], id)
	}
	out := make([]string, 0, len(stayed)+len(newcomers))
	var put func(id string)
	put = func(id string) {
		if id != "" {
			out = append(out, id)
		}
		for _, f := range slices.Backward(follow[id]) {
			put(f)
		}
	}
	put("")
	for _, id := range stayed {
		put(id)
	}
	return out
}

// flatten writes the children lists out as entries. Parents need not precede
// their children; sitemap.New sees to that.
func flatten(entries map[string]sitemap.Entry, children map[string][]string, live, next *sitemap.Tree) []sitemap.Entry {
	out := make([]sitemap.Entry, 0, len(entries))
	done := make(map[string]bool, len(children))
	put := func(parent string) {
		if done[parent] {
			return
		}
		done[parent] = true
		for _, id := range children[parent] {
			out = append(out, entries[id])
		}
	}
	put("")
	for _, t := range []*sitemap.Tree{live, next} {
		for i := range t.Len() {
			put(t.Ref(i).ID)
		}
	}
	return out
}
