package reach

import (
	"cmp"
	"slices"

	"candlepath/internal/core/sitemap"
)

// Summary tells how a site is to reach as a whole.
type Summary struct {
	Pages       int
	Mean        float64 // clicks, over pages that can be reached
	Weighted    float64 // clicks that a visit takes; 0 without visits
	Spread      []int   // pages by number of clicks
	TooFar      []int   // pages further than the limit
	Unreachable []int
	BusyFar     []int // much visited pages that are far, the most visited first
	QuietFront  []int // hardly visited pages one click away
}

// Summarise looks at all pages; visits are by index, limit is the most clicks
// that are not too far.
func (r *Reach) Summarise(visits func(i int) int, limit int) Summary {
	var s Summary
	clicks, seen, total, weighted := 0, 0, 0, 0
	var counts []int
	for i := range r.Tree.Len() {
		if r.Tree.Served(i) == "" {
			continue
		}
		s.Pages++
		v, c := visits(i), r.Clicks[i]
		counts = append(counts, v)
		if c == Never {
			s.Unreachable = append(s.Unreachable, i)
			continue
		}
		for len(s.Spread) <= c {
			s.Spread = append(s.Spread, 0)
		}
		s.Spread[c]++
		clicks, seen = clicks+c, seen+1
		total, weighted = total+v, weighted+v*c
		if c > limit {
			s.TooFar = append(s.TooFar, i)
		}
	}
	if seen > 0 {
		s.Mean = float64(clicks) / float64(seen)
	}
	if total > 0 {
		s.Weighted = float64(weighted) / float64(total)
		s.busyAndQuiet(r, visits, limit, counts)
	}
	return s
}

// busyAndQuiet finds pages whose place does not fit how much they are read: the
// busiest tenth that is at the limit or beyond, and the quietest quarter in front.
func (s *Summary) busyAndQuiet(r *Reach, visits func(int) int, limit int, counts []int) {
	slices.Sort(counts)
	busy, quiet := max(counts[len(counts)*9/10], 1), counts[len(counts)/4]
	for i := range r.Tree.Len() {
		if r.Tree.Served(i) == "" || i == r.Tree.Home() {
			continue
		}
		switch v, c := visits(i), r.Clicks[i]; {
		case v >= busy && (c == Never || c >= limit):
			s.BusyFar = append(s.BusyFar, i)
		case c == 1 && v <= quiet:
			s.QuietFront = append(s.QuietFront, i)
		}
	}
	slices.SortStableFunc(s.BusyFar, func(a, b int) int { return cmp.Compare(visits(b), visits(a)) })
}

// Saving is what a tile on home to a page would save, and so would an item of the
// top menu, which home shows too.
type Saving struct {
	Entry  int
	Clicks int // over all visits
	Nearer int // pages that come nearer
}

// Savings tells what one more tile on home would save, for the pages where it
// saves most, best first: visits times the clicks that each takes less, of the
// page and of all that is reached through it.
func (r *Reach) Savings(links []Link, visits func(i int) int, o Options, most int) []Saving {
	home := r.Tree.Home()
	if home == sitemap.None {
		return nil
	}
	// What a branch can save at most says where it is worth looking closely.
	bound := make([]int, r.Tree.Len())
	for i := r.Tree.Len() - 1; i >= 0; i-- {
		if c := r.Clicks[i]; r.Tree.Served(i) != "" && (c == Never || c > 1) {
			bound[i] += visits(i) * max(c-1, 1)
		}
		if p := r.Tree.Parent(i); p != sitemap.None {
			bound[p] += bound[i]
		}
	}
	var candidates []int
	for i, b := range bound {
		if c := r.Clicks[i]; b > 0 && r.Tree.Served(i) != "" && (c == Never || c > 1) {
			candidates = append(candidates, i)
		}
	}
	slices.SortStableFunc(candidates, func(a, b int) int { return cmp.Compare(bound[b], bound[a]) })
	var out []Saving
	search := newSearch(r.Tree, links, o)
	copy(search.Clicks, r.Clicks)
	for _, i := range candidates[:min(len(candidates), 4*most)] {
		s := Saving{Entry: i}
		search.linked(home, i, func(page, was, now int) {
			s.Nearer++
			if was == Never {
				was = now + 1 // it could not be reached at all
			}
			s.Clicks += visits(page) * (was - now)
		})
		out = append(out, s)
	}
	slices.SortStableFunc(out, func(a, b Saving) int { return cmp.Or(cmp.Compare(b.Clicks, a.Clicks), cmp.Compare(b.Nearer, a.Nearer)) })
	return slices.DeleteFunc(out[:min(len(out), most)], func(s Saving) bool { return s.Clicks == 0 })
}

// ByClicks orders pages, the farthest first; those that no click leads to are the
// farthest of all.
func (r *Reach) ByClicks(a, b int) int {
	far := func(i int) uint { return uint(r.Clicks[i]) } // Never is more than any other
	return cmp.Compare(far(b), far(a))
}

// Moved is what an act does to reach.
type Moved struct{ Nearer, Farther, Lost, Found int }

// Compare tells how pages that are in both came nearer or farther.
func Compare(before, after *Reach) Moved {
	var m Moved
	for i := range before.Tree.Len() {
		j := after.Tree.Find(before.Tree.Ref(i).ID)
		if j == sitemap.None || before.Tree.Served(i) == "" || after.Tree.Served(j) == "" {
			continue
		}
		switch was, now := before.Clicks[i], after.Clicks[j]; {
		case was == now:
		case now == Never:
			m.Lost++
		case was == Never:
			m.Found++
		case now < was:
			m.Nearer++
		default:
			m.Farther++
		}
	}
	return m
}
