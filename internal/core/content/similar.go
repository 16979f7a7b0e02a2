package content

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// Read is a page as it is compared with others: its title and all its words.
type Read struct {
	ID, Title, Words string
}

// Pair is two pages that are alike; A and B index what was compared.
type Pair struct {
	A, B      int
	Share     float64 // how much of their text is the same, from 0 to 1
	SameTitle bool
}

const (
	shingleWords = 4   // words in a row that count as one thing
	sketchSize   = 128 // shingles that stand for a text
	leastSimilar = 0.6 // share from which on texts are alike
	leastWords   = 12  // shorter texts are not compared
	commonIn     = 60  // a shingle in more texts than this says nothing about two of them
	mostTitles   = 6   // of more pages with one title, each is paired only with the next
)

// Similar lists the pairs of pages whose texts or titles are nearly the same, the
// most alike first. Texts are compared by the resemblance of their shingles,
// estimated from the smallest hashes of each (Broder, On the resemblance and
// containment of documents, 1997).
func Similar(pages []Read) []Pair {
	found := map[[2]int]Pair{}
	put := func(p Pair) {
		if p.A > p.B {
			p.A, p.B = p.B, p.A
		}
		was := found[[2]int{p.A, p.B}]
		found[[2]int{p.A, p.B}] = Pair{p.A, p.B, max(p.Share, was.Share), p.SameTitle || was.SameTitle}
	}
	sketches, words := make([][]uint64, len(pages)), make([]string, len(pages))
	for i, p := range pages {
		words[i] = folded(p.Words)
		sketches[i] = sketch(words[i])
	}
	first := sameTexts(sketches, words, put)
	for pair, share := range resembling(sketches, first) {
		put(Pair{pair[0], pair[1], share, false})
	}
	sameTitles(pages, func(a, b int) { put(Pair{a, b, resemblance(sketches[a], sketches[b]), true}) })
	out := make([]Pair, 0, len(found))
	for _, p := range found {
		out = append(out, p)
	}
	slices.SortFunc(out, func(a, b Pair) int {
		return cmp.Or(cmp.Compare(b.Share, a.Share), cmp.Compare(pages[a.A].Title, pages[b.A].Title), cmp.Compare(a.A, b.A), cmp.Compare(a.B, b.B))
	})
	return out
}

// sameTexts pairs texts that are the same to the word, and gives the first of
// each.
func sameTexts(sketches [][]uint64, words []string, put func(Pair)) []int {
	last, first := map[string]int{}, []int{}
	for i, w := range words {
		if len(sketches[i]) == 0 {
			continue
		}
		if j, ok := last[w]; ok {
			put(Pair{j, i, 1, false})
		} else {
			first = append(first, i)
		}
		last[w] = i
	}
	return first
}

// resembling gives the pairs that share enough, with how much.
func resembling(sketches [][]uint64, of []int) map[[2]int]float64 {
	in := map[uint64][]int{}
	for _, i := range of {
		for _, h := range sketches[i] {
			if len(in[h]) <= commonIn {
				in[h] = append(in[h], i)
			}
		}
	}
	out, seen := map[[2]int]float64{}, map[int]int{}
	for _, i := range of {
		clear(seen)
		for _, h := range sketches[i] {
			if list := in[h]; len(list) <= commonIn {
				for _, j := range list {
					if j < i {
						seen[j]++
					}
				}
			}
		}
		for j, n := range seen {
			if least := min(len(sketches[i]), len(sketches[j])); n*4 < least { // far from half
				continue
			}
			if share := resemblance(sketches[i], sketches[j]); share >= leastSimilar {
				out[[2]int{j, i}] = share
			}
		}
	}
	return out
}

func sameTitles(pages []Read, put func(a, b int)) {
	by := map[string][]int{}
	for i, p := range pages {
		if title := folded(p.Title); title != "" {
			by[title] = append(by[title], i)
		}
	}
	for _, list := range by {
		for k, i := range list {
			for m := k + 1; m < len(list) && (len(list) <= mostTitles || m == k+1); m++ {
				put(i, list[m])
			}
		}
	}
}

// sketch gives the smallest hashes of the shingles of folded words, in order.
func sketch(words string) []uint64 {
	var list []uint64 // a hash of each word
	for w := range strings.FieldsSeq(words) {
		list = append(list, hashed(w))
	}
	if len(list) < leastWords {
		return nil
	}
	hashes := make([]uint64, 0, len(list))
	for i := range len(list) - shingleWords + 1 {
		var h uint64
		for _, w := range list[i : i+shingleWords] {
			h = mixed(h ^ w)
		}
		hashes = append(hashes, h)
	}
	slices.Sort(hashes)
	hashes = slices.Compact(hashes)
	return slices.Clone(hashes[:min(len(hashes), sketchSize)])
}

// hashed is the hash FNV-1a of a word.
func hashed(w string) uint64 {
	h := uint64(14695981039346656037)
	for i := range len(w) {
		h = (h ^ uint64(w[i])) * 1099511628211
	}
	return h
}

// mixed spreads the bits of a hash, so that the smallest are a fair sample
// (the finaliser of MurmurHash3, which is in the public domain).
func mixed(h uint64) uint64 {
	h ^= h >> 33
	h *= 0xff51afd7ed558ccd
	h ^= h >> 33
	h *= 0xc4ceb9fe1a85ec53
	return h ^ h>>33
}

// resemblance estimates how much two texts share, from 0 to 1: of the smallest
// hashes of both together, those that are in both.
func resemblance(a, b []uint64) float64 {
	if len(a) == 0 || len(b) == 0 {
		return 0
	}
	k := sketchSize
	if len(a) < sketchSize && len(b) < sketchSize { // both are there whole
		k = len(a) + len(b)
	}
	n, both := 0, 0
	for i, j := 0, 0; n < k && (i < len(a) || j < len(b)); n++ {
		switch {
		case j == len(b) || i < len(a) && a[i] < b[j]:
			i++
		case i == len(a) || b[j] < a[i]:
			j++
		default:
			both++
			i++
			j++
		}
	}
	return float64(both) / float64(n)
}

// folded brings words to one form: lower case, without accents and marks.
func folded(s string) string {
	if s = strings.ToLower(s); strings.IndexFunc(s, func(r rune) bool { return r > unicode.MaxASCII }) >= 0 {
		s, _, _ = transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn))), s)
	}
	return strings.Join(strings.FieldsFunc(s, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
}
