package match

import (
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Find gives up to n entries for what somebody types: first those whose title
// begins with it, then those in whose title a word does, then those whose title
// or address holds it, then those whose topics do.
func Find(t *sitemap.Tree, typed string, n int, fits func(i int) bool) []int {
	q := strings.ToLower(strings.TrimSpace(typed))
	var ranked [4][]int
	for i := range t.Len() {
		e := t.Ref(i)
		if !fits(i) {
			continue
		}
		title := strings.ToLower(e.Title)
		switch {
		case q == "" || strings.HasPrefix(title, q):
			ranked[0] = append(ranked[0], i)
		case strings.Contains(title, " "+q):
			ranked[1] = append(ranked[1], i)
		case strings.Contains(title, q) || strings.Contains(t.Claim(i), q):
			ranked[2] = append(ranked[2], i)
		case strings.Contains(strings.ToLower(e.Topics), q):
			ranked[3] = append(ranked[3], i)
		}
		if len(ranked[0]) >= n {
			break
		}
	}
	all := slices.Concat(ranked[:]...)
	return all[:min(n, len(all))]
}
