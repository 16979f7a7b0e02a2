package editions

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// askedNotices tell who is asked: the person, or everybody who may publish.
func (a *Editions) askedNotices(q Queue, people map[string]plan.Person, who plan.Person, r Review, titles []string) (out []plan.Notice) {
	words := fmt.Sprintf("%s asked you to review %s.", who.Name, listed(titles))
	if r.Message != "" {
		words += " “" + r.Message + "”"
	}
	if r.Due != "" {
		words += " By " + r.Due + "."
	}
	for _, p := range people {
		if p.ID != who.ID && r.asks(q.Site.Rights(), p) || r.To == p.ID {
			out = append(out, plan.Notice{PersonID: p.ID, Kind: plan.NoticeReview, Subject: r.ID, At: a.Now(), Words: words})
		}
	}
	slices.SortFunc(out, func(x, y plan.Notice) int { return strings.Compare(x.PersonID, y.PersonID) })
	return out
}

// judgedWords say what was done.
var judgedWords = map[workflow.Step]string{workflow.Approve: "approved", workflow.SendBack: "sent back", workflow.Recall: "recalled"}

func (a *Editions) judgedNotices(q Queue, who plan.Person, step workflow.Step, told map[string][]string, word string) (out []plan.Notice) {
	for request, titles := range told {
		r := q.Requests[request]
		words := fmt.Sprintf("%s %s %s.", who.Name, judgedWords[step], listed(titles))
		if word != "" {
			words += " “" + word + "”"
		}
		to := append([]string{r.From}, r.Informed...)
		if step == workflow.Recall {
			to = append(to, r.Asked())
		}
		slices.Sort(to)
		for _, p := range slices.Compact(to) {
			if p != "" && p != who.ID {
				out = append(out, plan.Notice{PersonID: p, Kind: plan.NoticeReviewed, Subject: request + " " + listed(titles), At: a.Now(), Words: words})
			}
		}
	}
	slices.SortFunc(out, func(x, y plan.Notice) int { return strings.Compare(x.Subject+x.PersonID, y.Subject+y.PersonID) })
	return out
}

// TellOverdue tells who is asked, and who sent it, that the day of a request is past: once.
func (a *Editions) TellOverdue(ctx context.Context) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		late, err := tx.OverdueReviews(ctx, a.Now().Format(time.DateOnly))
		if err != nil || len(late) == 0 {
			return err
		}
		q, err := a.queue(ctx, tx, s)
		if err != nil {
			return err
		}
		people, err := tx.People(ctx)
		if err != nil {
			return err
		}
		for _, id := range late {
			if err := tx.Notify(ctx, a.overdueNotices(q, people, id)); err != nil {
				return err
			}
		}
		return nil
	})
}

func (a *Editions) overdueNotices(q Queue, people []plan.Person, request string) (out []plan.Notice) {
	r := q.Requests[request]
	var titles []string
	for _, i := range q.Items {
		if i.Review == request && i.State == workflow.InReview {
			titles = append(titles, q.Trees.Title(i.ID))
		}
	}
	if len(titles) == 0 {
		return nil
	}
	for _, p := range people {
		if p.ID == r.From || r.asks(q.Site.Rights(), p) && !p.Inactive {
			out = append(out, plan.Notice{
				PersonID: p.ID, Kind: plan.NoticeReview, Subject: request + " overdue", At: a.Now(), Words: fmt.Sprintf("The review of %s was due on %s.", listed(titles), r.Due),
			})
		}
	}
	return out
}

// listed names the first of some things.
func listed(titles []string) string {
	const told = 3
	quoted := make([]string, 0, told)
	for _, t := range titles[:min(len(titles), told)] {
		quoted = append(quoted, fmt.Sprintf("%q", t))
	}
	words := strings.Join(quoted, ", ")
	if more := len(titles) - told; more > 0 {
		words += fmt.Sprintf(" and %d more", more)
	}
	return words
}
