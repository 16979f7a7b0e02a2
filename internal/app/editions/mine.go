package editions

import (
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/review"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Mine is what of the plan is somebody's business.
type Mine struct {
	SentBack []review.Item // with a word that says what is missing
	Drafts   []review.Item // what the person made and did not send, the oldest first
	Sent     []review.Item
	Ready    []review.Item // made by the person, approved
	Asked    []review.Item // for the person's review
	Due      []int         // pages of the person whose review date is past, in Next
}

// Mine gathers what of a queue is somebody's business.
func (q Queue) Mine(who plan.Person) (m Mine) {
	filters := map[string]QueueFilter{}
	for _, f := range QueueFilters() {
		filters[f.Key] = f
	}
	for _, i := range q.Items {
		switch mine := q.MadeBy(who, i); {
		case i.State == workflow.Draft && mine && q.Word(i).Word != "":
			m.SentBack = append(m.SentBack, i)
		case i.State == workflow.Draft && mine:
			m.Drafts = append(m.Drafts, i)
		case (i.State == workflow.Ready || i.State == workflow.Scheduled) && mine:
			m.Ready = append(m.Ready, i)
		}
		if filters["from"].Fits(q, who, i) {
			m.Sent = append(m.Sent, i)
		}
		if filters[""].Fits(q, who, i) {
			m.Asked = append(m.Asked, i)
		}
	}
	slices.SortStableFunc(m.Drafts, func(a, b review.Item) int { return q.At(a).Compare(q.At(b)) })
	next := q.Trees.Next
	for i := range next.Len() {
		if e := next.Ref(i); e.Owner == who.Name && e.Review != "" && e.Review <= q.Today && e.Kind.IsPage() {
			m.Due = append(m.Due, i)
		}
	}
	slices.SortStableFunc(m.Due, func(a, b int) int { return compare(next, a, b) })
	return m
}

func compare(t *sitemap.Tree, a, b int) int {
	if x, y := t.Ref(a).Review, t.Ref(b).Review; x < y {
		return -1
	} else if x > y {
		return 1
	}
	return 0
}

// At gives when somebody last planned or wrote something of an item.
func (q Queue) At(i review.Item) (at time.Time) {
	for _, c := range i.Changes {
		made := q.Work.Makers[c.Key].At
		if text, written := q.DraftOf(c.ID); written && (c.Aspect == change.Content || c.Aspect == change.Added) && text.At.After(made) {
			made = text.At
		}
		if made.After(at) {
			at = made
		}
	}
	return at
}

// Word gives with which word a draft was sent back, if it was.
func (q Queue) Word(i review.Item) workflow.ApprovalState {
	for _, c := range i.Changes {
		if s := q.ApprovalStates[c.Key]; s.State == workflow.Draft && s.Word != "" {
			return s.ApprovalState
		}
	}
	return workflow.ApprovalState{}
}
