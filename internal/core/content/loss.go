package content

import "strings"

// aFew is how many words a text may lose without anybody missing an earlier version of it.
const aFew = 5

// TakesAway tells whether a text lacks a block, or more than a few words, of the one before it. Words that only stand
// elsewhere now are not lost. Both texts have ids on every block.
func TakesAway(before, after Page) bool {
	was, is := apart(before), apart(after)
	missing := map[string]int{} // words, by how many fewer there are of them
	count := func(text string, by int) {
		for w := range strings.FieldsSeq(text) {
			missing[w] += by
		}
	}
	for id, b := range was {
		now, there := is[id]
		if !there && !b.IsEmpty() {
			return true
		}
		gone, came := differing(b, now)
		count(gone, 1)
		count(came, -1)
	}
	for id, b := range is {
		if _, there := was[id]; !there {
			count(b.written(), -1)
		}
	}
	for _, v := range before.Fields {
		count(v, 1)
	}
	for _, v := range after.Fields {
		count(v, -1)
	}
	n := 0
	for _, fewer := range missing {
		n += max(fewer, 0)
	}
	return n > aFew
}

// apart gives all blocks of a page by their ids, those in columns by themselves.
func apart(p Page) map[string]Block {
	out := map[string]Block{}
	for _, blocks := range p.Slots {
		for _, top := range blocks {
			top.each(func(b Block) {
				b.Columns = nil
				out[b.ID] = b
			})
		}
	}
	return out
}

// differing gives what two forms of a block do not begin and end with alike, in whole words.
func differing(was, is Block) (gone, came string) {
	switch {
	case sameBlock(was, is):
		return "", ""
	case was.Type == Text && is.Type == Text:
		gone, came = was.Text, is.Text
	default:
		gone, came = was.written(), is.written()
	}
	most, n := min(len(gone), len(came)), 0
	for n < most && gone[n] == came[n] {
		n++
	}
	n = strings.LastIndexAny(gone[:n], blank) + 1 // where a word begins
	gone, came = gone[n:], came[n:]
	most, n = min(len(gone), len(came)), 0
	for n < most && gone[len(gone)-1-n] == came[len(came)-1-n] {
		n++
	}
	tail := gone[len(gone)-n:]
	if n = 0; strings.ContainsAny(tail, blank) { // where a word ends
		n = len(tail) - strings.IndexAny(tail, blank)
	}
	return gone[:len(gone)-n], came[:len(came)-n]
}

const blank = " \n\t"
