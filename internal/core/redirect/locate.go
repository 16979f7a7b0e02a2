package redirect

import (
	"iter"
	"slices"
	"strings"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// located is something at an address, for finding what lies below another.
type located struct {
	at string
	i  int
}

func locatePages(t *sitemap.Tree) []located {
	out := make([]located, 0, t.Len())
	for i := range t.Len() {
		if a := t.Served(i); a != "" && t.PageAt(a) == i {
			out = append(out, located{a, i})
		}
	}
	return sortLocated(out)
}

func locateRows(rows []Row) []located {
	out := make([]located, 0, len(rows))
	for i, r := range rows {
		if !strings.Contains(r.From, "?") {
			out = append(out, located{r.From, i})
		}
	}
	return sortLocated(out)
}

func sortLocated(l []located) []located {
	slices.SortStableFunc(l, func(a, b located) int { return strings.Compare(a.at, b.at) })
	return l
}

// under gives what lies at base or below it, with the rest of its path.
func under(sorted []located, base string) iter.Seq2[string, int] {
	return func(yield func(string, int) bool) {
		start, _ := slices.BinarySearchFunc(sorted, base, func(l located, b string) int { return strings.Compare(l.at, b) })
		for _, l := range sorted[start:] {
			if !strings.HasPrefix(l.at, base) {
				return
			}
			if rest, ok := address.Below(base, l.at); ok && !yield(rest, l.i) {
				return
			}
		}
	}
}
