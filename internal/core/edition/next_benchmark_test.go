package edition_test

import (
	"fmt"
	"testing"

	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/sitemap"
)

// BenchmarkNextEdition tells what each step to the next edition takes at 100,000
// entries, of which a handful changed and one change stays out, and where all are new.
func BenchmarkNextEdition(b *testing.B) {
	live := published(b, wide(100_000, false))
	home, err := sitemap.New(live.Entries()[:1])
	if err != nil {
		b.Fatal(err)
	}
	for _, c := range []struct {
		name       string
		live, next *sitemap.Tree
	}{
		{"few", live, edited(b, live)},
		{"all", home, edited(b, live)},
	} {
		all := change.Diff(c.live, c.next)
		chosen := change.All(all)
		for _, ch := range all {
			if ch.ID == "fresh 3" {
				delete(chosen, ch.Key)
			}
		}
		now := edition.Live{Tree: c.live}
		closed, _, applied := change.Closure(c.live, c.next, all, chosen)
		draft, err := edition.Publish(now, c.next, closed, applied, nil, nil, nil)
		if err != nil {
			b.Fatal(err)
		}
		step := func(name string, do func()) {
			b.Run(fmt.Sprint(c.name, "/", name), func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					do()
				}
			})
		}
		step("diff", func() { change.Diff(c.live, c.next) })
		step("pick", func() {
			change.Choice{}.Pick(c.next, all, func(change.Key) change.State { return change.State{} }, "", nil)
		})
		step("closure", func() { change.Closure(c.live, c.next, all, chosen) })
		step("publish", func() { _, _ = edition.Publish(now, c.next, closed, applied, nil, nil, nil) })
		step("preflight", func() {
			preflight.Check(preflight.Edition{Live: c.live, Tree: draft.Tree, Next: c.next, Plan: draft.Plan})
		})
	}
}

// edited is a tree with some entries retitled, moved and added.
func edited(b *testing.B, t *sitemap.Tree) *sitemap.Tree {
	next, err := t.Move("e700", sitemap.Spot{Parent: "e9"})
	for i := range 10 {
		if err == nil {
			next, err = next.Retitle(fmt.Sprint("e", 5_000*i+3), fmt.Sprint("Anew ", i))
		}
		if err == nil {
			next, err = next.Add(sitemap.Entry{ID: fmt.Sprint("fresh ", i), Title: fmt.Sprint("Fresh ", i)}, next.Last(fmt.Sprint("e", 20+i)))
		}
	}
	if err != nil {
		b.Fatal(err)
	}
	return next
}

// published is a tree as it stands after an edition: slugs are held, and entries have ranks.
func published(b *testing.B, t *sitemap.Tree) *sitemap.Tree {
	draft, err := edition.Publish(edition.Live{Tree: t}, t, nil, nil, nil, nil, nil)
	if err != nil {
		b.Fatal(err)
	}
	return draft.Tree
}
