package content

import (
	"crypto/sha256"
	"encoding/hex"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/textdiff"
)

// A block has an id that stays with it when it moves, so that two texts of a page can be
// compared block by block. Texts of before that have none; they get ids that follow from
// the page, the slot and the place, the same whenever they are read.

// blockID is the form of an id that somebody may hand in.
var blockID = regexp.MustCompile(`^[0-9A-Za-z-]{1,64}$`)

func cleanID(id string) string {
	if blockID.MatchString(id) {
		return id
	}
	return ""
}

func sortedKeys(slots map[string][]Block) []string { return slices.Sorted(maps.Keys(slots)) }

// Identified gives the text of an entry with an id on every block. Of two with the same
// one the second is a copy: it gets an id of its own and says what it came from.
func Identified(p Page, entry string) Page {
	taken := map[string]bool{}
	slots := make(map[string][]Block, len(p.Slots))
	for _, key := range sortedKeys(p.Slots) {
		slots[key] = identified(p.Slots[key], taken, entry, key)
	}
	p.Slots = slots
	return p
}

func identified(blocks []Block, taken map[string]bool, entry, where string) []Block {
	blocks = slices.Clone(blocks)
	for i := range blocks {
		b := &blocks[i]
		switch {
		case b.ID == "":
			b.ID = derivedID(taken, entry, where, i)
		case taken[b.ID]:
			b.From = b.ID
			b.ID = derivedID(taken, entry, b.ID, i)
		}
		taken[b.ID] = true
		if len(b.Columns) == 0 {
			continue
		}
		columns := make([][]Block, len(b.Columns))
		for c, col := range b.Columns {
			columns[c] = identified(col, taken, entry, b.ID+" "+strconv.Itoa(c))
		}
		b.Columns = columns
	}
	return blocks
}

// derivedID makes an id that nothing has yet of what it is made from.
func derivedID(taken map[string]bool, entry, from string, at int) string {
	for round := 0; ; round++ {
		sum := sha256.Sum256([]byte(entry + "\x00" + from + "\x00" + strconv.Itoa(at) + "\x00" + strconv.Itoa(round)))
		if id := hex.EncodeToString(sum[:8]); !taken[id] {
			return id
		}
	}
}

// BlockChangeKind is what happened to a block between two texts.
type BlockChangeKind string

// The kinds.
const (
	BlockCame    BlockChangeKind = "came"
	BlockWent    BlockChangeKind = "went"
	BlockChanged BlockChangeKind = "changed"
	BlockMoved   BlockChangeKind = "moved" // and nothing else
)

// BlockChange is how one block differs between two texts of a page.
type BlockChange struct {
	ID   string          `json:"id"`            // in the text in which it is, the later one where it is in both
	Was  string          `json:"was,omitempty"` // in the earlier text, where it is in both
	Slot string          `json:"slot"`
	What BlockChangeKind `json:"what"`
	Runs []textdiff.Run  `json:"runs"` // its words, before and after
}

// Changes tells block by block how a text differs from one before it: in the order of the
// later text, then what went. Blocks are matched by their ids, then, of one kind in one
// slot, by how alike they are. Both texts have ids on every block.
func Changes(before, after Page) []BlockChange {
	was, is := placedBlocks(before), placedBlocks(after)
	of := matched(was, is)
	moved := movedBlocks(was, is, of)
	met := map[int]bool{}
	var out []BlockChange
	for k, b := range is {
		at, ok := of[k]
		c := BlockChange{ID: b.ID, Slot: b.slot}
		if ok {
			c.Was = was[at].ID
		}
		switch {
		case !ok:
			c.What, c.Runs = BlockCame, textdiff.Compare("", b.asWritten())
		case !sameBlock(was[at].plainLists(), b.plainLists()):
			c.What, c.Runs = BlockChanged, textdiff.Compare(was[at].asWritten(), b.asWritten())
		case moved[k]:
			c.What, c.Runs = BlockMoved, textdiff.Compare(b.asWritten(), b.asWritten())
		}
		if met[at] = met[at] || ok; c.What != "" {
			out = append(out, c)
		}
	}
	for at, b := range was {
		if !met[at] {
			out = append(out, BlockChange{ID: b.ID, Slot: b.slot, What: BlockWent, Runs: textdiff.Compare(b.asWritten(), "")})
		}
	}
	return out
}

// placedBlock is a block with the slot in which it stands.
type placedBlock struct {
	Block
	slot string
}

func (b placedBlock) asWritten() string { return b.written() }

// plainLists is the block with the signs of its lists written in one way.
func (b placedBlock) plainLists() Block {
	b.Text = listSign.ReplaceAllString(b.Text, "$1- ")
	return b.Block
}

func placedBlocks(p Page) (out []placedBlock) {
	for _, key := range sortedKeys(p.Slots) {
		for _, b := range p.Slots[key] {
			out = append(out, placedBlock{b, key})
		}
	}
	return out
}

// mostPairs is how many pairs of blocks are compared to find those that are alike.
const mostPairs = 2500

// pairs gives for a later block the earlier one that it is.
type pairs map[int]int

func (p pairs) lacks(k int) bool { _, ok := p[k]; return !ok }

// told is a block as it is compared with others: its kind, where it stands, and its words.
func (b placedBlock) told() string { return string(b.Type) + "\x00" + b.slot + "\x00" + b.asWritten() }

// matched gives for each later block the earlier one that it is.
func matched(was, is []placedBlock) pairs {
	byID := map[string]int{}
	for at, b := range was {
		byID[b.ID] = at
	}
	of, met := pairs{}, map[int]bool{}
	for k, b := range is {
		if at, ok := byID[b.ID]; ok && was[at].Type == b.Type {
			of[k], met[at] = at, true
		}
	}
	same := map[string][]int{} // earlier blocks by what they say
	for at, b := range was {
		if !met[at] {
			same[b.told()] = append(same[b.told()], at)
		}
	}
	for k, b := range is {
		if left := same[b.told()]; of.lacks(k) && len(left) > 0 {
			of[k], met[left[0]] = left[0], true
			same[b.told()] = left[1:]
		}
	}
	if (len(is)-len(of))*(len(was)-len(of)) > mostPairs {
		return of
	}
	for k, b := range is {
		if !of.lacks(k) {
			continue
		}
		best, most := -1, 0.5 // at least half of the words
		for at, a := range was {
			if met[at] || a.Type != b.Type || a.slot != b.slot {
				continue
			}
			if s := alikeTexts(a.asWritten(), b.asWritten()); s >= most {
				best, most = at, s
			}
		}
		if best >= 0 {
			of[k], met[best] = best, true
		}
	}
	return of
}

// alikeTexts tells how many words two texts have in common, 0 to 1.
func alikeTexts(a, b string) float64 {
	of := map[string]int{}
	was, is := strings.Fields(a), strings.Fields(b)
	for _, w := range was {
		of[w]++
	}
	same := 0
	for _, w := range is {
		if of[w] > 0 {
			of[w]--
			same++
		}
	}
	if len(was)+len(is) == 0 {
		return 1
	}
	return 2 * float64(same) / float64(len(was)+len(is))
}

// movedBlocks tells which later blocks stand in another slot or out of the order of the
// others: as few as explain it.
func movedBlocks(was, is []placedBlock, of pairs) map[int]bool {
	moved := map[int]bool{}
	var kept []int // of the later blocks, those that stayed in their slots
	for k := range is {
		switch at, ok := of[k]; {
		case !ok:
		case was[at].slot != is[k].slot:
			moved[k] = true
		default:
			kept = append(kept, k)
		}
	}
	for _, k := range outOfOrder(kept, of) {
		moved[k] = true
	}
	return moved
}

// outOfOrder gives those that are not in a longest run of rising earlier places.
func outOfOrder(kept []int, of pairs) (out []int) {
	length, back := make([]int, len(kept)), make([]int, len(kept))
	end := -1
	for i := range kept {
		length[i], back[i] = 1, -1
		for j := range i {
			if of[kept[j]] < of[kept[i]] && length[j] >= length[i] {
				length[i], back[i] = length[j]+1, j
			}
		}
		if end < 0 || length[i] > length[end] {
			end = i
		}
	}
	stays := map[int]bool{}
	for ; end >= 0; end = back[end] {
		stays[end] = true
	}
	for i, k := range kept {
		if !stays[i] {
			out = append(out, k)
		}
	}
	return out
}
