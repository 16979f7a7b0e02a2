package editions

import (
	"errors"
	"fmt"
	"net/http"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// publish makes the edition of what somebody chose.
func (s *Screens) publish(r *shell.Request) error {
	form := choiceForm(r)
	if form == nil {
		return plan.Refuse("", "The form could not be read. Reload the page.")
	}
	e, later, err := s.App.PublishChosen(r.Ctx(), r.Who, editions.PublishAsk{Key: r.PostForm("key"), Why: form.Why, Note: form.Note, Form: form})
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
	if later != "" {
		r.Redirect(http.StatusSeeOther, urls.LargeEdition(later))
		return nil
	}
	s.Published(r.Ctx())
	r.Redirect(http.StatusSeeOther, urls.PastEdition(e.Number)+"&new=1")
	return nil
}

// largeView tells how far an edition is that is published, or exported, behind the screen.
type largeView struct {
	shell.Frame
	Heading, Words, Far, Problem string
	Self, Stop, Next, NextWords  string
	File, FileWords              string // what came of it
	Until                        part.Moment
	Done, Total                  int
	Waiting                      bool
}

// largeEdition shows how far a large edition is. It can be left.
func (s *Screens) largeEdition(r *shell.Request) error {
	l, err := s.App.LargeEdition(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	if l.State == editions.LargeOut {
		s.Published(r.Ctx())
		if to := urls.PastEdition(l.Edition) + "&new=1"; render.Fragment(r.Request) {
			r.Header("HX-Redirect", to)
			r.Status(http.StatusNoContent)
		} else {
			r.Redirect(http.StatusSeeOther, to)
		}
		return nil
	}
	f, n, err := s.FrameFor(r, "Publishing")
	if err != nil {
		return err
	}
	v := largeView{Frame: f, Self: urls.LargeEdition(l.ID), Stop: urls.Stop(urls.LargeEdition(l.ID)), Next: urls.Edition, NextWords: "Check the next edition", Done: l.Done, Total: l.Total, Waiting: l.State == editions.LargeWaiting, Problem: l.Problem}
	v.Heading = fmt.Sprintf("Publishing edition %d", n.Site.Edition+1)
	if !v.Waiting {
		v.Heading = "Nothing was published"
	}
	v.Far = part.Thousands(l.Done) + " of " + part.Thousands(l.Total) + " pages prepared"
	v.Words = part.Count(l.Changes, "change is being published", "changes are being published") + ". You can leave this page; you get a notice in your inbox when it is done."
	return s.showLarge(r, v)
}

// stopLarge keeps a large edition from being published.
func (s *Screens) stopLarge(r *shell.Request) error {
	if err := s.App.StopLarge(r.Ctx(), r.Who, r.Param("id")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.LargeEdition(r.Param("id")))
	return nil
}

func (s *Screens) showLarge(r *shell.Request, v largeView) error {
	if render.Fragment(r.Request) {
		return s.Set.Write(r.Writer, http.StatusOK, "large", "large-body", v)
	}
	return s.Show(r, http.StatusOK, "large", v)
}
