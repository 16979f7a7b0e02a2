package navigation

import (
	"testing"

	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil, nil).Routes()), map[string]any{
		"menus": menusView{
			Lines: []menuLine{{Tags: []string{"x"}}, {Twist: "open", DOM: "mi-1", Why: "x"}},
			Item:  &itemView{IsLink: true, Levels: []part.Option{{}}, Symbols: []part.Option{{}}}, Menus: []menuChoice{{}},
		},
		"boards":      boardsView{Any: true, Rows: []boardRow{{Faults: []string{"x"}}}},
		"trails":      trailsView{List: []trailLine{{Way: []string{"x"}}}, Gone: []trailLine{{}}},
		"trail":       trailView{Pages: []stepView{{}, {Why: "x"}}, Error: "x", Mine: "x"},
		"findability": findabilityView{Asks: true, Rows: []studyRow{{}}, Tasks: []taskField{{N: 1}}},
		"study":       studyView{Others: []part.Option{{}}, Results: []taskResult{{Than: "x", Tree: []astrayLine{{Level: 1}}}}},
		"reach":       reachView{Rows: []reachRow{{Way: []part.WayStep{{}}}}, Savings: []savingView{{}}, Spread: []spreadView{{}}},
	})
}
