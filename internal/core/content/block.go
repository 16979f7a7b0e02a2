package content

import (
	"strings"
)

// BlockType is what a block is.
type BlockType string

// Block is one unit of content in a slot.
type Block struct {
	ID    string    `json:"id,omitempty"`   // stays with the block; see Identified
	From  string    `json:"from,omitempty"` // the block that it is a copy of
	Type  BlockType `json:"type"`
	Text  string    `json:"text,omitempty"`  // text and note: CommonMark
	Tone  string    `json:"tone,omitempty"`  // note: plain, tip or warning
	Tiles []Tile    `json:"tiles,omitempty"` // tile board
}

// blockKind is what there is to know of one kind of block. A new kind is a file with
// its row here, a template blocks/KIND.html in package markup, and block_KIND.js in
// the editor's scripts.
type blockKind struct {
	is   BlockType
	name string // as the editor offers it

	empty   func(b Block) bool                          // shows nothing
	clean   func(b Block) Block                         // without what the kind does not know
	links   func(b Block, parse Parse) []FoundLink      // in reading order
	words   func(b Block, parse Parse) string           // all of them, for search and for lists
	written func(b Block) string                        // as somebody wrote it, for comparing
	rewrite func(b Block, to func(string) string) Block // with other links to pages of the site
	unlink  func(b Block, entry, title string) Block    // without links to an entry
	cuts    bool                                        // a page can be split at its headings
}

// blockKinds is the table of kinds, in the order in which the editor offers them.
func blockKinds() []blockKind { return []blockKind{textKind, tilesKind, noteKind} }

func kindOf(t BlockType) *blockKind {
	for _, k := range blockKinds() {
		if k.is == t {
			return &k
		}
	}
	return nil
}

// BlockTypes lists the kinds in the order in which the editor offers them.
func BlockTypes() []BlockType {
	var out []BlockType
	for _, k := range blockKinds() {
		out = append(out, k.is)
	}
	return out
}

// Name is what people call the kind.
func (t BlockType) Name() string {
	if k := kindOf(t); k != nil {
		return k.name
	}
	return string(t)
}

// IsEmpty tells whether a block shows nothing; one of no known kind shows nothing.
func (b Block) IsEmpty() bool {
	k := kindOf(b.Type)
	return k == nil || k.empty(b)
}

// words gives all words of a block.
func (b Block) words(parse Parse) string {
	if k := kindOf(b.Type); k != nil {
		return k.words(b, parse)
	}
	return ""
}

// What kinds share whose content is one text.

func textEmpty(b Block) bool { return strings.TrimSpace(b.Text) == "" }

func textLinks(b Block, parse Parse) []FoundLink {
	var out []FoundLink
	walk(parse(b.Text), func(n Node) {
		if n.Kind == Link {
			out = append(out, FoundLink{To: n.To, Text: Plain(n.Children)})
		}
	})
	return out
}

func textWords(b Block, parse Parse) string { return Plain(parse(b.Text)) }

// textWritten leaves out where links lead, and writes the signs of lists in one way, since
// that is no difference to anybody who reads.
func textWritten(b Block) string {
	return listSign.ReplaceAllString(writtenLink.ReplaceAllString(b.Text, "]"), "$1- ")
}

func textRewrite(b Block, to func(string) string) Block {
	text := pageLink.ReplaceAllStringFunc(b.Text, to)
	b.Text = ownAnchor.ReplaceAllStringFunc(text, func(link string) string {
		at := strings.IndexByte(link, '#')
		return link[:at] + to(link[at:])
	})
	return b
}

func textUnlink(b Block, entry, title string) Block {
	b.Text = unlinked(b.Text, entry, title)
	return b
}
