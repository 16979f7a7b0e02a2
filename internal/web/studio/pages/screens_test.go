package pages

import (
	"testing"

	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil).Routes()), map[string]any{
		"inventory":      inventoryView{},
		"page":           pageView{Crumbs: []crumbView{{}}},
		"files":          filesView{Any: true, Rows: []fileRow{{On: []crumbView{{}}, RemoveURL: "x"}}},
		"look screen":    lookView{},
		"templates":      templatesView{Rows: []templateRow{{Drafts: []templateDraft{{}}, RemoveURL: "x", Planned: "x"}, {Gone: true}}, Fresh: []templateDraft{{}}},
		"template":       templateView{New: true, Drafted: true, Mine: true},
		"template-check": checkView{Faults: []string{"x"}, May: true, Stale: true, Sample: "x", Choose: []part.Option{{}}, Told: []effectView{{Told: []string{"x"}}}},
		"retemplate":     retemplateView{Change: true, Choices: []part.Option{{}}, Slots: []slotToPlaceView{{Aside: true, Refused: "x", Into: []part.Option{{}}}}, Told: []string{"x"}},
		"facts":          factsView{Head: []string{"x"}, Rows: []factRowView{{Cells: []cellView{{ID: "a", Kind: "select", Choices: []part.Option{{}}, Problem: "x"}, {ID: "b", Kind: "long"}, {ID: "c", Kind: "date", Said: "x"}}}}},
		"new-page":       newPageView{Templates: []part.Option{{}}, Facts: []cellView{{ID: "a", Kind: "select", Choices: []part.Option{{}}}, {ID: "b", Kind: "long"}, {ID: "c", Said: "x"}}, Known: []string{"x"}},
		"versions":       versionsView{Rows: []versionRow{{CompareURL: "x", Key: "x"}}, Compared: &comparedView{Changes: []changeView{{Runs: []runView{{Kind: "gone"}, {Kind: "come"}, {}}}}}},
		"split":          splitView{Pieces: []pieceView{{}, {Index: 1}}},
		"removed":        removedView{Any: true, Rows: []removedRow{{}}},
	})
}
