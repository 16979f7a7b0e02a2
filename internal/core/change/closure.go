package change

import (
	"fmt"
	"slices"

	"candlepath/internal/core/sitemap"
)

// Dependency is a change that a chosen one needs, and why.
type Dependency struct {
	Key
	Needs Key // the change that needs it
	Why   string
}

// Closure gives the least set of changes that holds the chosen ones and makes
// a whole tree in which no two pages share an address that they do not share in
// Next, with the reason for each change that was pulled in:
//
//   - an added entry or a placement needs its new parent to be there and able
//     to hold it;
//   - a placement that takes an address needs the change by which its present
//     holder leaves it, on either side possibly a change further up;
//   - a removal needs each live entry below removed or placed elsewhere;
//   - placements that together reverse an ancestry go together;
//   - a placement that turns an entry into a link needs where it leads.
//
// Where it had to apply the set to see that, it gives the tree, too.
func Closure(live, next *sitemap.Tree, changes []Change, chosen Set) (Set, []Dependency, *sitemap.Tree) {
	c := &closer{live: live, next: next, open: make(Set, len(changes)), set: make(Set, len(chosen))}
	for _, ch := range changes {
		if ch.Aspect != Readdressed {
			c.open[ch.Key] = true
		}
	}
	for _, ch := range changes {
		if chosen[ch.Key] && c.open[ch.Key] {
			c.take(ch.Key)
		}
	}
	for c.drain(); c.untangle() || c.clashes(); c.drain() {
	}
	return c.set, c.pulled, c.applied
}

type closer struct {
	live, next *sitemap.Tree
	open       Set // every change there is
	set        Set
	queue      []Key
	pulled     []Dependency
	applied    *sitemap.Tree // with the set, if that was needed
}

func (c *closer) take(k Key) {
	if !c.set[k] {
		c.set[k] = true
		c.queue = append(c.queue, k)
	}
}

// need pulls a change in if there is such a change and it is not in yet. Most are, so why
// is worded only then.
func (c *closer) need(k, by Key, why func() string) bool {
	if c.set[k] || !c.open[k] {
		return false
	}
	c.pulled = append(c.pulled, Dependency{k, by, why()})
	c.take(k)
	return true
}

// drain applies the rules that look at one change at a time.
func (c *closer) drain() {
	for len(c.queue) > 0 {
		k := c.queue[0]
		c.queue = c.queue[1:]
		switch k.Aspect {
		case Added, Placement:
			c.parentThere(k)
		case Removed:
			c.emptied(k)
		}
		if k.Aspect == Placement {
			c.kindHolds(k)
		}
	}
}

func (c *closer) parentThere(k Key) {
	p := c.next.Parent(c.next.Find(k.ID))
	if p == sitemap.None {
		return
	}
	parent := c.next.Ref(p)
	why := func() string { return fmt.Sprintf("%q goes below it", c.titleOf(k.ID)) }
	c.need(Key{parent.ID, Added}, k, why)
	if i := c.live.Find(parent.ID); i != sitemap.None && !c.live.Ref(i).Kind.HoldsChildren() {
		c.need(Key{parent.ID, Placement}, k, why)
	}
}

// kindHolds sees to it that an entry that turns into a kind without children
// has none left, and takes along what its kind cannot do without.
func (c *closer) kindHolds(k Key) {
	n := c.next.Ref(c.next.Find(k.ID))
	if !n.Kind.HoldsChildren() {
		c.emptied(k)
		c.need(Key{k.ID, Target}, k, func() string { return fmt.Sprintf("%q needs a target", n.Title) })
	}
	if n.Kind == sitemap.Carried {
		c.need(Key{k.ID, Details}, k, func() string { return fmt.Sprintf("%q needs a source", n.Title) })
	}
}

// emptied pulls in the changes by which live entries leave the branch below an
// entry that goes.
func (c *closer) emptied(k Key) {
	i := c.live.Find(k.ID)
	why := func() string { return fmt.Sprintf("%q, above it, is removed", c.titleOf(k.ID)) }
	for child := range c.live.Children(i) {
		id := c.live.Ref(child).ID
		if c.open[Key{id, Removed}] {
			c.need(Key{id, Removed}, k, why)
		} else {
			c.need(Key{id, Placement}, k, why)
		}
	}
}

func (c *closer) titleOf(id string) string {
	if n := c.next.Find(id); n != sitemap.None {
		return c.next.Ref(n).Title
	}
	return c.live.Ref(c.live.Find(id)).Title
}

// parentIn gives the parent that an entry has with the set applied.
func (c *closer) parentIn(id string) string {
	i, j := c.live.Find(id), c.next.Find(id)
	switch {
	case i == sitemap.None || j != sitemap.None && c.set[Key{id, Placement}]:
		return c.next.Ref(j).Parent
	default:
		return c.live.Ref(i).Parent
	}
}

// untangle pulls in placements where those chosen alone would put an entry
// below itself.
func (c *closer) untangle() bool {
	const onPath, done = 1, 2
	state := map[string]int{}
	for _, k := range c.ordered(Placement) {
		at := k.ID
		var path []string
		for at != "" && state[at] == 0 {
			state[at] = onPath
			path = append(path, at)
			at = c.parentIn(at)
		}
		ring := at != "" && state[at] == onPath
		for _, id := range path {
			state[id] = done
		}
		if ring && c.cutRing(at, k) {
			return true
		}
	}
	return false
}

func (c *closer) cutRing(start string, by Key) bool {
	for at, first := start, true; first || at != start; at, first = c.parentIn(at), false {
		if c.open[Key{at, Placement}] && !c.set[Key{at, Placement}] {
			why := func() string { return fmt.Sprintf("it and %q swap places", c.titleOf(by.ID)) }
			if c.need(Key{at, Placement}, by, why) {
				return true
			}
		}
	}
	return false
}

// ordered gives the chosen changes of an aspect in Next's order.
func (c *closer) ordered(a Aspect) []Key {
	var keys []Key
	for k := range c.set {
		if k.Aspect == a {
			keys = append(keys, k)
		}
	}
	slices.SortFunc(keys, func(x, y Key) int { return c.next.Find(x.ID) - c.next.Find(y.ID) })
	return keys
}

// clashes finds pages that would share an address with only the set applied,
// and pulls in what makes one of them leave it.
func (c *closer) clashes() bool {
	c.applied = nil
	if chosen := c.set.readdressing(); chosen == 0 || chosen == c.open.readdressing() {
		return false // addresses are those of Live, or of Next, whose clashes are their own
	}
	t, err := Apply(c.live, c.next, c.set)
	if err != nil {
		return false
	}
	c.applied = t
	pulled := false
	for _, clash := range t.Clashes() {
		a, b := t.Ref(clash.First).ID, t.Ref(clash.Second).ID
		if c.addressIn(c.next, a) == clash.Address || c.leavesLive(b, clash.Address) && c.addressIn(c.next, b) != clash.Address {
			a, b = b, a // a leaves, b takes
		}
		why := func() string { return fmt.Sprintf("%q will use its address %s", c.titleOf(b), clash.Address) }
		if c.leave(t, a, c.arrival(b), why) || c.leave(t, b, c.arrival(a), why) {
			pulled = true
		}
	}
	return pulled
}

func (c *closer) addressIn(t *sitemap.Tree, id string) string {
	if i := t.Find(id); i != sitemap.None {
		return t.Address(i)
	}
	return ""
}

// arrival is the change by which an entry comes to an address.
func (c *closer) arrival(id string) Key {
	if c.live.Find(id) == sitemap.None {
		return Key{id, Added}
	}
	return Key{id, Placement}
}

func (c *closer) leavesLive(id, addr string) bool { return c.addressIn(c.live, id) == addr }

// leave pulls in the nearest change, on the entry or above it on either side,
// that alters the address of the entry.
func (c *closer) leave(t *sitemap.Tree, id string, by Key, why func() string) bool {
	for _, a := range []Aspect{Removed, Withdrawn, Placement} {
		if c.need(Key{id, a}, by, why) {
			return true
		}
	}
	for _, side := range []*sitemap.Tree{t, c.next, c.live} {
		i := side.Find(id)
		if i == sitemap.None {
			continue
		}
		for p := side.Parent(i); p != sitemap.None; p = side.Parent(p) {
			if c.need(Key{side.Ref(p).ID, Placement}, by, why) {
				return true
			}
		}
	}
	return false
}
