package editions

import (
	"context"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/workflow"
)

// HistoryStep is a step that changes of a thing took.
type HistoryStep struct {
	State        workflow.State // where they were put
	Person, Word string
	PassedTo     string // who is asked since, as Review.To words it or Anybody, where the review was passed on
	SentTo, Due  string // who was asked, in the same words, and until when, where they were sent for review
	GoAt, At     time.Time
}

// Happened is one thing of a history: a step, a remark, or an edition that changed something.
type Happened struct {
	At      time.Time
	Step    *HistoryStep
	Remark  *Remark
	Edition *plan.Edition
	Changes []plan.ChangeSummary // of the edition, that are of this thing
}

// Anybody stands in a history for whoever may publish.
const Anybody = "anybody"

// mostHistory is how much of a history is told.
const mostHistory = 200

// History tells what became of a page, a menu, a redirect or whatever else is planned and
// published: reviews, remarks, approvals, minutes and editions, the latest first.
func (a *Editions) History(ctx context.Context, who plan.Person, id string) (out []Happened, title string, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		title = trees.Title(id)
		steps, err := tx.ChangeHistory(ctx, id, mostHistory)
		if err != nil {
			return err
		}
		for i := range steps {
			out = append(out, Happened{At: steps[i].At, Step: &steps[i]})
		}
		remarks, err := tx.RemarksEver(ctx, id, mostHistory)
		if err != nil {
			return err
		}
		for i := range remarks {
			out = append(out, Happened{At: remarks[i].At, Remark: &remarks[i]})
		}
		eds, err := tx.EditionsOf(ctx, id, mostHistory)
		if err != nil {
			return err
		}
		for i, e := range eds {
			h := Happened{At: e.At, Edition: &eds[i]}
			for _, c := range e.Changes {
				if c.EntryID == id {
					h.Changes = append(h.Changes, c)
					if title == id || title == edition.RemovedTitle {
						title = c.Title
					}
				}
			}
			out = append(out, h)
		}
		slices.SortStableFunc(out, func(x, y Happened) int { return y.At.Compare(x.At) })
		if len(out) == 0 && (title == id || title == edition.RemovedTitle) {
			return plan.ErrNotFound
		}
		return nil
	})
	return out, title, err
}
