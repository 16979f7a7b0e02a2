package account

import (
	"testing"

	"candlepath/internal/core/setting"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil, "").Routes()), map[string]any{
		"people":         peopleView{Rows: []personView{{Roles: []part.Option{{}}}}, Link: &linkForView{}},
		"jobs":           jobsView{Busy: true, Rows: []jobView{{Failed: true, Progress: "x", Retry: "y", Attempts: "z", Error: "e"}}},
		"inbox":          inboxView{Latest: "1", Rows: []noticeView{{Words: "x", URL: "y", Unread: true}, {}}},
		"settings":       settingsView{Groups: newSettings(setting.Values{setting.Mark: "/files/1/mark.png"}, nil, "name")},
		"begin plain":    beginView{},
		"password plain": passwordView{},
		"sign-in plain":  signInView{},
	})
}
