package content

import (
	"slices"
	"strings"
)

// Tiles is a board of links that are drawn as cards.
const Tiles BlockType = "tiles"

// Tile is a link drawn as a card.
type Tile struct {
	To     string `json:"to"` // page:ID or a URL
	Title  string `json:"title"`
	Line   string `json:"line"`
	Symbol string `json:"symbol"`
}

// Symbols are those a tile can show.
func Symbols() []string {
	return []string{"", "leaf", "calendar", "clock", "key", "map", "people", "phone", "shield", "sprout", "tool", "book"}
}

var tilesKind = blockKind{
	is: Tiles, name: "Tile board",
	empty: func(b Block) bool { return len(b.Tiles) == 0 },
	clean: func(b Block) Block {
		tiles := slices.Clone(b.Tiles)
		for i, t := range tiles {
			if !slices.Contains(Symbols(), t.Symbol) {
				tiles[i].Symbol = ""
			}
		}
		return Block{Type: Tiles, Tiles: tiles}
	},
	links: func(b Block, _ Parse) []FoundLink {
		var out []FoundLink
		for _, t := range b.Tiles {
			out = append(out, FoundLink{To: t.To, Text: t.Title, Tile: true})
		}
		return out
	},
	words: func(b Block, _ Parse) string {
		var out []string
		for _, t := range b.Tiles {
			out = append(out, t.Title, t.Line)
		}
		return strings.Join(out, " ")
	},
	written: func(b Block) string {
		var out []string
		for _, t := range b.Tiles {
			out = append(out, "▪ "+t.Title+": "+t.Line)
		}
		return strings.Join(out, "\n")
	},
	rewrite: func(b Block, to func(string) string) Block {
		b.Tiles = slices.Clone(b.Tiles)
		for i, t := range b.Tiles {
			if strings.HasPrefix(t.To, Scheme) {
				b.Tiles[i].To = to(t.To)
			}
		}
		return b
	},
	unlink: func(b Block, entry, _ string) Block {
		b.Tiles = slices.DeleteFunc(slices.Clone(b.Tiles), func(t Tile) bool {
			id, ok := FoundLink{To: t.To}.Entry()
			return ok && id == entry
		})
		return b
	},
}
