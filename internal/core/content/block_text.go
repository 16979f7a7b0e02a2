package content

// Text is CommonMark with tables.
const Text BlockType = "text"

var textKind = blockKind{
	is: Text, name: "Text", cuts: true,
	empty: textEmpty, links: textLinks, words: textWords, written: textWritten, rewrite: textRewrite, unlink: textUnlink,
	clean: func(b Block) Block { return Block{Type: Text, Text: b.Text} },
}
