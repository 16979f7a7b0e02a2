package content

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// Every kind of block has a whole row: it cleans, finds and rewrites its links, and
// gives its words.
func TestTheTableOfBlockKindsIsComplete(t *testing.T) {
	parse := func(text string) []Node {
		return []Node{{Kind: Link, To: "page:a", Children: []Node{{Kind: Words, Text: text}}}}
	}
	for _, kind := range BlockTypes() {
		b := Block{Type: kind, Text: "[Ponds](page:a)", Tone: "loud", Tiles: []Tile{{To: "page:a", Title: "Ponds", Symbol: "no such"}}}
		require.True(t, Block{Type: kind}.IsEmpty(), kind)
		require.False(t, b.IsEmpty(), kind)
		require.NotEqual(t, string(kind), kind.Name())
		row := kindOf(kind)
		clean := row.clean(b)
		require.Equal(t, clean, row.clean(clean), "cleaning twice equals once")
		require.Len(t, row.links(clean, parse), 1, kind)
		require.NotEmpty(t, clean.words(parse), kind)
		require.Contains(t, row.written(clean), "Ponds", kind)
		require.NotContains(t, row.written(clean), "page:a", kind)
		moved := row.rewrite(clean, func(string) string { return "page:b" })
		require.NotEqual(t, clean, moved, kind)
		require.Empty(t, row.unlink(moved, "b", "Ponds").Tiles, kind)
		require.NotContains(t, row.unlink(moved, "b", "Ponds").Text, "page:b", kind)
	}
	require.True(t, Block{Type: "unknown", Text: "x"}.IsEmpty())
}
