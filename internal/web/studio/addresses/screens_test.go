package addresses

import (
	"testing"

	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil).Routes()), map[string]any{
		"moves":     movesView{},
		"redirects": redirectsView{},
	})
}
