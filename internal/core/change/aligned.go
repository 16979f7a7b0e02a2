package change

import (
	"slices"

	"candlepath/internal/core/sitemap"
)

// Line is one line of two trees side by side: indices into them, None where a
// tree has nothing there.
type Line struct{ From, To int }

// Aligned lays two trees side by side, each in its own order. An entry stands on
// one line of both, unless it was moved across others: then it stands where it
// was in the one and where it is in the other. What is on one line is the
// heaviest increasing subsequence, in which what kept its parent outweighs all
// that did not; the best ends are kept in a tree of prefix maxima (Fenwick, A new
// data structure for cumulative frequency tables, 1994).
func Aligned(from, to *sitemap.Tree) []Line {
	there, near := make([]int32, from.Len()), sitemap.None // where each entry of from is in to
	for i := range there {
		j := to.FindNear(from.Ref(i).ID, near+1)
		if there[i] = int32(j); j != sitemap.None {
			near = j
		}
	}
	best := make([]int, to.Len()+1) // entry of from with which the heaviest sequence of a span of to ends, plus one
	weight, before := make([]int, from.Len()), make([]int, from.Len())
	heaviest := 0
	for i := range from.Len() {
		j := int(there[i])
		if j == sitemap.None {
			continue
		}
		own, last := 1, 0
		if from.Ref(i).Parent == to.Ref(j).Parent {
			own = from.Len() + 1
		}
		for k := j; k > 0; k -= k & -k { // of all before j
			if b := best[k]; b > 0 && (last == 0 || weight[b-1] > weight[last-1]) {
				last = b
			}
		}
		if weight[i], before[i] = own, last; last > 0 {
			weight[i] += weight[last-1]
		}
		for k := j + 1; k < len(best); k += k & -k {
			if best[k] == 0 || weight[i] > weight[best[k]-1] {
				best[k] = i + 1
			}
		}
		if heaviest == 0 || weight[i] > weight[heaviest-1] {
			heaviest = i + 1
		}
	}
	var together []int
	for b := heaviest; b > 0; b = before[b-1] {
		together = append(together, b-1)
	}
	slices.Reverse(together)
	out := make([]Line, 0, from.Len()+to.Len()-len(together))
	i, j := 0, 0
	until := func(endFrom, endTo int) {
		for ; i < endFrom; i++ {
			out = append(out, Line{i, sitemap.None})
		}
		for ; j < endTo; j++ {
			out = append(out, Line{sitemap.None, j})
		}
	}
	for _, k := range together {
		until(k, int(there[k]))
		out = append(out, Line{k, j})
		i, j = i+1, j+1
	}
	until(from.Len(), to.Len())
	return out
}
