package match

import (
	"strings"

	"candlepath/internal/core/sitemap"
)

// Find gives up to n entries for what somebody types, the best first: those whose
// title it is, then those whose title begins with it, in whose title a word does,
// whose address or its last part begins with it, and those whose title, address or
// topics hold it. Of those that fit alike, pages come before references.
func Find(t *sitemap.Tree, typed string, n int, fits func(i int) bool) []int {
	q := strings.ToLower(strings.TrimSpace(typed))
	var ranked [7][]int
	var references [7][]int
	for i := range t.Len() {
		if !fits(i) {
			continue
		}
		k := rankOf(t, i, q)
		switch {
		case k < 0:
		case t.Ref(i).Kind == sitemap.Reference:
			references[k] = append(references[k], i)
		case len(ranked[k]) < n:
			ranked[k] = append(ranked[k], i)
		}
		if q == "" && len(ranked[0]) >= n {
			break
		}
	}
	var all []int
	for k := range ranked {
		all = append(append(all, ranked[k]...), references[k]...)
	}
	return all[:min(n, len(all))]
}

// rankOf tells how well an entry fits what is typed, 0 best; -1 not at all.
func rankOf(t *sitemap.Tree, i int, q string) int {
	if q == "" {
		return 0
	}
	e, claim := t.Ref(i), t.Claim(i)
	title := strings.ToLower(e.Title)
	switch {
	case title == q || strings.EqualFold(e.Short, q):
		return 0
	case strings.HasPrefix(title, q):
		return 1
	case strings.Contains(title, " "+q):
		return 2
	case claim != "" && (strings.HasPrefix(claim, q) || strings.HasPrefix(claim[strings.LastIndexByte(claim, '/')+1:], q)):
		return 3
	case strings.Contains(title, q):
		return 4
	case strings.Contains(claim, q):
		return 5
	case strings.Contains(strings.ToLower(e.Topics), q):
		return 6
	}
	return -1
}
