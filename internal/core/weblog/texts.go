package weblog

import (
	"bytes"
	"hash/maphash"
	"math/bits"
)

// texts numbers texts from 0, the same one always the same. A million of 20 bytes take 32 MB: the texts one behind the
// other in runs that are never moved once they are full, where each begins, and a table of four bytes for each number.
// Make it by newTexts.
type texts struct {
	seed  maphash.Seed
	runs  []run
	n     int
	table []uint32 // hash → number plus one; nil: it is to be made
}

const (
	runBits = 13
	runSize = 1 << runBits // of texts
)

type run struct {
	text []byte
	at   []uint32 // where each begins
}

func newTexts() texts {
	return texts{seed: maphash.MakeSeed()}
}

// text is what has a number.
func (t *texts) text(i int) []byte {
	r, k := &t.runs[i>>runBits], i&(runSize-1)
	if k+1 < len(r.at) {
		return r.text[r.at[k]:r.at[k+1]]
	}
	return r.text[r.at[k]:]
}

// number gives a text its number, and whether it had one.
func (t *texts) number(text []byte) (i int, met bool) {
	if (t.n+1)*4 > len(t.table)*3 {
		t.index()
	}
	mask := uint64(len(t.table) - 1)
	at := maphash.Bytes(t.seed, text) & mask
	for ; t.table[at] != 0; at = (at + 1) & mask {
		if i := int(t.table[at] - 1); bytes.Equal(t.text(i), text) {
			return i, true
		}
	}
	t.keep(text)
	t.table[at] = uint32(t.n) //nolint:gosec // four thousand million texts are no log
	return t.n - 1, false
}

func (t *texts) keep(text []byte) {
	if t.n&(runSize-1) == 0 {
		if last := len(t.runs) - 1; last >= 0 {
			t.runs[last].text = bytes.Clone(t.runs[last].text) // without the room it grew into
		}
		t.runs = append(t.runs, run{at: make([]uint32, 0, runSize)})
	}
	r := &t.runs[len(t.runs)-1]
	r.at = append(r.at, uint32(len(r.text))) //nolint:gosec // a run has 32 MB at most
	r.text = append(r.text, text...)
	t.n++
}

// index makes the table, of a size that does for twice what there is.
func (t *texts) index() {
	t.table = make([]uint32, 1<<max(12, bits.Len(uint(2*t.n)))) //nolint:gosec // not negative
	mask := uint64(len(t.table) - 1)
	for i := range t.n {
		at := maphash.Bytes(t.seed, t.text(i)) & mask
		for t.table[at] != 0 {
			at = (at + 1) & mask
		}
		t.table[at] = uint32(i + 1) //nolint:gosec // as in number
	}
}
