package change_test

import (
	"testing"

	"candlepath/internal/core/change"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

func liveAndNext(t *rapid.T) (live, next *sitemap.Tree) {
	var author sitemaptest.Author
	live = author.Small(t, rapid.IntRange(0, 12).Draw(t, "entries"))
	next = live
	for range rapid.IntRange(0, 15).Draw(t, "edits") {
		next = author.Edit(t, next)
	}
	return live, next
}

// facts are an entry without what only storage needs.
func facts(t *sitemap.Tree) []sitemap.Entry {
	list := t.Entries()
	for i := range list {
		list[i].Rank, list[i].SlugHeld = "", false
	}
	return list
}

func TestApplyingEveryChangeGivesNext(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		live, next := liveAndNext(t)
		got, err := change.Apply(live, next, change.All(change.Diff(live, next)))
		require.NoError(t, err)
		require.Equal(t, facts(next), facts(got))
	})
}

func TestNoChangesNoDifference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		live, _ := liveAndNext(t)
		require.Empty(t, change.Diff(live, live))
	})
}

func TestClosureMakesWholeTreesAndIsStable(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		live, next := liveAndNext(t)
		all := change.Diff(live, next)
		chosen := change.Set{}
		for _, c := range all {
			if rapid.Bool().Draw(t, "chosen") {
				chosen[c.Key] = true
			}
		}
		set, pulled, applied := change.Closure(live, next, all, chosen)
		for k := range chosen {
			require.True(t, set[k] || k.Aspect == change.Readdressed, "what was chosen stays chosen: %v", k)
		}
		for _, p := range pulled {
			require.NotEmpty(t, p.Why)
			require.False(t, chosen[p.Key])
		}
		tree, err := change.Apply(live, next, set)
		require.NoError(t, err)
		if applied != nil {
			require.Equal(t, facts(tree), facts(applied), "what was applied already")
		}
		if len(next.Clashes()) == 0 && len(live.Clashes()) == 0 {
			require.Empty(t, tree.Clashes())
		}
		again, more, _ := change.Closure(live, next, all, set)
		require.Equal(t, set, again)
		require.Empty(t, more)
		rest, err := change.Apply(tree, next, change.All(change.Diff(tree, next)))
		require.NoError(t, err)
		require.Equal(t, facts(next), facts(rest), "the rest can go out later")
	})
}

// The fewest reordered siblings, against trying every subset.
func TestFewestReordered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 7).Draw(t, "n")
		ids := []string{"a", "b", "c", "d", "e", "f", "g"}[:n]
		after := rapid.Permutation(ids).Draw(t, "order")
		live, next := flat(t, ids), flat(t, after)
		got := 0
		for _, c := range change.Diff(live, next) {
			require.Equal(t, change.Reordered, c.Aspect)
			got++
		}
		best := n
		for keep := range 1 << n {
			kept, last, ok := 0, "", true
			for i, id := range after {
				if keep&(1<<i) != 0 {
					ok = ok && id > last
					last = id
					kept++
				}
			}
			if ok {
				best = min(best, n-kept)
			}
		}
		require.Equal(t, best, got)
	})
}

func flat(t *rapid.T, ids []string) *sitemap.Tree {
	var list []sitemap.Entry
	for _, id := range ids {
		list = append(list, sitemap.Entry{ID: id, Title: id, Slug: id, Kind: sitemap.Page})
	}
	tree, err := sitemap.New(list)
	require.NoError(t, err)
	return tree
}

// Two entries that change places go together: either alone would stand below
// itself.
func TestReversedAncestryGoesTogether(t *testing.T) {
	page := func(id, parent string) sitemap.Entry {
		return sitemap.Entry{ID: id, Parent: parent, Title: id, Slug: id, Kind: sitemap.Page}
	}
	live, err := sitemap.New([]sitemap.Entry{page("a", ""), page("b", "a"), page("c", "b")})
	require.NoError(t, err)
	next, err := sitemap.New([]sitemap.Entry{page("c", ""), page("b", "c"), page("a", "b")})
	require.NoError(t, err)
	all := change.Diff(live, next)
	set, pulled, _ := change.Closure(live, next, all, change.Set{{ID: "a", Aspect: change.Placement}: true})
	for _, id := range []string{"a", "b", "c"} {
		require.True(t, set[change.Key{ID: id, Aspect: change.Placement}], id)
	}
	require.Len(t, pulled, 2)
	_, err = change.Apply(live, next, set)
	require.NoError(t, err)
}

// Laid over each other, both trees are there: every entry once, Next in its
// order, and what was removed below what it stood below.
func TestMergedHoldsBothTrees(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		live, next := liveAndNext(t)
		changes := change.Diff(live, next)
		rows := change.Merged(live, next, changes)
		seen, told := map[string]int{}, 0
		var inNext []string
		var way []string // ids on the way down to the last row
		for i, r := range rows {
			seen[r.ID] = i
			told += len(r.Changes)
			require.Equal(t, live.Find(r.ID), r.Live)
			require.Equal(t, next.Find(r.ID), r.Next)
			require.LessOrEqual(t, r.Level, len(way))
			way = append(way[:r.Level], r.ID)
			if r.Next != sitemap.None {
				inNext = append(inNext, r.ID)
			} else if p := live.Parent(r.Live); p != sitemap.None {
				require.Equal(t, live.Ref(p).ID, way[r.Level-1], "a removed entry stands where it stood")
			}
			if len(r.Changes) > 0 {
				for _, id := range way {
					require.True(t, rows[seen[id]].Touched)
				}
			}
		}
		var want []string
		for j := range next.Len() {
			want = append(want, next.Ref(j).ID)
		}
		require.Equal(t, want, inNext)
		for i := range live.Len() {
			require.Contains(t, seen, live.Ref(i).ID)
		}
		require.Len(t, seen, len(rows), "each once")
		require.Equal(t, len(changes), told)
	})
}
