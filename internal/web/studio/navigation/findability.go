package navigation

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/findability"
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
	return s.findabilityPage(r, http.StatusOK, navigation.StudyAsk{Ends: time.Now().AddDate(0, 0, 14)}, "")
}

func (s *Screens) findabilityPage(r *shell.Request, status int, ask navigation.StudyAsk, problem string) error {
	f, next, err := s.FrameFor(r, "Menus & tiles", "Findability", "Findability")
	if err != nil {
		return err
	}
	list, err := s.App.Studies(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := findabilityView{Frame: f, Self: urls.Findability, Problem: problem, Name: ask.Title, Ends: ask.Ends.Format(time.DateOnly), Live: ask.Live, FindURL: urls.Find, Asks: r.Site.Rights.May(r.Who.Role, workflow.Govern)}
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

func newStudyRow(r *shell.Request, st navigation.Study, today string) studyRow {
	return studyRow{
		Most: part.Thousands(navigation.MostVisitors),
		ID:   st.ID, Title: st.Title, URL: urls.Study(st.ID, ""), Link: shell.BaseOf(r) + urls.Where + "/" + st.Secret, Source: st.Source, Ends: st.Ends.Format("2 January 2006"),
		People: part.Count(st.People, "person", "people"), Tasks: part.Count(len(st.Tasks), "task", "tasks"), DropURL: urls.Study(st.ID, "") + "/drop", Over: st.Ends.Format(time.DateOnly) < today,
	}
}

// beginStudy begins a study of the tasks of a form.
func (s *Screens) beginStudy(r *shell.Request) error {
	ask := navigation.StudyAsk{Title: r.PostForm("title"), Live: r.PostForm("of") == "live"}
	ask.Ends, _ = time.Parse(time.DateOnly, r.PostForm("ends"))
	for i := 1; i <= taskFields; i++ {
		q, right := strings.TrimSpace(r.PostForm(fmt.Sprint("question-", i))), r.PostForm(fmt.Sprint("right-", i))
		if q == "" && right == "" {
			continue
		}
		task := navigation.StudyTask{Question: q}
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

type studyView struct {
	shell.Frame
	Study   studyRow
	Self    string
	Others  []part.Option
	With    string
	Results []taskResult
}

type taskResult struct {
	Question, Right      string
	Tries                string
	Found, Direct, First shareView
	Median               string
	Tree                 []astrayLine
	Than                 string // the difference to the other study
	Clear                bool
}

type shareView struct {
	Percent, Between string
	Share            int // in twentieths
}

// astrayLine is one entry that people opened or chose.
type astrayLine struct {
	Level          int
	Title          string
	Opened, Chosen string
	Right, Leads   bool
}

// study shows how the tasks of a study went, beside another if asked.
func (s *Screens) study(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Menus & tiles", "Findability", "Findability")
	if err != nil {
		return err
	}
	got, err := s.App.StudyResults(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	v := studyView{Frame: f, Study: newStudyRow(r, got.Study, s.App.Today()), Self: urls.Study(got.ID, "")}
	var than navigation.StudyResult
	if with := r.Query("with"); with != "" {
		if than, err = s.App.StudyResults(r.Ctx(), r.Who, with); err != nil {
			return err
		}
		v.With = than.Title
	}
	all, err := s.App.Studies(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	for _, st := range all {
		if st.ID != got.ID {
			v.Others = append(v.Others, part.Option{Value: st.ID, Label: st.Title + ", " + st.Source, Chosen: st.ID == than.ID})
		}
	}
	for i, task := range got.Tasks {
		v.Results = append(v.Results, newTaskResult(got, i, task, than))
	}
	return s.Show(r, http.StatusOK, "study", v)
}

func newTaskResult(got navigation.StudyResult, i int, task navigation.StudyTask, than navigation.StudyResult) taskResult {
	r := got.Results[i]
	out := taskResult{
		Question: task.Question, Tries: part.Count(r.Tries, "person tried", "people tried"), Found: newShareView(r.Found), Direct: newShareView(r.Direct), First: newShareView(r.First),
		Median: r.Median.Round(time.Second).String(), Tree: astrayTree(got.Hierarchy, r, task.Right),
	}
	var right []string
	for _, id := range task.Right {
		var way []string
		for _, n := range got.Hierarchy.Way(id) {
			way = append(way, n.Title)
		}
		right = append(right, strings.Join(way, " › "))
	}
	out.Right = strings.Join(right, "; ")
	if k := slices.IndexFunc(than.Tasks, func(t navigation.StudyTask) bool { return strings.EqualFold(t.Question, task.Question) }); k >= 0 {
		d := r.Found.Less(than.Results[k].Found)
		out.Clear = d.Clear()
		out.Than = fmt.Sprintf("found by %+.0f points of 100, between %+.0f and %+.0f", d.By*100, d.Low*100, d.High*100)
	}
	return out
}

func newShareView(s findability.Share) shareView {
	return shareView{fmt.Sprintf("%.0f %%", s.Part()*100), fmt.Sprintf("between %.0f and %.0f %%", s.Low*100, s.High*100), int(s.Part()*20 + 0.5)}
}

// astrayTree words a result that is drawn on the hierarchy.
func astrayTree(h *findability.Hierarchy, r findability.Result, right []string) []astrayLine {
	lines, gaveUp := h.Drawn(r, right)
	var out []astrayLine
	for _, l := range lines {
		line := astrayLine{Level: min(l.Level, 12), Title: l.Title, Right: l.Right, Leads: l.Leads} // the style sheet indents no deeper
		if l.Astray > 0 {
			line.Opened = part.Thousands(l.Astray) + " went astray here"
		}
		if l.Chosen > 0 {
			line.Chosen = part.Thousands(l.Chosen) + " chose it"
		}
		out = append(out, line)
	}
	if gaveUp > 0 {
		out = append(out, astrayLine{Level: 1, Title: "nowhere", Chosen: part.Thousands(gaveUp) + " gave up"})
	}
	return out
}
