package studio

import (
	"errors"
	"net/http"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

type pastView struct {
	frame
	Editions []pastEdition
	MayBack  bool
	New      int
	Error    string
	None     bool
	Next     string
}

type pastEdition struct {
	Number   int
	At       moment
	Who, Why string
	BackTo   int
	Open     bool
	Live     bool
	Summary  string
	Told     []plan.Told
	More     string
	Rollback string
	Key      string
	URL      string
}

func (s *Studio) past(r *request) error { return s.pastPage(r, http.StatusOK, "") }

func (s *Studio) pastPage(r *request, status int, problem string) error {
	f, n, err := s.frameFor(r, "Edition", "Past editions", "Past editions")
	if err != nil {
		return err
	}
	eds, people, err := s.app.PastEditions(r.ctx(), r.who)
	if err != nil {
		return err
	}
	open, _ := strconv.Atoi(r.Query("edition"))
	v := pastView{frame: f, MayBack: n.Site.Rights.May(r.who.Role, workflow.Publish), Error: problem, None: len(eds) == 0, Next: urls.Edition}
	if r.Query("new") != "" {
		v.New = open
	}
	for _, e := range eds {
		v.Editions = append(v.Editions, newPast(e, people, n.Site.Edition, open))
	}
	return s.show(r, status, "past", v)
}

func newPast(e plan.Edition, people map[string]plan.Person, live, open int) pastEdition {
	p := pastEdition{
		Number: e.Number, At: at(e.At), Who: people[e.PersonID].Name, Why: e.Why, BackTo: e.BackTo, Live: e.Number == live,
		Open: e.Number == open, Summary: count(len(e.Told), "change", "changes"), Rollback: urls.Rollback(e.Number), Key: newKey(), URL: urls.PastEdition(e.Number),
	}
	p.Told = e.Told[:min(len(e.Told), entriesShown)]
	if more := len(e.Told) - len(p.Told); more > 0 {
		p.More = thousands(more) + " more."
	}
	return p
}

func (s *Studio) rollback(r *request) error {
	to, _ := strconv.Atoi(r.Param("number"))
	e, err := s.app.Rollback(r.ctx(), r.who, r.PostForm("key"), to, r.PostForm("why"))
	var invalid *plan.Invalid
	if errors.As(err, &invalid) {
		return s.pastPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	if err != nil {
		return err
	}
	s.published(r.ctx())
	r.Redirect(http.StatusSeeOther, urls.PastEdition(e.Number)+"&new=1")
	return nil
}
