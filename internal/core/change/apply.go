package change

import (
	"errors"
	"iter"

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
var ErrNotClosed = errors.New("the selected changes depend on others")

// Apply gives Live with the chosen changes made. Applying all of them gives
// Next. A sibling that is new among its siblings, or reordered, goes after the
// nearest sibling that precedes it in Next and is there.
func Apply(live, next *sitemap.Tree, chosen Set) (*sitemap.Tree, error) {
	if !chosen.bearsOnTree() {
		return live, nil
	}
	p := newPartial(live, next, chosen)
	entries, like := p.entries(), live
	if 2*live.Len() < len(entries) { // more of it is new
		like = next
	}
	t, err := like.Alter(entries)
	if err != nil {
		return nil, errors.Join(ErrNotClosed, err)
	}
	return t, nil
}

// partial is the tree of Live with some changes made: who stays where they stood, and
// who take their places from Next.
type partial struct {
	live, next *sitemap.Tree
	stay       []*sitemap.Entry // by index in Live; nil: it goes, or takes another place
	come       []*sitemap.Entry // by index in Next; nil: it does not come
}

func newPartial(live, next *sitemap.Tree, chosen Set) partial {
	p := partial{live, next, live.Refs(), make([]*sitemap.Entry, next.Len())}
	done := make([]bool, live.Len())
	for k := range chosen {
		i, j := live.Find(k.ID), next.Find(k.ID)
		switch {
		case i == sitemap.None && j != sitemap.None && chosen[Key{k.ID, Added}]:
			p.come[j] = next.Ref(j)
		case i == sitemap.None || done[i]:
		case chosen[Key{k.ID, Removed}]:
			p.stay[i], done[i] = nil, true
		case j != sitemap.None:
			e, moved := merge(live.At(i), next.At(j), chosen)
			done[i] = true
			if p.stay[i] = &e; moved {
				p.stay[i], p.come[j] = nil, &e
			}
		}
	}
	return p
}

// entries lists the entries with siblings in order; parents need not precede their
// children.
func (p *partial) entries() []*sitemap.Entry {
	out := make([]*sitemap.Entry, 0, p.live.Len()+16)
	grow, grown := make([]bool, p.next.Len()+1), make([]bool, p.live.Len()+1) // the parents that get newcomers
	var parents []string
	for j, e := range p.come {
		if e == nil || grow[p.above(p.next, j)+1] {
			continue
		}
		grow[p.above(p.next, j)+1] = true
		parents = append(parents, e.Parent)
		if i := parentNamed(p.live, e.Parent); e.Parent == "" || i != sitemap.None {
			grown[i+1] = true
		}
	}
	for i, e := range p.stay {
		if e != nil && !grown[p.above(p.live, i)+1] {
			out = append(out, e)
		}
	}
	for _, parent := range parents {
		out = p.siblings(out, parent)
	}
	return out
}

// above gives the index of the entry below which another stands; home stands among those
// at the top.
func (*partial) above(t *sitemap.Tree, i int) int {
	if i == t.Home() {
		return i
	}
	return t.Parent(i)
}

// parentNamed gives the index of a parent: home, or None, for those at the top.
func parentNamed(t *sitemap.Tree, id string) int {
	if id == "" {
		return t.Home()
	}
	return t.Find(id)
}

// siblings appends those who will stand below a parent: those who come each after the
// nearest preceding sibling of Next that is there.
func (p *partial) siblings(out []*sitemap.Entry, parent string) []*sitemap.Entry {
	after := map[int][]*sitemap.Entry{} // who come, by the index in Live of whom they follow
	last := sitemap.None
	for j := range below(p.next, parent) {
		if e := p.come[j]; e != nil {
			after[last] = append(after[last], e)
			continue
		}
		i := p.live.FindNear(p.next.Ref(j).ID, last+1)
		if i != sitemap.None && p.stay[i] != nil && p.stay[i].Parent == parent {
			last = i
		}
	}
	out = append(out, after[sitemap.None]...)
	if parent != "" && p.live.Find(parent) == sitemap.None {
		return out
	}
	for i := range below(p.live, parent) {
		if p.stay[i] != nil {
			out = append(append(out, p.stay[i]), after[i]...)
		}
	}
	return out
}

// below gives the entries that have a parent, home among those at the top.
func below(t *sitemap.Tree, parent string) iter.Seq[int] {
	return func(yield func(int) bool) {
		at := parentNamed(t, parent)
		if parent == "" && at != sitemap.None && !yield(at) {
			return
		}
		for c := range t.Children(at) {
			if !yield(c) {
				return
			}
		}
	}
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
