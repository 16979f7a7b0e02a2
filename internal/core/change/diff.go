// Package change compares Live with Next, words the differences, and computes
// what a chosen part of them needs to go out together.
//
// Changes are told per entry, matched by id. Parent, slug, fixed address, kind
// and a group's segment change together, as one placement, because together
// they make the address. What merely inherits a new address from above is told
// as readdressed; it is no change of its own and cannot be chosen. Among
// siblings the fewest that explain the new order count as reordered (those
// outside a longest increasing subsequence).
//
//	Live  /seed-vault            Next  /science/seed-vault
//	      /seed-vault/drying           /science/seed-vault/drying
//
//	science     added
//	seed-vault  placement    moved
//	drying      readdressed  because seed-vault
package change

import (
	"candlepath/internal/core/sitemap"
)

// Key names a change.
type Key struct {
	ID     string
	Aspect Aspect
}

// Change is one difference between Live and Next.
type Change struct {
	Key
	Before, After string
	Because       string // readdressed: id of the entry that took it along; placement: in a word, how; details: which; menu, trail and redirect: in words, what; released: why
}

// Diff tells how Next differs from Live, in Next's document order with removed
// entries after those still there, in Live's order.
func Diff(live, next *sitemap.Tree) []Change {
	d := differ{live: live, next: next, before: make([]int32, next.Len())}
	met, i := 0, sitemap.None
	for j := range d.before {
		at := live.FindNear(next.Ref(j).ID, i+1)
		if d.before[j] = int32(at); at != sitemap.None {
			met, i = met+1, at
		}
	}
	d.reordered = d.findReordered()
	for j := range next.Len() {
		d.entry(j)
	}
	for i := 0; i < live.Len() && met < live.Len(); i++ {
		if e := live.Ref(i); next.Find(e.ID) == sitemap.None {
			d.tell(e.ID, Removed, label(live, i), "", "")
		}
	}
	return d.out
}

type differ struct {
	live, next *sitemap.Tree
	before     []int32 // index in live of each entry of next, or None
	reordered  []bool
	out        []Change
}

func (d *differ) tell(id string, a Aspect, before, after, because string) {
	d.out = append(d.out, Change{Key{id, a}, before, after, because})
}

// label is the address of an entry, or its title where it has none.
func label(t *sitemap.Tree, i int) string {
	if a := t.Claim(i); a != "" {
		return a
	}
	return t.Ref(i).Title
}

func (d *differ) entry(j int) {
	b, i := d.next.Ref(j), int(d.before[j])
	if i == sitemap.None {
		d.tell(b.ID, Added, "", label(d.next, j), "")
		return
	}
	a := d.live.Ref(i)
	if a == b && !d.reordered[j] && d.live.Claim(i) == d.next.Claim(j) {
		return // trees share the entries that are the same in both
	}
	if a.Withdrawn != b.Withdrawn {
		if b.Withdrawn {
			d.tell(b.ID, Withdrawn, label(d.live, i), "", "")
		} else {
			d.tell(b.ID, Returned, "", label(d.next, j), "")
		}
	}
	switch {
	case how(a, b) != "":
		d.tell(b.ID, Placement, label(d.live, i), label(d.next, j), how(a, b))
	case d.live.Claim(i) != d.next.Claim(j):
		d.tell(b.ID, Readdressed, d.live.Claim(i), d.next.Claim(j), d.cause(j))
	}
	if d.reordered[j] {
		d.tell(b.ID, Reordered, "", "", "")
	}
	if *a == *b {
		return
	}
	for _, f := range sitemap.Fields() {
		if before, after := f.Get(a), f.Get(b); f.Counts == sitemap.Alone && before != after {
			d.tell(b.ID, Aspect(f.Key), before, after, "")
		}
	}
	if fields, before, after := details(a, b); fields != "" {
		d.tell(b.ID, Details, before, after, fields)
	}
}

// how words a placement, or is empty where there is none.
func how(a, b *sitemap.Entry) string {
	switch {
	case a.Kind != b.Kind:
		return turned + " into " + b.Kind.Label()
	case a.Parent != b.Parent:
		return moved
	case a.Fixed != b.Fixed || a.Fixed == "" && a.Slug != b.Slug:
		return renamed
	}
	return ""
}

// details names the lesser facts that changed, by key, and tells the first of them.
func details(a, b *sitemap.Entry) (fields, before, after string) {
	for _, f := range sitemap.Fields() {
		was, is := f.Get(a), f.Get(b)
		switch {
		case f.Counts != sitemap.Together || was == is:
		case fields == "":
			fields, before, after = f.Key, was, is
		default:
			fields += ", " + f.Key
		}
	}
	return fields, before, after
}

// cause finds the nearest ancestor of Next that explains a new address.
func (d *differ) cause(j int) string {
	for p := d.next.Parent(j); p != sitemap.None; p = d.next.Parent(p) {
		i := int(d.before[p])
		if i == sitemap.None || how(d.live.Ref(i), d.next.Ref(p)) != "" {
			return d.next.Ref(p).ID
		}
	}
	return ""
}

// findReordered marks in each run of siblings that were siblings before too
// the fewest that explain the order.
func (d *differ) findReordered() []bool {
	marks := make([]bool, d.next.Len())
	var stayed []int32
	for p := sitemap.None; p < d.next.Len(); p++ {
		stayed = stayed[:0]
		sorted := true
		for j := range d.next.Children(p) {
			i := d.before[j]
			if i == sitemap.None || d.live.Ref(int(i)).Parent != d.next.Ref(j).Parent {
				continue
			}
			if n := len(stayed); n > 0 && d.before[stayed[n-1]] > i {
				sorted = false
			}
			stayed = append(stayed, int32(j))
		}
		if sorted {
			continue
		}
		for _, j := range stayed {
			marks[j] = true
		}
		less := func(x, y int) bool { return d.before[stayed[x]] < d.before[stayed[y]] }
		for _, k := range sitemap.Longest(len(stayed), less, nil) {
			marks[stayed[k]] = false
		}
	}
	return marks
}
