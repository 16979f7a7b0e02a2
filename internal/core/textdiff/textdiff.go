// Package textdiff compares two texts as a person reads them: lines first, and within
// lines that changed, words.
//
// Either way it finds the fewest tokens that are gone or come, by following the furthest
// point that so many changes reach on each diagonal (Myers, An O(ND) difference algorithm
// and its variations, 1986). Where two texts have next to nothing in common that takes
// long and says little: then all of the one is gone, and all of the other comes.
//
//	before  Open from nine to five.
//	after   Open from ten to five, daily.
//
//	Open from [nine→ten] to [five.→five, daily.]
package textdiff

import (
	"strings"
	"unicode"
)

// Kind is what happened to a run of text.
type Kind string

// The kinds.
const (
	Same Kind = "same"
	Gone Kind = "gone" // only before
	Come Kind = "come" // only after
)

// Run is a run of text.
type Run struct {
	Kind Kind   `json:"kind"`
	Text string `json:"text"`
}

// most is how many tokens may differ before the comparison gives up.
const most = 2000

// Compare tells how a text differs from one before it. All runs but those that come make
// the text before, all but those that are gone the text after.
func Compare(before, after string) []Run {
	var out writer
	a, b := strings.SplitAfter(before, "\n"), strings.SplitAfter(after, "\n")
	var gone, come strings.Builder
	flush := func() {
		if gone.Len() > 0 && come.Len() > 0 {
			steps(words(gone.String()), words(come.String()), out.add)
		} else {
			out.add(Gone, gone.String())
			out.add(Come, come.String())
		}
		gone.Reset()
		come.Reset()
	}
	steps(a, b, func(k Kind, line string) {
		switch k {
		case Gone:
			gone.WriteString(line)
		case Come:
			come.WriteString(line)
		default:
			flush()
			out.add(Same, line)
		}
	})
	flush()
	return out.all()
}

// Sides gives the runs of the text before, and those of the text after.
func Sides(runs []Run) (before, after []Run) {
	for _, r := range runs {
		if r.Kind != Come {
			before = append(before, r)
		}
		if r.Kind != Gone {
			after = append(after, r)
		}
	}
	return before, after
}

// writer gathers tokens into runs.
type writer struct {
	runs []Run
	kind Kind
	text strings.Builder
}

func (w *writer) add(k Kind, token string) {
	if token == "" {
		return
	}
	if k != w.kind {
		w.end()
		w.kind = k
	}
	w.text.WriteString(token)
}

func (w *writer) end() {
	if w.text.Len() > 0 {
		w.runs = append(w.runs, Run{w.kind, w.text.String()})
		w.text.Reset()
	}
}

func (w *writer) all() []Run {
	w.end()
	if w.runs == nil {
		return []Run{}
	}
	return w.runs
}

// words cuts a text into words, each with what stands between it and the next.
func words(s string) (out []string) {
	from, gap := 0, false
	for i, r := range s {
		space := unicode.IsSpace(r)
		if gap && !space {
			out = append(out, s[from:i])
			from = i
		}
		gap = space
	}
	if from < len(s) {
		out = append(out, s[from:])
	}
	return out
}

// steps tells in order which tokens are the same, gone or come.
func steps(a, b []string, tell func(Kind, string)) {
	head := 0
	for head < len(a) && head < len(b) && a[head] == b[head] {
		tell(Same, a[head])
		head++
	}
	tail := 0
	for tail < len(a)-head && tail < len(b)-head && a[len(a)-1-tail] == b[len(b)-1-tail] {
		tail++
	}
	middle(a[head:len(a)-tail], b[head:len(b)-tail], tell)
	for _, token := range a[len(a)-tail:] {
		tell(Same, token)
	}
}

// middle is steps for what has no end in common. furthest[k] is how far into a one gets
// on the diagonal k with so many changes; trail keeps it for each number of changes, to
// find the way back.
func middle(a, b []string, tell func(Kind, string)) {
	n, m := len(a), len(b)
	limit := min(n+m, most)
	furthest := make([]int, 2*limit+3)
	at := func(k int) *int { return &furthest[k+limit+1] }
	var trail [][]int
	for d := 0; d <= limit; d++ {
		trail = append(trail, append([]int(nil), furthest[limit+1-d:limit+2+d]...))
		for k := -d; k <= d; k += 2 {
			x := *at(k + 1)
			if k > -d && (k == d || *at(k - 1) >= x) {
				x = *at(k - 1) + 1
			}
			y := x - k
			for x < n && y < m && x >= 0 && y >= 0 && a[x] == b[y] {
				x, y = x+1, y+1
			}
			if *at(k) = x; x >= n && y >= m {
				back(a, b, trail, tell)
				return
			}
		}
	}
	for _, token := range a {
		tell(Gone, token)
	}
	for _, token := range b {
		tell(Come, token)
	}
}

// back follows the trail from the end to the beginning, and tells it forwards.
func back(a, b []string, trail [][]int, tell func(Kind, string)) {
	type step struct {
		kind  Kind
		token string
	}
	var steps []step
	x, y := len(a), len(b)
	for d := len(trail) - 1; d >= 0 && (x > 0 || y > 0); d-- {
		was := func(k int) int { // trail[d] holds the diagonals from -d to d
			if k < -d || k > d {
				return -1
			}
			return trail[d][k+d]
		}
		k := x - y
		down := k == -d || k != d && was(k-1) < was(k+1)
		afterX, afterY := 0, 0 // where the change before the run of the same ended
		switch {
		case d > 0 && down:
			afterX, afterY = was(k+1), was(k+1)-k
		case d > 0:
			afterX, afterY = was(k-1)+1, was(k-1)+1-k
		}
		for x > afterX && y > afterY {
			x, y = x-1, y-1
			steps = append(steps, step{Same, a[x]})
		}
		if d == 0 {
			break
		}
		if down {
			y--
			steps = append(steps, step{Come, b[y]})
		} else {
			x--
			steps = append(steps, step{Gone, a[x]})
		}
	}
	for i := len(steps) - 1; i >= 0; i-- {
		tell(steps[i].kind, steps[i].token)
	}
}
