package sitemap

import (
	"testing"

	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil).Routes()), map[string]any{
		"outline":             outlineView{},
		"outline beside":      besideView{Facts: []factView{{Key: "a", Options: []part.Option{{}}}, {Key: "b", Input: "lines"}, {Key: "c", Input: "day"}, {Key: "d", FindsPage: true}, {Key: "e", Fixed: true}}, Found: []lookAtView{{Mend: "m"}}},
		"outline beside-many": besideView{Pair: []pair{{}}},
		"outline confirm":     confirmView{Points: []point{{}}},
		"map":                 mapView{Overlays: []part.Option{{}}},
		"compare":             compareView{Ways: []wayLine{{URL: "x"}}, Lines: []compareLine{{}}, Rows: []compareRow{{}}},
		"checks": checksView{
			Rule: "r", Mends: []string{"x", "y"}, Pager: part.Pager{Prev: "p", Next: "n"}, Rows: []checkRow{{Mend: "m", ID: "x"}}, Mending: &mendingView{},
		},
		"similar":     similarView{Rows: []similarRow{{}}, Working: true},
		"merge":       mergeView{Facts: []mergeFactView{{}}, Kept: mergeSideView{Blocks: []mergeBlockView{{ID: "k"}}}},
		"import":      importView{},
		"import-file": importFileView{},
	})
}
