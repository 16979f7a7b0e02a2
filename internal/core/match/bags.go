package match

import (
	"math"
	"slices"
)

// bags are pages as sets of words, to be found by words.
type bags struct {
	n      int
	of     map[string][]int32 // pages by word, rising
	words  map[int32][]string
	starts map[byte][]string // words by their first letter
	full   map[int32]float64 // what all words of a page weigh
	rare   float64           // weight of a word that no page has
}

func newBags() *bags {
	return &bags{of: map[string][]int32{}, words: map[int32][]string{}, starts: map[byte][]string{}, full: map[int32]float64{}}
}

// add gives a page its words.
func (b *bags) add(page int, words []string) {
	if len(words) == 0 {
		return
	}
	b.n++
	for _, w := range words {
		b.of[w] = append(b.of[w], int32(page))
	}
	b.words[int32(page)] = words
}

// weigh makes ready what is added.
func (b *bags) weigh() {
	b.rare = math.Log(1 + float64(b.n)/2)
	for w := range b.of {
		b.starts[w[0]] = append(b.starts[w[0]], w)
	}
	for page, words := range b.words {
		for _, w := range words {
			b.full[page] += b.weight(w)
		}
	}
}

// weight is how much a word tells: the more, the fewer pages have it (inverse document
// frequency; Spärck Jones, 1972). Numbers tell little.
func (b *bags) weight(w string) float64 {
	weight := b.rare
	if at := len(b.of[w]); at > 0 {
		weight = math.Log(1 + float64(b.n)/float64(at))
	}
	if w[0] >= '0' && w[0] <= '9' {
		weight *= 0.25
	}
	return weight
}

// near is a word of pages that is like another word.
type near struct {
	word  string
	alike float64
	pages []int32
}

// nearTo gives the words of pages that are like a word, the most alike first.
func (b *bags) nearTo(w string) (out []near) {
	if pages, ok := b.of[w]; ok {
		out = append(out, near{w, 1, pages})
	}
	if len(w) >= 4 {
		for _, other := range b.starts[w[0]] {
			if s := alike(w, other); s > 0 && s < 1 {
				out = append(out, near{other, s, b.of[other]})
			}
		}
	}
	slices.SortFunc(out, func(x, y near) int {
		if x.alike > y.alike || x.alike == y.alike && x.word < y.word {
			return -1
		}
		return 1
	})
	return out
}

// rarest gives the word that tells most of those that a page has.
func (b *bags) rarest(words []string, page int) (out string) {
	for _, w := range words {
		if slices.Contains(b.of[w], int32(page)) && (out == "" || b.weight(w) > b.weight(out)) {
			out = w
		}
	}
	return out
}

// tally scores pages by words, again and again over the same memory.
type tally struct {
	b     *bags
	known map[string][]near
	score []float64
	own   []float64 // of the words of a page, those that were asked for
	seen  []int32   // the word that a page was last counted for, from 1
	pages []int32   // that have a score
	n     int32
}

func newTally(b *bags, pages int) *tally {
	return &tally{b: b, known: map[string][]near{}, score: make([]float64, pages), own: make([]float64, pages), seen: make([]int32, pages)}
}

func (t *tally) near(w string) []near {
	out, ok := t.known[w]
	if !ok {
		out = t.b.nearTo(w)
		t.known[w] = out
	}
	return out
}

// like scores how alike the words of pages are to some words, 0 to 1: how much of these the
// page has, and how much of the page they are, by their geometric mean.
func (t *tally) like(words []string) {
	t.count(words)
	total := 0.0
	for _, w := range words {
		total += t.b.weight(w)
	}
	best := map[string]float64{} // of the words of pages
	var found []near             // in an order that is always the same
	for _, w := range words {
		for _, n := range t.near(w) {
			if _, met := best[n.word]; !met {
				found = append(found, n)
			}
			best[n.word] = max(best[n.word], n.alike)
		}
	}
	for _, n := range found {
		weight := t.b.weight(n.word) * best[n.word]
		for _, i := range n.pages {
			t.own[i] += weight
		}
	}
	for _, i := range t.pages {
		t.score[i] = math.Sqrt(min(1, t.score[i]/total) * min(1, t.own[i]/t.b.full[i]))
	}
}

// covered scores how much of some words pages have; words that no page has do not count.
func (t *tally) covered(words []string) {
	t.count(words)
	total := 0.0
	for _, w := range words {
		if len(t.near(w)) > 0 {
			total += t.b.weight(w)
		}
	}
	for _, i := range t.pages {
		t.score[i] /= total
	}
}

// count weighs, for each page that has any, the words that it has of some.
func (t *tally) count(words []string) {
	for _, i := range t.pages {
		t.score[i], t.own[i] = 0, 0
	}
	t.pages = t.pages[:0]
	for _, w := range words {
		t.n++
		weight := t.b.weight(w)
		for _, n := range t.near(w) {
			for _, i := range n.pages {
				if t.seen[i] == t.n {
					continue // by a word that is more alike
				}
				if t.seen[i] = t.n; t.score[i] == 0 {
					t.pages = append(t.pages, i)
				}
				t.score[i] += weight * n.alike
			}
		}
	}
}
