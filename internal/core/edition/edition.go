// Package edition is the road to Live. Whatever reaches readers goes it, whether a person publishes, a date
// comes, a page is withdrawn or an earlier edition is restored:
//
//	Work      all that is planned at one version, with its authors, approvals, decisions and drafts
//	Proposal  Propose(work, live, selection): what a selection needs, the tree, the redirects, the texts
//	Checks    Check(proposal, evidence): what preflight and the proof of all addresses find
//	Verdict   Judge(proposal, checks, publisher, road, now): what stands in the way, if anything
//
// Each is complete when it is made, and not changed after. All of it is pure: what has to be read is Input, Live,
// Earlier and Evidence, and storing an edition is somebody else's work. Evidence stands apart from Input because
// only the proposal tells what of it is needed: the texts of pages that another template lays out, visits of pages
// that go without a decision.
//
// Publish and Rollback make the Draft of a proposal: the tree that readers will see, its redirect table, and what of
// Next stays planned. What a rollback takes back stays in Next, and so returns to the plan. Overlay says which
// planned rows are left, RestoreTexts which versions of texts end, begin and become drafts.
//
// A selection of one page "Ponds" that is new below "Grounds", which is new and waits for its reviewer:
//
//	Chosen        Ponds added; Grounds added, needed as its parent
//	Findings      "Grounds" is in review
//	Hindrance     errors
package edition

import (
	"candlepath/internal/core/change"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Live is what colleagues see.
type Live struct {
	Tree  *sitemap.Tree
	Table []redirect.Row
	Index *redirect.Table // of Table over Tree, where it is known
}

// Draft is an edition that is ready to be checked and published.
type Draft struct {
	Live // as it will be
	Next *sitemap.Tree
	Plan []redirect.Row // Table with the rows that are reports

	Released map[string]bool // addresses given up
}

// Publish prepares the edition in which a set of changes goes out that holds
// all it needs, as change.Closure gives it, with Live as it is then if that is known
// already. Addresses that are released answer nothing from then on.
func Publish(live Live, next *sitemap.Tree, closed change.Set, applied *sitemap.Tree, decisions map[string]redirect.Decision, hosts []string, released map[string]bool) (Draft, error) {
	if applied == nil {
		var err error
		if applied, err = change.Apply(live.Tree, next, closed); err != nil {
			return Draft{}, err
		}
	}
	return prepare(live, applied, next, redirect.Input{Decisions: decisions, Hosts: hosts, Released: released})
}

// Rollback prepares an edition equal to an earlier one. What is taken back
// stays in Next, and so returns to the plan. Nobody may read a page afterwards who
// may not before, what is above it counted: where it stood is no way around a
// readership that it stands under now.
//
// also is what bears on entries of Live besides their own readership, such as that of trails; withheld who could read
// entries that left, as readership.Bearing gave it when they did.
func Rollback(live Live, also, withheld map[string][]string, then readership.State, next *sitemap.Tree, decisions map[string]redirect.Decision, hosts []string) (Draft, error) {
	asked := make([][]string, then.Tree.Len()) // what bears on each entry, as it will be
	earlier, err := alter(then.Tree, func(at int, was *sitemap.Entry) (sitemap.Entry, bool) {
		e := *was
		var above []string
		if p := then.Tree.Parent(at); p != sitemap.None {
			above = asked[p]
		}
		above = append(above[:len(above):len(above)], then.Also[e.ID]...)
		last := withheld[e.ID]
		if i := live.Tree.Find(e.ID); i != sitemap.None {
			e.Readership = readership.Narrower(e.Readership, live.Tree.Ref(i).Readership)
			last = readership.Bearing(live.Tree, i, also)
		}
		e.Readership = readership.Within(e.Readership, above, last)
		if asked[at] = above; !readership.Everybody(e.Readership) {
			asked[at] = append(above, e.Readership)
		}
		return e, e != *was
	})
	if err != nil {
		return Draft{}, err
	}
	return prepare(live, earlier, next, redirect.Input{Decisions: decisions, Hosts: hosts, Rollback: true})
}

// NeedsDecision tells whether the page at an index of Live leaves without
// another taking its place, so that somebody has to say where its visitors
// belong.
func NeedsDecision(live Live, i int, d Draft) bool {
	j := d.Tree.Find(live.Tree.Ref(i).ID)
	switch {
	case d.Released[live.Tree.Served(i)]:
		return false
	case d.Tree.PageAt(live.Tree.Served(i)) != sitemap.None:
		return false // whatever was decided could never act
	case j == sitemap.None:
		return true
	case d.Tree.Served(j) != "":
		return false
	}
	e := d.Tree.Ref(j)
	return e.Kind == sitemap.Group || e.Withdrawn
}

func prepare(live Live, tree, next *sitemap.Tree, in redirect.Input) (Draft, error) {
	tree, next, err := settle(tree, next)
	if err != nil {
		return Draft{}, err
	}
	in.Live, in.Next, in.Table, in.Index = live.Tree, tree, live.Table, live.Index
	plan, err := redirect.Plan(in)
	if err != nil {
		return Draft{}, err
	}
	d := Draft{Next: next, Plan: plan, Released: in.Released}
	d.Tree = tree
	for _, r := range plan {
		if !r.Status.IsReport() && (r.Match != redirect.Exact || tree.PageAt(r.From) == sitemap.None) {
			r.Status = redirect.Kept
			d.Table = append(d.Table, r)
		}
	}
	return d, nil
}

// settle holds the slugs of what is published, and gives both trees ranks that
// agree with their order, the same ranks wherever possible. A tree that needs
// neither is given back as it is.
func settle(tree, next *sitemap.Tree) (*sitemap.Tree, *sitemap.Tree, error) {
	tree, err := alter(tree, func(i int, was *sitemap.Entry) (e sitemap.Entry, changed bool) {
		if was.SlugHeld || tree.Served(i) == "" {
			return e, false
		}
		e = *was
		e.SlugHeld = true
		return e, true
	})
	if err != nil {
		return nil, nil, err
	}
	near := sitemap.None
	next, err = alter(next, func(_ int, was *sitemap.Entry) (e sitemap.Entry, changed bool) {
		at := tree.FindNear(was.ID, near+1)
		if at == sitemap.None {
			return e, false
		}
		near = at
		here := tree.Ref(at)
		holds, ranks := here.SlugHeld && !was.SlugHeld, here.Parent == was.Parent && here.Rank != was.Rank
		if !holds && !ranks {
			return e, false
		}
		e = *was
		e.SlugHeld = e.SlugHeld || holds
		if ranks {
			e.Rank = here.Rank
		}
		return e, true
	})
	return tree, next, err
}

// alter changes entries of a tree without moving any, and mends the ranks. Most stay
// as they are, and are not copied.
func alter(t *sitemap.Tree, change func(i int, was *sitemap.Entry) (sitemap.Entry, bool)) (*sitemap.Tree, error) {
	var entries []*sitemap.Entry
	for i := range t.Len() {
		e, changed := change(i, t.Ref(i))
		if !changed {
			continue
		}
		if entries == nil {
			entries = t.Refs()
		}
		now := e // only what changed is kept
		entries[i] = &now
	}
	return rank(t, entries)
}

// rank gives the tree of entries, or t where they are nil, with ranks that
// agree with its order.
func rank(t *sitemap.Tree, entries []*sitemap.Entry) (*sitemap.Tree, error) {
	var err error
	if entries != nil {
		if t, err = t.Alter(entries); err != nil {
			return nil, err
		}
	}
	changed := sitemap.Rerank(t)
	if len(changed) == 0 {
		return t, nil
	}
	entries = t.Refs()
	for id, r := range changed {
		i := t.Find(id)
		e := t.At(i)
		e.Rank = r
		entries[i] = &e
	}
	return t.Alter(entries)
}
