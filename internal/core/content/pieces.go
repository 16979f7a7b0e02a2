package content

import (
	"maps"
	"regexp"
	"slices"
	"strings"
)

// Piece is a part of a page that can go to another page by itself: a block, or
// of a text what stands from one heading to the next.
type Piece struct {
	Slot    string
	Block   int // index in the slot
	Type    BlockType
	Heading string // the words of its heading, if it begins with one
	Level   int    // of the heading; 0: none
	Begins  string // the first words below the heading
	text    string // of a text or note
}

// The parts of CommonMark that matter to where a text can be cut: ATX headings
// and fences of code, in which there are none.
var (
	atxHeading = regexp.MustCompile(`^ {0,3}(#{1,6})(?:[ \t]|$)`)
	fence      = regexp.MustCompile("^ {0,3}(`{3,}|~{3,})")
)

// Pieces lists the pieces of a page in reading order.
func Pieces(t Template, p Page, parse Parse) []Piece {
	var out []Piece
	for _, s := range t.Slots() {
		for i, b := range p.Slots[s.Key] {
			if k := kindOf(b.Type); k == nil || !k.cuts {
				out = append(out, Piece{Slot: s.Key, Block: i, Type: b.Type, Begins: Shortened(b.words(parse), maxBegins), text: b.Text})
				continue
			}
			for _, section := range sections(b.Text) {
				piece := Piece{Slot: s.Key, Block: i, Type: Text, text: section}
				first, rest, _ := strings.Cut(section, "\n")
				if m := atxHeading.FindStringSubmatch(first); m != nil {
					piece.Level, piece.Heading, section = len(m[1]), Plain(parse(first)), rest
				}
				piece.Begins = Shortened(Plain(parse(section)), maxBegins)
				out = append(out, piece)
			}
		}
	}
	return out
}

const maxBegins = 140 // characters

// sections cuts a text before each of its headings.
func sections(text string) []string {
	var out []string
	start := 0
	headings(text, func(at, _ int) {
		if s := strings.TrimSpace(text[start:at]); s != "" {
			out = append(out, s)
		}
		start = at
	})
	if s := strings.TrimSpace(text[start:]); s != "" {
		out = append(out, s)
	}
	return out
}

// headings visits the headings of a text: where their line begins, and their
// level.
func headings(text string, visit func(at, level int)) {
	open, at := codeFence(""), 0
	for line := range strings.Lines(text) {
		open = open.after(line)
		if m := atxHeading.FindStringSubmatch(line); m != nil && open == "" {
			visit(at, len(m[1]))
		}
		at += len(line)
	}
}

// WithBelow adds to chosen pieces what stands below their headings.
func WithBelow(pieces []Piece, chosen []int) []int {
	taken := map[int]bool{}
	for _, i := range chosen {
		if i < 0 || i >= len(pieces) {
			continue
		}
		taken[i] = true
		top := pieces[i]
		for k := i + 1; top.Level > 0 && k < len(pieces) && pieces[k].Slot == top.Slot && pieces[k].Block == top.Block && pieces[k].Level > top.Level; k++ {
			taken[k] = true
		}
	}
	return slices.Sorted(maps.Keys(taken))
}

// Split parts a page in what stays and what goes. Where what goes begins with
// a heading, that is the title of the new page, and the headings left move up.
func Split(p Page, pieces []Piece, goes []int) (stay, leave Page, title string) {
	stay, leave = copied(p), copied(Page{})
	if len(goes) > 0 {
		title = pieces[goes[0]].Heading
	}
	type place struct {
		slot  string
		block int
	}
	texts := map[place][2][]string{} // of each block: what stays, what goes
	var order []place
	for i, piece := range pieces {
		at := place{piece.Slot, piece.Block}
		parts, seen := texts[at]
		if !seen {
			order = append(order, at)
		}
		side, text := 0, piece.text
		if slices.Contains(goes, i) {
			if side = 1; i == goes[0] && piece.Level > 0 {
				_, text, _ = strings.Cut(text, "\n")
			}
		}
		parts[side] = append(parts[side], strings.TrimSpace(text))
		texts[at] = parts
	}
	for _, slot := range slices.Sorted(maps.Keys(stay.Slots)) {
		if slices.ContainsFunc(order, func(at place) bool { return at.slot == slot }) {
			stay.Slots[slot] = nil
		}
	}
	for _, at := range order {
		for side, to := range []Page{stay, leave} {
			if texts[at][side] == nil {
				continue
			}
			b := p.Slots[at.slot][at.block]
			if b.Text = strings.TrimSpace(strings.Join(texts[at][side], "\n\n")); !b.IsEmpty() {
				to.Slots[at.slot] = append(to.Slots[at.slot], b)
			}
		}
	}
	raise(leave)
	return stay, leave, title
}

// copied is a page with maps of its own.
func copied(p Page) Page {
	out := Page{Fields: map[string]string{}, Slots: map[string][]Block{}}
	maps.Copy(out.Fields, p.Fields)
	maps.Copy(out.Slots, p.Slots)
	return out
}

// raise moves the headings of a page up, so that the highest is of level 2.
func raise(p Page) {
	top := 7
	for _, blocks := range p.Slots {
		for _, b := range blocks {
			headings(b.Text, func(_, level int) { top = min(top, level) })
		}
	}
	if top == 7 || top <= 2 {
		return
	}
	for _, blocks := range p.Slots {
		for i := range blocks {
			var out strings.Builder
			from, text := 0, blocks[i].Text
			headings(text, func(at, _ int) {
				out.WriteString(text[from:at])
				from = at + strings.IndexByte(text[at:], '#') + top - 2
			})
			blocks[i].Text = out.String() + text[from:]
		}
	}
}

// Take names a block of a page that is merged.
type Take struct {
	Slot  string
	Block int
}

// Merged gives the text of a page that takes another in: its own blocks that
// are kept, then those taken from the other, each in the slot that it stood in
// or else in the first that takes it. Blocks that no slot shows stay unseen. Fields
// that only the other tells are taken too.
func Merged(t Template, own, other Page, keep, take []Take) Page {
	out := copied(own)
	slots := t.Slots()
	for _, s := range slots {
		out.Slots[s.Key] = nil
		for i, b := range own.Slots[s.Key] {
			if slices.Contains(keep, Take{s.Key, i}) {
				out.Slots[s.Key] = append(out.Slots[s.Key], b)
			}
		}
	}
	for _, from := range take {
		if from.Block < 0 || from.Block >= len(other.Slots[from.Slot]) {
			continue
		}
		b := other.Slots[from.Slot][from.Block]
		if slot, fitting, ok := slotFor(slots, from.Slot, b); ok {
			out.Slots[slot] = append(out.Slots[slot], fitting)
		}
	}
	for key, v := range other.Fields {
		if out.Fields[key] == "" {
			out.Fields[key] = v
		}
	}
	return out
}

// slotFor finds a slot for a block: the one of the same key, else the first that
// takes it, else the first that takes its words.
func slotFor(slots []Part, key string, b Block) (string, Block, bool) {
	for _, s := range slots {
		if s.Key == key && s.Accepts(b.Type) {
			return s.Key, b, true
		}
	}
	for _, s := range slots {
		if s.Accepts(b.Type) {
			return s.Key, b, true
		}
	}
	for _, s := range slots {
		if s.Accepts(Text) && b.Text != "" {
			return s.Key, Block{Type: Text, Text: b.Text}, true
		}
	}
	return "", b, false
}

// WithTile gives a page with one more tile: on its first board of tiles, else
// on a board of its own in the first slot that takes one.
func WithTile(t Template, p Page, tile Values) (Page, bool) {
	out := copied(p)
	for _, s := range t.Slots() {
		for i, b := range out.Slots[s.Key] {
			if b.Type == Tiles && b.Get("from") == OwnTiles {
				blocks := slices.Clone(out.Slots[s.Key])
				blocks[i].Items = append(slices.Clone(b.Items), tile)
				out.Slots[s.Key] = blocks
				return out, true
			}
		}
	}
	for _, s := range t.Slots() {
		if s.Accepts(Tiles) {
			out.Slots[s.Key] = append(slices.Clone(out.Slots[s.Key]), Block{Type: Tiles, Items: []Values{tile}})
			return out, true
		}
	}
	return p, false
}

// WithCopy gives a page with a copy of a block at the end of the first slot that takes it,
// or at least its words.
func WithCopy(t Template, p Page, b Block) (Page, bool) {
	in := cleanedBlocks([]Block{b})
	if len(in) == 0 {
		return p, false
	}
	slot, fitting, ok := slotFor(t.Slots(), "", in[0])
	if !ok {
		return p, false
	}
	fitting.From, fitting.ID = b.ID, ""
	out := copied(p)
	out.Slots[slot] = append(slices.Clone(out.Slots[slot]), fitting)
	return out, true
}
