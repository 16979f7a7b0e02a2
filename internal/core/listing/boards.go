package listing

import (
	"fmt"

	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/sitemap"
)

// Board is a tile board of a page, as their list tells it.
type Board struct {
	Block  content.Block
	Shows  int      // tiles that readers get; of what they opened last, how many at most
	Faults []string // clauses
}

// Boards lists the tile boards of a page in reading order, and what is wrong with them.
func (s Site) Boards(t content.Template, p content.Page, here int) (out []Board) {
	for _, b := range content.Blocks(t, p) {
		if b.Type != content.Tiles {
			continue
		}
		board := Board{Block: b}
		if n, opened := Opened(b); opened {
			board.Shows = n
		} else if b.Get("from") == content.OwnTiles {
			board.Shows, board.Faults = s.tiles(b)
		} else if board.Shows = len(s.Pages(b, here)); board.Shows == 0 {
			board.Faults = []string{"it finds no page, so readers do not see it"}
		}
		out = append(out, board)
	}
	return out
}

// tiles holds the tiles that an editor chose against the sitemap.
func (s Site) tiles(b content.Block) (shown int, faults []string) {
	if len(b.Items) == 0 {
		return 0, []string{"it has no tiles yet"}
	}
	seen := map[string]bool{}
	for i, it := range b.Items {
		to := it["to"]
		id, page := content.FoundLink{To: to}.Entry()
		switch at := s.Tree.Find(id); {
		case to == "":
			faults = append(faults, fmt.Sprintf("tile %d leads nowhere", i+1))
		case page && at == sitemap.None:
			faults = append(faults, fmt.Sprintf("tile %d leads to a page that is gone; readers do not see it", i+1))
		case page && menu.Href(s.Tree, at) == "":
			faults = append(faults, fmt.Sprintf("tile %d leads to %q, which readers cannot open; they do not see it", i+1, s.Tree.Ref(at).Title))
		default:
			if shown++; seen[to] {
				faults = append(faults, fmt.Sprintf("tile %d leads where another does already", i+1))
			}
			seen[to] = true
		}
	}
	return shown, faults
}
