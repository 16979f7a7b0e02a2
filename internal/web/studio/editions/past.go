package editions

import (
	"errors"
	"net/http"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
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
	Said     []string // what was planned to take something back
	None     bool
	Next     string
}

type pastEdition struct {
	Number   int
	At       part.Moment
	Who, Why string
	Note     string
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
	TakeBack string
	Compare  string
}

func (s *Screens) past(r *shell.Request) error { return s.pastPage(r, http.StatusOK, "") }

func (s *Screens) pastPage(r *shell.Request, status int, problem string, said ...string) error {
	f, n, err := s.FrameFor(r, "Past editions")
	if err != nil {
		return err
	}
	eds, people, err := s.App.PastEditions(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	open, _ := strconv.Atoi(part.OrElse(r.Query("edition"), r.Param("number")))
	v := pastView{Said: said, Frame: f, MayBack: n.Site.Rights().May(r.Who.Role, workflow.Publish), Error: problem, None: len(eds) == 0, Next: urls.Edition}
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
	Key      string
	Back     bool // it can be taken back
}

func newPast(e plan.Edition, people map[string]plan.Person, live, open int) pastEdition {
	p := pastEdition{
		Number: e.Number, At: part.At(e.At), Who: people[e.PersonID].Name, Why: e.Why, Note: e.Note, BackTo: e.BackTo, Live: e.Number == live,
		Open: e.Number == open, Summary: part.Count(len(e.Changes), "change", "changes"), Rollback: urls.Rollback(e.Number), Key: part.NewKey(), URL: urls.PastEdition(e.Number),
		TakeBack: urls.TakeBack(e.Number), Compare: urls.Comparison(strconv.Itoa(max(e.Number-1, 1)), strconv.Itoa(e.Number), false, ""),
		See: urls.SeeAt(strconv.Itoa(e.Number), "", "", ""),
	}
	if e.Proof != nil && e.Proof.Asked > 0 {
		p.Proof, p.ProofURL = part.UpperFirst(e.Proof.Words()), urls.ProofOf(e.Number)
	}
	for _, c := range e.Changes[:min(len(e.Changes), part.EntriesShown)] {
		cv := pastChange{ChangeSummary: c}
		cv.Key, cv.Back = keyName(change.Key{ID: c.EntryID, Aspect: c.Aspect}), e.Number > 1 && c.Aspect != change.Readdressed && c.Aspect != change.Released
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

// takeBack plans the inverse of what is ticked of an edition.
func (s *Screens) takeBack(r *shell.Request) error {
	number, _ := strconv.Atoi(r.Param("number"))
	out, err := s.App.TakeBack(r.Ctx(), r.Who, r.PostForm("key"), number, parseKeys(r.PostFormArray("change")))
	var invalid *plan.Invalid
	if errors.As(err, &invalid) {
		return s.pastPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	if err != nil {
		return err
	}
	said := []string{"Planned: " + out.Label + ". Check the next edition."}
	for _, a := range out.Along {
		said = append(said, "Also included: "+a)
	}
	return s.pastPage(r, http.StatusOK, "", said...)
}
