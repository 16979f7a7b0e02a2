package editions

import (
	"errors"
	"net/http"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type pastView struct {
	shell.Frame
	Editions []pastEdition
	MayBack  bool
	New      int
	Error    string
	None     bool
	Next     string
}

type pastEdition struct {
	Number   int
	At       part.Moment
	Who, Why string
	BackTo   int
	Open     bool
	Live     bool
	Summary  string
	Changes  []pastChange
	More     string
	Proof    string
	ProofURL string
	Rollback string
	Key      string
	URL      string
	See      string
}

func (s *Screens) past(r *shell.Request) error { return s.pastPage(r, http.StatusOK, "") }

func (s *Screens) pastPage(r *shell.Request, status int, problem string) error {
	f, n, err := s.FrameFor(r, "Past editions")
	if err != nil {
		return err
	}
	eds, people, err := s.App.PastEditions(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	open, _ := strconv.Atoi(r.Query("edition"))
	v := pastView{Frame: f, MayBack: n.Site.Rights().May(r.Who.Role, workflow.Publish), Error: problem, None: len(eds) == 0, Next: urls.Edition}
	if r.Query("new") != "" {
		v.New = open
	}
	for _, e := range eds {
		v.Editions = append(v.Editions, newPast(e, people, n.Site.Edition, open))
	}
	return s.Show(r, status, "past", v)
}

// pastChange is a change that went out, and who approved it.
type pastChange struct {
	plan.ChangeSummary
	Approved string
}

func newPast(e plan.Edition, people map[string]plan.Person, live, open int) pastEdition {
	p := pastEdition{
		Number: e.Number, At: part.At(e.At), Who: people[e.PersonID].Name, Why: e.Why, BackTo: e.BackTo, Live: e.Number == live,
		Open: e.Number == open, Summary: part.Count(len(e.Changes), "change", "changes"), Rollback: urls.Rollback(e.Number), Key: part.NewKey(), URL: urls.PastEdition(e.Number),
		See: urls.SeeAt(strconv.Itoa(e.Number), "", "", ""),
	}
	if e.Proof != nil && e.Proof.Asked > 0 {
		p.Proof, p.ProofURL = part.UpperFirst(e.Proof.Words()), urls.ProofOf(e.Number)
	}
	for _, c := range e.Changes[:min(len(e.Changes), part.EntriesShown)] {
		cv := pastChange{ChangeSummary: c}
		if c.ApprovedBy != "" {
			cv.Approved = people[c.ApprovedBy].Name
		}
		p.Changes = append(p.Changes, cv)
	}
	if more := len(e.Changes) - len(p.Changes); more > 0 {
		p.More = part.Thousands(more) + " more."
	}
	return p
}

func (s *Screens) rollback(r *shell.Request) error {
	to, _ := strconv.Atoi(r.Param("number"))
	e, err := s.App.Rollback(r.Ctx(), r.Who, r.PostForm("key"), to, r.PostForm("why"))
	var invalid *plan.Invalid
	if errors.As(err, &invalid) {
		return s.pastPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	if err != nil {
		return err
	}
	s.Published(r.Ctx())
	r.Redirect(http.StatusSeeOther, urls.PastEdition(e.Number)+"&new=1")
	return nil
}
