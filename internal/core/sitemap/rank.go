package sitemap

import (
	"slices"
	"strings"
)

// Ranks are strings over 0-9 and a-z that sort by bytes and never end in 0, so
// that there is always room between two of them: moving an entry gives it alone
// a new rank.
const digits = "0123456789abcdefghijklmnopqrstuvwxyz"

// Between gives a rank after a and before b. An empty a means the beginning, an
// empty b the end. a must sort before b.
func Between(a, b string) string {
	var out []byte
	for i := 0; ; i++ {
		lo, hi := 0, len(digits)
		if i < len(a) {
			lo = strings.IndexByte(digits, a[i])
		}
		if b != "" && i < len(b) {
			hi = strings.IndexByte(digits, b[i])
		}
		switch {
		case lo == hi:
			out = append(out, digits[lo])
		case hi-lo > 1:
			// Appending at the end is the usual act: step, don't halve.
			mid := (lo + hi) / 2
			if b == "" && i < len(a) {
				mid = lo + 1
			}
			return string(append(out, digits[mid]))
		default:
			out = append(out, digits[lo])
			b = "" // anything below out+… is before b
		}
	}
}

// Spread gives n ranks of one length, evenly apart.
func Spread(n int) []string {
	width, room := 1, len(digits)
	for room <= 2*n {
		width, room = width+1, room*len(digits)
	}
	step := room / (n + 1)
	out := make([]string, n)
	for i := range out {
		v, b := (i+1)*step, make([]byte, width)
		for w := width - 1; w >= 0; w-- {
			b[w] = digits[v%len(digits)]
			v /= len(digits)
		}
		out[i] = strings.TrimRight(string(b), "0")
	}
	return out
}

// Rerank gives each entry of a tree a rank so that ranks agree with the order
// in which siblings stand, changing as few as it can. It returns the changed
// entries only. A rank that is empty or given twice counts as wrong.
func Rerank(t *Tree) map[string]string {
	changed := map[string]string{}
	siblings := make([]int, 0, 16)
	for p := None; p < t.Len(); p++ {
		if p == None && t.Home() != None {
			continue // home alone stands above the top
		}
		siblings = siblings[:0]
		for c := range t.Children(p) {
			siblings = append(siblings, c)
		}
		rerankSiblings(t, siblings, changed)
	}
	return changed
}

func rerankSiblings(t *Tree, siblings []int, changed map[string]string) {
	rank := func(i int) string { return t.entries[i].Rank }
	if slices.IsSortedFunc(siblings, func(a, b int) int { return strings.Compare(rank(a), rank(b)) }) && distinct(siblings, rank) {
		return
	}
	keep := Longest(len(siblings), func(i, j int) bool { return rank(siblings[i]) < rank(siblings[j]) },
		func(i int) bool { return rank(siblings[i]) != "" })
	if len(keep) == 0 {
		for i, r := range Spread(len(siblings)) {
			changed[t.entries[siblings[i]].ID] = r
		}
		return
	}
	before, from := "", 0
	for _, at := range append(keep, len(siblings)) { // the runs between those that keep theirs
		after := ""
		if at < len(siblings) {
			after = rank(siblings[at])
		}
		for i, r := range spreadBetween(before, after, at-from) {
			changed[t.entries[siblings[from+i]].ID] = r
		}
		before, from = after, at+1
	}
}

// few is up to how many newcomers in a row stand one step behind the other.
const few = 8

// spreadBetween gives n ranks after a and before b. Many share a beginning, so
// that none grows long.
func spreadBetween(a, b string, n int) []string {
	if n <= few {
		out := make([]string, n)
		for i := range out {
			a = Between(a, b)
			out[i] = a
		}
		return out
	}
	base, out := Between(a, b), Spread(n) // whatever follows base is before b
	for i := range out {
		out[i] = base + out[i]
	}
	return out
}

func distinct(siblings []int, rank func(int) string) bool {
	for i, s := range siblings {
		if rank(s) == "" || i > 0 && rank(s) == rank(siblings[i-1]) {
			return false
		}
	}
	return true
}

// Longest gives the positions of a longest strictly increasing subsequence of n
// items (Fredman, 1975: patience sorting), leaving out those that use refuses.
func Longest(n int, less func(i, j int) bool, use func(i int) bool) []int {
	tails := make([]int32, 0, n) // tails[k]: last item of the best run of length k+1
	back := make([]int32, n)
	for i := range n {
		if use != nil && !use(i) {
			continue
		}
		k, _ := slices.BinarySearchFunc(tails, i, func(t int32, i int) int {
			if less(int(t), i) {
				return -1
			}
			return 1
		})
		back[i] = None
		if k > 0 {
			back[i] = tails[k-1]
		}
		if k == len(tails) {
			tails = append(tails, int32(i))
		} else {
			tails[k] = int32(i)
		}
	}
	out := make([]int, len(tails))
	if len(tails) == 0 {
		return out
	}
	at := tails[len(tails)-1]
	for k := len(tails) - 1; k >= 0; k-- {
		out[k] = int(at)
		at = back[at]
	}
	return out
}
