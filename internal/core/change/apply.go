package change

import (
	"errors"
	"maps"
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

// readdressing counts the changes by which addresses come, go or change hands.
func (s Set) readdressing() (n int) {
	for k := range s {
		switch k.Aspect {
		case Added, Removed, Placement, Withdrawn, Returned:
			n++
		}
	}
	return n
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
	p := newPartial(live, next, chosen)
	t, err := live.Alter(p.entries())
	if err != nil {
		return nil, errors.Join(ErrNotClosed, err)
	}
	return t, nil
}

// partial is the tree of Live with some changes made. What nothing was chosen of
// stays as it is, so it knows only what was.
type partial struct {
	live, next *sitemap.Tree
	chosen     Set
	merged     map[string]sitemap.Entry // what was chosen of, as far as it is there
	moved      map[string]bool          // of them, those who do not stand where they did
	newcomers  map[string][]string      // by parent, in Next's order
}

func newPartial(live, next *sitemap.Tree, chosen Set) *partial {
	p := &partial{live, next, chosen, map[string]sitemap.Entry{}, map[string]bool{}, map[string][]string{}}
	var places []int // in Next
	for k := range chosen {
		if _, done := p.moved[k.ID]; done {
			continue
		}
		p.moved[k.ID] = false
		i, j := live.Find(k.ID), next.Find(k.ID)
		if j != sitemap.None {
			places = append(places, j)
		}
		switch {
		case i != sitemap.None && chosen[Key{k.ID, Removed}]:
			p.moved[k.ID] = true
		case i != sitemap.None && j != sitemap.None:
			p.merged[k.ID], p.moved[k.ID] = merge(live.At(i), next.At(j), chosen)
		case i != sitemap.None:
			p.merged[k.ID] = live.At(i)
		case j != sitemap.None && chosen[Key{k.ID, Added}]:
			p.merged[k.ID] = next.At(j)
		}
	}
	slices.Sort(places)
	for _, j := range places {
		e := next.Ref(j)
		if m, there := p.merged[e.ID]; there && (live.Find(e.ID) == sitemap.None || inOrder(live, m, chosen)) {
			p.newcomers[e.Parent] = append(p.newcomers[e.Parent], e.ID)
		}
	}
	return p
}

// entries lists the entries with siblings in order; parents need not precede their
// children.
func (p *partial) entries() []sitemap.Entry {
	out := make([]sitemap.Entry, 0, p.live.Len()+len(p.merged))
	stayed := map[string][]string{} // the children of those that get newcomers
	for i := range p.live.Len() {
		e := p.live.Ref(i)
		moved, touched := p.moved[e.ID]
		if moved {
			continue
		}
		if _, grows := p.newcomers[e.Parent]; grows {
			stayed[e.Parent] = append(stayed[e.Parent], e.ID)
		} else if touched {
			out = append(out, p.merged[e.ID])
		} else {
			out = append(out, *e)
		}
	}
	for _, parent := range slices.Sorted(maps.Keys(p.newcomers)) {
		for _, id := range insert(stayed[parent], p.newcomers[parent], siblingsBefore(p.next, parent)) {
			e, touched := p.merged[id]
			if !touched {
				e = p.live.At(p.live.Find(id))
			}
			out = append(out, e)
		}
	}
	return out
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
