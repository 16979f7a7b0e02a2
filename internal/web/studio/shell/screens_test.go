package shell

import (
	"testing"

	"candlepath/internal/web/studio/screentest"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, nil, map[string]any{
		"parts":                newPartsView(Frame{}),
		"problem plain":        problemView{},
		"outline shelf-update": Frame{Shelf: shelfView{Lines: []shelfLine{{}}}},
	})
}
