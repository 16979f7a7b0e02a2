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
		switch {
		case h.Remark != nil:
			row.Who, row.Mark = part.OrElse(h.Remark.Name, part.PersonName(people, h.Remark.Person)), "comment"
			if h.Remark.Answers != 0 {
				row.Mark = "reply"
			}
			if h.Remark.Quote != "" {
				row.Words = append(row.Words, "To “"+h.Remark.Quote+"”:")
			}
			row.Words = append(row.Words, h.Remark.Words)
			if h.Remark.Settled {
				row.Words = append(row.Words, "(resolved)")
			}
		case h.Step != nil && h.Step.PassedTo != "":
			row.Who, row.Mark = part.PersonName(people, h.Step.Person), "reassigned"
			row.Words = []string{"to " + askedName(h.Step.PassedTo, people)}
		case h.Step != nil:
			row.Who = part.PersonName(people, h.Step.Person)
			row.Mark, row.Words = stepWords(*h.Step, people)
			if h.Step.State == workflow.Ready && stateBefore(list[i+1:]) == workflow.Scheduled {
				row.Mark, row.Words = "unscheduled", nil
			}
		default:
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

// stateBefore gives where the step put the changes that was taken before; empty if an edition came
// between, or there was none.
func stateBefore(earlier []editions.Happened) workflow.State {
	for _, h := range earlier {
		if h.Edition != nil {
			return ""
		}
		if h.Step != nil {
			return h.Step.State
		}
	}
	return ""
}

// askedName is what people call who is asked for a review.
func askedName(to string, people []plan.Person) string {
	switch role := (editions.Review{To: to}).Role(); {
	case role != "":
		return "any " + string(role)
	case to == editions.Anybody:
		return "anyone who can publish"
	}
	return part.PersonName(people, to)
}

// stepWords say what somebody did.
func stepWords(h editions.HistoryStep, people []plan.Person) (mark string, words []string) {
	if h.Word != "" {
		words = []string{"“" + h.Word + "”"}
	}
	switch h.State {
	case workflow.InReview:
		if h.SentTo != "" {
			to := "to " + askedName(h.SentTo, people)
			if h.Due != "" {
				to += ", due " + part.Day(h.Due)
			}
			words = append([]string{to}, words...)
		}
		return "sent for review", words
	case workflow.Ready:
		return "approved", words
	case workflow.Scheduled:
		return "scheduled", append(words, "for "+part.At(h.GoAt).Words)
	}
	if h.Word != "" {
		return "sent back", words
	}
	return "recalled", words
}
