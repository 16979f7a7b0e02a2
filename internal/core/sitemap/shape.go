package sitemap

import (
	"cmp"
	"maps"
	"slices"
	"strings"
)

// Shape is a summary of a tree.
type Shape struct {
	Entries int
	Kinds   []Count // in the order of Kinds
	Levels  []Level // from the top
	Owners  []Count // the busiest first
	Longest []int   // the pages with the longest addresses, the longest first
}

// Count is how many of something there are.
type Count struct {
	Name string
	N    int
}

// Level is one level of a tree.
type Level struct {
	Number  int
	Entries int
	Broad   int // the most entries side by side
	Below   int // the entry of the level above below which they stand
}

// ShapeOf summarises a tree, with the n longest addresses.
func ShapeOf(t *Tree, n int) Shape {
	s := Shape{Entries: t.Len()}
	kinds, owners := map[Kind]int{}, map[string]int{}
	var pages []int
	for i := range t.entries {
		e := t.entries[i]
		kinds[e.Kind]++
		if e.Kind.IsPage() {
			owners[e.Owner]++
			pages = append(pages, i)
		}
		for len(s.Levels) <= t.Level(i) {
			s.Levels = append(s.Levels, Level{Number: len(s.Levels), Below: None})
		}
		s.Levels[t.Level(i)].Entries++
	}
	for p := None; p < t.Len(); p++ {
		side := 0
		for range t.Children(p) {
			side++
		}
		level := 1
		if p != None {
			level = t.Level(p) + 1
		}
		if p == None && t.home != None || side == 0 {
			continue
		}
		if l := &s.Levels[level]; side > l.Broad {
			l.Broad, l.Below = side, p
		}
	}
	s.Levels = slices.DeleteFunc(s.Levels, func(l Level) bool { return l.Entries == 0 })
	for _, k := range Kinds() {
		if kinds[k] > 0 {
			s.Kinds = append(s.Kinds, Count{k.Label(), kinds[k]})
		}
	}
	for name, count := range owners {
		s.Owners = append(s.Owners, Count{name, count})
	}
	slices.SortFunc(s.Owners, func(a, b Count) int { return cmp.Or(b.N-a.N, strings.Compare(a.Name, b.Name)) })
	slices.SortStableFunc(pages, func(a, b int) int { return len(t.Address(b)) - len(t.Address(a)) })
	s.Longest = pages[:min(n, len(pages))]
	return s
}

// Topics lists the topics that entries have, sorted.
func (t *Tree) Topics() []string {
	seen := map[string]bool{}
	for i := range t.entries {
		for _, topic := range t.entries[i].TopicList() {
			seen[topic] = true
		}
	}
	return slices.Sorted(maps.Keys(seen))
}
