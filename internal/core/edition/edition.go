// Package edition makes the next edition out of Live and what was chosen of
// Next: the tree that readers will see, its redirect table, and what of Next
// stays planned. It decides; storing is somebody else's work.
package edition

import (
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Live is what colleagues see.
type Live struct {
	Tree  *sitemap.Tree
	Table []redirect.Row
}

// Draft is an edition that is ready to be checked and published.
type Draft struct {
	Live  // as it will be
	Next  *sitemap.Tree
	Plan  []redirect.Row // Table with the rows that are reports
	Told  []change.Change
	Added []change.Pulled // changes that the chosen ones needed
}

// Publish prepares the edition in which the chosen changes go out, with those
// they need.
func Publish(live Live, next *sitemap.Tree, chosen change.Set, decisions map[string]redirect.Decision, hosts []string) (Draft, error) {
	all := change.Diff(live.Tree, next)
	closed, pulled := change.Closure(live.Tree, next, all, chosen)
	tree, err := change.Apply(live.Tree, next, closed)
	if err != nil {
		return Draft{}, err
	}
	d, err := prepare(live, tree, next, redirect.Input{Decisions: decisions, Hosts: hosts})
	d.Added = pulled
	return d, err
}

// Rollback prepares an edition equal to an earlier one. What is taken back
// stays in Next, and so returns to the plan.
func Rollback(live Live, earlier, next *sitemap.Tree, decisions map[string]redirect.Decision, hosts []string) (Draft, error) {
	return prepare(live, earlier, next, redirect.Input{Decisions: decisions, Hosts: hosts, Takeback: true})
}

func prepare(live Live, tree, next *sitemap.Tree, in redirect.Input) (Draft, error) {
	tree, next, err := settle(tree, next)
	if err != nil {
		return Draft{}, err
	}
	in.Live, in.Next, in.Table = live.Tree, tree, live.Table
	plan, err := redirect.Plan(in)
	if err != nil {
		return Draft{}, err
	}
	d := Draft{Next: next, Plan: plan, Told: change.Diff(live.Tree, tree)}
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
// agree with their order, the same ranks wherever possible.
func settle(tree, next *sitemap.Tree) (*sitemap.Tree, *sitemap.Tree, error) {
	entries := tree.Entries()
	for i := range entries {
		entries[i].SlugHeld = entries[i].SlugHeld || tree.Served(i) != ""
	}
	tree, err := rank(entries)
	if err != nil {
		return nil, nil, err
	}
	planned := next.Entries()
	for i := range planned {
		p := &planned[i]
		at := tree.Find(p.ID)
		if at == sitemap.None {
			continue
		}
		e := tree.Ref(at)
		p.SlugHeld = p.SlugHeld || e.SlugHeld
		if e.Parent == p.Parent {
			p.Rank = e.Rank
		}
	}
	next, err = rank(planned)
	return tree, next, err
}

func rank(entries []sitemap.Entry) (*sitemap.Tree, error) {
	t, err := sitemap.New(entries)
	if err != nil {
		return nil, err
	}
	entries = t.Entries()
	for id, r := range sitemap.Rerank(t) {
		entries[t.Find(id)].Rank = r
	}
	return sitemap.New(entries)
}
