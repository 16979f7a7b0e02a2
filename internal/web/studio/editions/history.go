package editions

import (
	"fmt"
	"net/http"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// historyView tells what became of one thing.
type historyView struct {
	shell.Frame
	Heading string
	PageURL string
	Rows    []historyRow
}

type historyRow struct {
	At        part.Moment
	Who, Mark string
	Words     []string
	URL       string // of the edition
}

// history tells what became of a page or of whatever else is planned.
func (s *Screens) history(r *shell.Request) error {
	id := r.Query("id")
	list, title, err := s.App.History(r.Ctx(), r.Who, id)
	if err != nil {
		return err
	}
	f, n, err := s.FrameFor(r, "History")
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v := newHistory(list, people)
	v.Frame, v.Heading = f, title
	if i := n.Trees.Next.Find(id); i >= 0 && n.Trees.Next.Ref(i).Kind.IsPage() {
		v.PageURL = urls.Page(id)
	}
	return s.Show(r, http.StatusOK, "history", v)
}

func newHistory(list []editions.Happened, people []plan.Person) (v historyView) {
	for i, h := range list {
		row := historyRow{At: part.At(h.At)}
		if h.Step != nil {
			row.Who = part.PersonName(people, h.Step.Person)
			row.Mark, row.Words = stepWords(*h.Step)
			if h.Step.State == workflow.Ready && i+1 < len(list) && list[i+1].Step != nil && list[i+1].Step.State == workflow.Timed {
				row.Mark, row.Words = "minute taken away", nil
			}
		} else {
			row.Who, row.Mark, row.URL = part.PersonName(people, h.Edition.PersonID), fmt.Sprintf("edition %d", h.Edition.Number), urls.PastEdition(h.Edition.Number)
			for _, c := range h.Changes {
				row.Words = append(row.Words, c.Words)
			}
			row.Words = append(row.Words, "“"+h.Edition.Why+"”")
		}
		v.Rows = append(v.Rows, row)
	}
	return v
}

// stepWords say what somebody did.
func stepWords(h editions.HistoryStep) (mark string, words []string) {
	if h.Word != "" {
		words = []string{"“" + h.Word + "”"}
	}
	switch h.State {
	case workflow.WithReviewer:
		return "sent for review", words
	case workflow.Ready:
		return "approved", words
	case workflow.Timed:
		return "timed", append(words, "for "+part.At(h.GoAt).Words)
	}
	if h.Word != "" {
		return "sent back", words
	}
	return "taken back", words
}
