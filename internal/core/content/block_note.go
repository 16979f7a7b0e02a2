package content

import (
	"slices"
)

// Note is a box with a text that is to be noticed.
const Note BlockType = "note"

// Tones are those of a note box.
func Tones() []string { return []string{"plain", "tip", "warning"} }

var noteKind = blockKind{
	is: Note, name: "Note box",
	empty: textEmpty, links: textLinks, words: textWords, written: textWritten, rewrite: textRewrite, unlink: textUnlink,
	clean: func(b Block) Block {
		if !slices.Contains(Tones(), b.Tone) {
			b.Tone = "plain"
		}
		return Block{Type: Note, Text: b.Text, Tone: b.Tone}
	},
}
