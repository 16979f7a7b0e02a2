package pages

import (
	"net/http"
	"time"

	"candlepath/internal/app/pages"
	"candlepath/internal/core/content"
	"candlepath/internal/web/studio/shell"
)

type lockView struct {
	Mine   bool   `json:"mine"`
	Holder string `json:"holder,omitempty"`
	Self   bool   `json:"self,omitempty"`
	Since  string `json:"since,omitempty"`

	Asked    string `json:"asked,omitempty"`
	Waiting  bool   `json:"waiting,omitempty"`
	Declined bool   `json:"declined,omitempty"`

	Base    int           `json:"base,omitempty"`
	Content *content.Page `json:"content,omitempty"`
}

func newLock(l pages.LockState) lockView {
	v := lockView{Mine: l.Mine, Holder: l.Holder, Self: l.Self, Asked: l.Asked, Waiting: l.Waiting, Declined: l.Declined}
	if !l.Since.IsZero() {
		v.Since = l.Since.UTC().Format(time.RFC3339)
	}
	if l.Newest != nil {
		v.Base, v.Content = l.Newest.Base, &l.Newest.Content
	}
	return v
}

type lockForm struct {
	Window  string `json:"window"`
	Was     string `json:"was"`
	Force   bool   `json:"force"`
	Reading bool   `json:"reading"`
	ID      string `json:"id"`
	Ask     bool   `json:"ask"`
	Answer  string `json:"answer"`
}

func (s *Screens) lockPage(r *shell.Request) error {
	var f lockForm
	if err := r.Json(&f); err != nil {
		return err
	}
	l, err := s.App.KeepLock(r.Ctx(), r.Who, r.Param("id"), pages.LockAsk{Window: f.Window, Was: f.Was, Force: f.Force, Reading: f.Reading, Ask: f.Ask, Answer: f.Answer})
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, newLock(l))
	return nil
}

func (s *Screens) closePage(r *shell.Request) error {
	var f lockForm
	if err := r.Json(&f); err != nil {
		return err
	}
	r.Status(http.StatusNoContent)
	return s.App.ClosePage(r.Ctx(), r.Who, r.Param("id"), f.Window)
}
