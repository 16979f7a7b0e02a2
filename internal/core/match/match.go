// Package match finds the pages that somebody probably meant: by an address that
// answers nothing (Meant), or by what they typed into a find box (Find).
//
// Meant compares words. Those of the last segment count twice, and a word that many
// pages have counts less than a rare one. A word is also taken for one that it
// begins, or that differs from it in one letter. So /visitor/openning-hours finds
// "Opening hours" at /visitors/opening-hours: "hours" is the same, "openning" has a
// letter too many, and "visitor" begins "visitors".
//
// Find ranks: the title itself, its beginning, the beginning of a word in it, then
// addresses, then what only holds what was typed.
package match

import (
	"slices"
	"strings"

	"candlepath/internal/core/sitemap"
)

// Meant gives up to n served pages whose address and title share words with a
// path, the likeliest first. Words of the last segment count twice, rare words
// more than common ones.
func Meant(t *sitemap.Tree, path string, n int) []int {
	want := map[string]float64{}
	segments := strings.Split(strings.Trim(path, "/"), "/")
	for i, seg := range segments {
		for _, w := range words(seg) {
			weight := 1.0
			if i == len(segments)-1 {
				weight = 2
			}
			want[w] = max(want[w], weight)
		}
	}
	if len(want) == 0 {
		return nil
	}
	has := make([]map[string]bool, t.Len())
	common := map[string]int{}
	for i := range has {
		if t.Served(i) == "" || t.Ref(i).Unlisted {
			continue
		}
		has[i] = map[string]bool{}
		for _, w := range words(t.Served(i) + " " + t.Ref(i).Title) {
			if !has[i][w] {
				has[i][w] = true
				common[w]++
			}
		}
	}
	type scored struct {
		page  int
		score float64
	}
	var found []scored
	for i, hs := range has {
		score := 0.0
		for w, weight := range want {
			for h := range hs {
				if s := alike(w, h); s > 0 {
					score += weight * s / float64(1+common[h])
				}
			}
		}
		if score > 0 {
			found = append(found, scored{i, score / float64(4+len(hs))})
		}
	}
	slices.SortStableFunc(found, func(a, b scored) int {
		switch {
		case a.score > b.score:
			return -1
		case a.score < b.score:
			return 1
		}
		return a.page - b.page
	})
	var out []int
	for _, f := range found[:min(n, len(found))] {
		out = append(out, f.page)
	}
	return out
}

func words(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return r == '/' || r == '-' || r == '_' || r == ' ' || r == '.' || r == '%' || r == '+'
	})
}

// alike is 1 for the same word, less for words that differ in one letter or
// share a long beginning.
func alike(a, b string) float64 {
	switch {
	case a == b:
		return 1
	case len(a) < 4 || len(b) < 4:
		return 0
	case strings.HasPrefix(a, b) || strings.HasPrefix(b, a):
		return 0.7
	case oneOff(a, b):
		return 0.6
	}
	return 0
}

// oneOff tells whether one letter added, dropped or replaced, or two swapped,
// make b of a.
func oneOff(a, b string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(b)-len(a) > 1 {
		return false
	}
	i := 0
	for i < len(a) && a[i] == b[i] {
		i++
	}
	if len(a) < len(b) {
		return a[i:] == b[i+1:]
	}
	if i+1 < len(a) && a[i] == b[i+1] && a[i+1] == b[i] && a[i+2:] == b[i+2:] {
		return true
	}
	return i == len(a) || a[i+1:] == b[i+1:]
}
