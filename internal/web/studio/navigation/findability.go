package navigation

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type findabilityView struct {
	shell.Frame
	Self, Problem string
	Rows          []studyRow
	Asks          bool // may begin a study
	Name, Ends    string
	Live          bool
	Tasks         []taskField
	FindURL       string
}

type studyRow struct {
	ID, Title, URL, Link, Source, Ends, People, Tasks, DropURL string
	Over                                                       bool
	Most                                                       string // people who can answer
}

type taskField struct {
	N                         int
	Question, Right, RightIDs string
}

const taskFields = 8

// findability lists the studies, and begins one.
func (s *Screens) findability(r *shell.Request) error {
	return s.findabilityPage(r, http.StatusOK, appnavigation.StudyAsk{Ends: time.Now().AddDate(0, 0, 14)}, "")
}

func (s *Screens) findabilityPage(r *shell.Request, status int, ask appnavigation.StudyAsk, problem string) error {
	f, next, err := s.FrameFor(r, "Findability")
	if err != nil {
		return err
	}
	list, err := s.App.Studies(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := findabilityView{Frame: f, Self: urls.Findability, Problem: problem, Name: ask.Title, Ends: ask.Ends.Format(time.DateOnly), Live: ask.Live, FindURL: urls.Find, Asks: r.Site.Rights().May(r.Who.Role, workflow.Govern)}
	for _, st := range list {
		v.Rows = append(v.Rows, newStudyRow(r, st, s.App.Today()))
	}
	for i := range taskFields {
		field := taskField{N: i + 1}
		if i < len(ask.Tasks) {
			field.Question = ask.Tasks[i].Question
			if len(ask.Tasks[i].Right) > 0 {
				field.RightIDs = ask.Tasks[i].Right[0]
				field.Right = part.TitleIn(field.RightIDs, next.Trees.Next, next.Trees.Live)
			}
		}
		v.Tasks = append(v.Tasks, field)
	}
	return s.Show(r, status, "findability", v)
}

func newStudyRow(r *shell.Request, st appnavigation.Study, today string) studyRow {
	return studyRow{
		Most: part.Thousands(appnavigation.MostVisitors),
		ID:   st.ID, Title: st.Title, URL: urls.Study(st.ID, ""), Link: shell.BaseOf(r) + urls.Where + "/" + st.Secret, Source: st.Source, Ends: st.Ends.Format("2 January 2006"),
		People: part.Count(st.People, "person", "people"), Tasks: part.Count(len(st.Tasks), "task", "tasks"), DropURL: urls.Study(st.ID, "") + "/drop", Over: st.Ends.Format(time.DateOnly) < today,
	}
}

// beginStudy begins a study of the tasks of a form.
func (s *Screens) beginStudy(r *shell.Request) error {
	ask := appnavigation.StudyAsk{Title: r.PostForm("title"), Live: r.PostForm("of") == "live"}
	ask.Ends, _ = time.Parse(time.DateOnly, r.PostForm("ends"))
	for i := 1; i <= taskFields; i++ {
		q, right := strings.TrimSpace(r.PostForm(fmt.Sprint("question-", i))), r.PostForm(fmt.Sprint("right-", i))
		if q == "" && right == "" {
			continue
		}
		task := appnavigation.StudyTask{Question: q}
		if right != "" {
			task.Right = []string{right}
		}
		ask.Tasks = append(ask.Tasks, task)
	}
	st, err := s.App.BeginStudy(r.Ctx(), r.Who, ask)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.findabilityPage(r, http.StatusUnprocessableEntity, ask, invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Study(st.ID, ""))
	return nil
}

// dropStudy forgets a study.
func (s *Screens) dropStudy(r *shell.Request) error {
	if err := s.App.DropStudy(r.Ctx(), r.Who, r.Param("id")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Findability)
	return nil
}
