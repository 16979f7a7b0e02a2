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
	ask := asked{q, " " + q, t.LowerTitles()}
	var ranked [7][]int
	var references [7][]int
	for i := range t.Len() {
		k := ask.rank(t, i)
		switch {
		case k < 0 || !fits(i):
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

// asked is what somebody typed, in lower case, alone and as the beginning of a word.
type asked struct {
	q, word string
	titles  []string
}

// rank tells how well an entry fits what is typed, 0 best; -1 not at all.
func (a asked) rank(t *sitemap.Tree, i int) int {
	if a.q == "" {
		return 0
	}
	e, title := t.Ref(i), a.titles[i]
	at := strings.Index(title, a.q)
	switch {
	case at == 0 && len(title) == len(a.q), e.Short != "" && strings.EqualFold(e.Short, a.q):
		return 0
	case at == 0:
		return 1
	case at > 0 && strings.Contains(title, a.word):
		return 2
	}
	claim := t.Claim(i)
	switch in := strings.Index(claim, a.q); {
	case in == 0, in > 0 && strings.HasPrefix(claim[strings.LastIndexByte(claim, '/')+1:], a.q):
		return 3
	case at > 0:
		return 4
	case in > 0:
		return 5
	case e.Topics != "" && strings.Contains(strings.ToLower(e.Topics), a.q):
		return 6
	}
	return -1
}
