package navigation

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/core/findability"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

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
	f, _, err := s.FrameFor(r, "Findability")
	if err != nil {
		return err
	}
	got, err := s.App.StudyResults(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	v := studyView{Frame: f, Study: newStudyRow(r, got.Study, s.App.Today()), Self: urls.Study(got.ID, "")}
	var than appnavigation.StudyResult
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

func newTaskResult(got appnavigation.StudyResult, i int, task appnavigation.StudyTask, than appnavigation.StudyResult) taskResult {
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
	if k := slices.IndexFunc(than.Tasks, func(t appnavigation.StudyTask) bool { return strings.EqualFold(t.Question, task.Question) }); k >= 0 {
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
