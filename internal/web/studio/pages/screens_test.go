package pages

import (
	"testing"

	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil).Routes()), map[string]any{
		"inventory":   inventoryView{},
		"page":        pageView{Crumbs: []crumbView{{}}},
		"files":       filesView{Any: true, Rows: []fileRow{{On: []crumbView{{}}, RemoveURL: "x"}}},
		"look screen": lookView{},
		"split":       splitView{Pieces: []pieceView{{}, {Index: 1}}},
		"removed":     removedView{Any: true, Rows: []removedRow{{}}},
	})
}
