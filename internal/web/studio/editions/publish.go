package editions

import (
	"errors"
	"net/http"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// publish makes the edition of what somebody chose.
func (s *Screens) publish(r *shell.Request) error {
	form := choiceForm(r)
	if form == nil {
		return plan.Refuse("", "The form cannot be read. Load the page again.")
	}
	e, err := s.App.Publish(r.Ctx(), r.Who, editions.PublishAsk{Key: r.PostForm("key"), Why: form.Why, Note: form.Note, Form: form})
	var invalid *plan.Invalid
	var notReady *editions.NotReady
	var moved *editions.Moved
	if errors.As(err, &invalid) || errors.As(err, &notReady) || errors.As(err, &moved) || errors.Is(err, redirect.ErrTable) {
		status, words := s.Word(err)
		return s.editionPage(r, status, form, words)
	}
	if err != nil {
		return err
	}
	s.Published(r.Ctx())
	r.Redirect(http.StatusSeeOther, urls.PastEdition(e.Number)+"&new=1")
	return nil
}
