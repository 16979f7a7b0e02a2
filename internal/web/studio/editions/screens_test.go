package editions

import (
	"testing"

	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil).Routes()), map[string]any{
		"edition": editionView{
			Beneath: []beneathView{{}}, Opened: []string{"x"}, Entries: []changedEntry{{ID: "e", Branch: "b", Changes: []changeView{{ID: "c"}}}},
			Errors: []findingView{{Links: &brokenLinks{To: "t", Pages: []linkView{{}}}}}, Decisions: []decisionView{{ID: "d"}}, Rest: "r", More: "m",
		},
		"edition edition-body": editionView{Later: "/"},
		"past":                 pastView{},
	})
}
