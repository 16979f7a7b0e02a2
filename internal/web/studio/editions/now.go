package editions

import (
	"errors"
	"net/http"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// nowView is what publishing one thing at once would take.
type nowView struct {
	shell.Frame
	Self, ID, Key, Looked, Title string
	Number                       int
	Words                        []string
	Along                        []pulledView // what it needs
	Errors, Warnings             []findingView
	Why, WhyNot, Problem         string
	MayGo, Nothing               bool
	SendURL, AllURL              string
}

// now shows what publishing one thing at once would take.
func (s *Screens) now(r *shell.Request) error {
	return s.nowPage(r, http.StatusOK, r.Query("id"), "", "")
}

func (s *Screens) nowPage(r *shell.Request, status int, id, why, problem string) error {
	f, _, err := s.FrameFor(r, "Publish now")
	if err != nil {
		return err
	}
	if id == "" {
		return plan.ErrNotFound
	}
	n, err := s.App.LookAhead(r.Ctx(), r.Who, editions.Select{Only: []string{id}})
	if err != nil {
		return err
	}
	v := nowView{
		Frame: f, Self: urls.PublishOne, ID: id, Key: part.NewKey(), Looked: n.Reviewed().Text(), Title: n.Trees.Title(id), Number: n.Site.Edition + 1,
		Why: why, Problem: problem, SendURL: urls.ReviewAt("drafts", id, "", "", ""), AllURL: urls.Edition, Nothing: len(n.Chosen) == 0,
	}
	pulled := map[change.Key]bool{}
	for _, p := range n.Dependencies {
		pulled[p.Key] = true
		v.Along = append(v.Along, pulledView{n.Trees.Title(p.ID), p.Aspect.Label(), p.Why})
	}
	for _, c := range n.All {
		if n.Chosen[c.Key] && !pulled[c.Key] && c.ID == id {
			v.Words = append(v.Words, change.Words(c, n.Trees.Live, n.Trees.Next))
		}
	}
	told := editionView{}
	told.findings(n)
	v.Errors, v.Warnings = told.Errors, told.Warnings
	told.mayGo(n, r.Who)
	v.MayGo, v.WhyNot = told.MayGo, told.WhyNot
	return s.Show(r, status, "now", v)
}

// publishNow publishes one thing with what it needs.
func (s *Screens) publishNow(r *shell.Request) error {
	id, why := r.PostForm("id"), r.PostForm("why")
	looked := change.ParseReviewed(r.PostForm("looked"))
	e, err := s.App.Publish(r.Ctx(), r.Who, editions.PublishAsk{Key: r.PostForm("key"), Why: why, Changes: editions.Select{Only: []string{id}}, Reviewed: &looked})
	var invalid *plan.Invalid
	var notReady *editions.NotReady
	var moved *editions.Moved
	if errors.As(err, &invalid) || errors.As(err, &notReady) || errors.As(err, &moved) || errors.Is(err, redirect.ErrTable) {
		status, words := s.Word(err)
		return s.nowPage(r, status, id, why, words)
	}
	if err != nil {
		return err
	}
	s.Published(r.Ctx())
	r.Redirect(http.StatusSeeOther, urls.PastEdition(e.Number)+"&new=1")
	return nil
}
