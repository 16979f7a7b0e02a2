package editions

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/review"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Queue is what is planned, by what it is of and where that stands.
type Queue struct {
	Work
	Items []review.Item
}

// Request gives the request by which an item was sent.
func (q Queue) Request(i review.Item) Review { return q.Requests[i.Review] }

// Makers gives who made something of an item.
func (q Queue) Makers(i review.Item) (out []string) {
	for _, c := range i.Changes {
		out = append(out, q.AuthorsOf(c.Key)...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// ActorOf gives what a person is to a change.
func (q Queue) ActorOf(who plan.Person, c change.Change) workflow.Actor {
	s := q.ApprovalStates[c.Key]
	by, approved := q.ApprovedBy(c.Key)
	return workflow.Actor{
		Role: who.Role, Made: slices.Contains(q.AuthorsOf(c.Key), who.ID), Others: approved && by != who.ID, Sent: s.Review != "" && q.Requests[s.Review].From == who.ID, Policy: q.AsksOf(c.Key),
	}
}

// May tells whether a person may take a step with all of an item, and if not why.
func (q Queue) May(who plan.Person, i review.Item, step workflow.Step) workflow.Refusal {
	for _, c := range i.Changes {
		if _, why := q.Site.Rights().Take(i.State, step, q.ActorOf(who, c)); why != "" {
			return why
		}
	}
	return ""
}

// Find gives the item of a thing in a state.
func (q Queue) Find(id string, state workflow.State) (review.Item, bool) {
	i := slices.IndexFunc(q.Items, func(i review.Item) bool { return i.ID == id && i.State == state })
	if i < 0 {
		return review.Item{}, false
	}
	return q.Items[i], true
}

// Queue tells where everything that is planned stands.
func (a *Editions) Queue(ctx context.Context, who plan.Person) (q Queue, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		q, err = a.queue(ctx, tx, s)
		return err
	})
	return q, err
}

func (a *Editions) queue(ctx context.Context, tx Tx, s plan.Site) (q Queue, err error) {
	w, err := a.load(ctx, tx, s)
	if err != nil {
		return q, err
	}
	return Queue{Work: w, Items: review.Items(w.All, w.StateOf)}, nil
}

// SendAsk is the wish that somebody look at changes.
type SendAsk struct {
	IDs      []string // what the changes are of: all of them that are drafts
	To       string   // a person, or empty: whoever may publish
	Message  string
	Due      string
	Days     int // instead of Due: so many days from today
	Informed []string
}

// longestMessage is how long a message or a remark can be, in characters.
const longestMessage = 2000

// SendForReview gives changes to a reviewer.
func (a *Editions) SendForReview(ctx context.Context, who plan.Person, ask SendAsk) (sent int, err error) {
	ask.Message = strings.TrimSpace(ask.Message)
	if ask.Due == "" && ask.Days > 0 {
		ask.Due = a.Now().AddDate(0, 0, min(ask.Days, 365)).Format(time.DateOnly)
	}
	err = a.stepping(ctx, who, func(tx Tx, q Queue, people map[string]plan.Person) error {
		if err := a.checkSend(who, ask, people, q); err != nil {
			return err
		}
		r := Review{ID: plan.NewID(), From: who.ID, To: ask.To, Message: ask.Message, Due: ask.Due, At: a.Now(), Informed: ask.Informed}
		put, titles := map[change.Key]review.ApprovalState{}, []string(nil)
		for _, id := range ask.IDs {
			item, there := q.Find(id, workflow.Draft)
			if !there {
				continue
			}
			for _, c := range item.Changes {
				to, why := q.Site.Rights().Take(workflow.Draft, workflow.Send, q.ActorOf(who, c))
				if why != "" {
					return plan.Refuse("", string(why))
				}
				put[c.Key] = a.put(to, q.Stamp(c), who, r.ID, "")
			}
			titles = append(titles, q.Trees.Title(id))
		}
		if sent = len(titles); sent == 0 {
			return plan.Refuse("id", "Nothing of this can be sent: it is in review, approved, or no longer planned.")
		}
		if err := tx.PutReview(ctx, r); err != nil {
			return err
		}
		if err := tx.PutStandings(ctx, put); err != nil {
			return err
		}
		return tx.Notify(ctx, a.askedNotices(q, people, who, r, titles))
	})
	return sent, err
}

func (a *Editions) checkSend(who plan.Person, ask SendAsk, people map[string]plan.Person, q Queue) error {
	switch {
	case len(ask.IDs) == 0:
		return plan.Refuse("id", "Select at least one item.")
	case !q.mayAsk(ask.To, people):
		return plan.Refuse("to", "Choose someone who can publish.")
	case !q.reaches(ask.To, who.ID, people):
		return errNobody
	case len([]rune(ask.Message)) > longestMessage:
		return plan.Refuse("message", fmt.Sprintf("Use up to %d characters in the message.", longestMessage))
	case ask.Due != "":
		if _, err := time.Parse(time.DateOnly, ask.Due); err != nil || ask.Due < q.Today {
			return plan.Refuse("due", "Choose today or a later date.")
		}
	}
	return nil
}

// mayAsk tells whether a review can be asked of a person, a role, or all who may publish.
func (q Queue) mayAsk(to string, people map[string]plan.Person) bool {
	rights := q.Site.Rights()
	if role := (Review{To: to}).Role(); role != "" {
		return slices.Contains(workflow.Roles(), role) && rights.May(role, workflow.Publish)
	}
	p, known := people[to]
	return to == "" || known && !p.Inactive && rights.May(p.Role, workflow.Publish)
}

var errNobody = plan.Refuse("to", "Nobody else has that role. Choose a person, or “anyone who can publish”.")

// reaches tells whether somebody is there whom a review asks that a person sent: a role that
// nobody else has asks nobody.
func (q Queue) reaches(to, from string, people map[string]plan.Person) bool {
	r := Review{To: to, From: from}
	if r.Role() == "" {
		return true
	}
	for _, p := range people {
		if r.asks(q.Site.Rights(), p) {
			return true
		}
	}
	return false
}

// Suggested gives who is likely to review a thing: who looks after it or the nearest branch above,
// if they may publish and did not make it.
func (q Queue) Suggested(i review.Item, people []plan.Person) string {
	makers := q.Makers(i)
	for _, t := range []*sitemap.Tree{q.Trees.Next, q.Trees.Live} {
		for at := t.Find(i.ID); at != sitemap.None; at = t.Parent(at) {
			for _, p := range people {
				if owner := t.Ref(at).Owner; owner != "" && (owner == p.Name || owner == p.Login) && !p.Inactive &&
					q.Site.Rights().May(p.Role, workflow.Publish) && !slices.Contains(makers, p.ID) {
					return p.ID
				}
			}
		}
	}
	return ""
}

func (a *Editions) put(to workflow.State, stamp string, who plan.Person, request, word string) review.ApprovalState {
	return review.ApprovalState{ApprovalState: workflow.ApprovalState{State: to, Stamp: stamp, Person: who.ID, Review: request, Word: word}, At: a.Now(), Approved: true}
}

// Judged is an item as somebody looked at it when they decided about it.
type Judged struct{ ID, Stamp string }

// Judge takes a step with things that are with a reviewer: Approve, SendBack or TakeBack. What
// was edited since it was looked at stays, and is told.
func (a *Editions) Judge(ctx context.Context, who plan.Person, step workflow.Step, list []Judged, word string) (done []string, err error) {
	word = strings.TrimSpace(word)
	switch {
	case len(list) == 0:
		return nil, plan.Refuse("id", "Select at least one item.")
	case step == workflow.SendBack && word == "":
		return nil, plan.Refuse("word", "Say what needs fixing.")
	case len([]rune(word)) > longestMessage:
		return nil, plan.Refuse("word", fmt.Sprintf("Use up to %d characters in the comment.", longestMessage))
	}
	err = a.stepping(ctx, who, func(tx Tx, q Queue, people map[string]plan.Person) error {
		put := map[change.Key]review.ApprovalState{}
		told := map[string][]string{} // titles by request
		for _, j := range list {
			item, there := q.Find(j.ID, workflow.InReview)
			title := q.Trees.Title(j.ID)
			switch {
			case !there:
				return plan.Refuse("id", fmt.Sprintf("%q is no longer in review: it was edited, decided or recalled. Check the list again.", title))
			case item.Stamp != j.Stamp:
				return plan.Refuse("id", fmt.Sprintf("%q has changed since you opened it. Check it again.", title))
			}
			for _, c := range item.Changes {
				to, why := q.Site.Rights().Take(item.State, step, q.ActorOf(who, c))
				if why != "" {
					return plan.Refuse("id", fmt.Sprintf("%q: %s", title, why))
				}
				put[c.Key] = a.put(to, q.Stamp(c), who, item.Review, word)
			}
			done = append(done, title)
			told[item.Review] = append(told[item.Review], title)
		}
		if err := tx.PutStandings(ctx, put); err != nil {
			return err
		}
		return tx.Notify(ctx, a.judgedNotices(q, who, step, told, word))
	})
	return done, err
}

// PassOn gives a request to somebody else who may publish, or to all of them.
func (a *Editions) PassOn(ctx context.Context, who plan.Person, request, to string) error {
	return a.stepping(ctx, who, func(tx Tx, q Queue, people map[string]plan.Person) error {
		r, there := q.Requests[request]
		switch {
		case !there:
			return plan.ErrNotFound
		case who.ID != r.From && !q.Site.Rights().May(who.Role, workflow.Publish):
			return plan.ErrForbidden
		case !q.mayAsk(to, people):
			return plan.Refuse("to", "Choose someone who can publish.")
		case !q.reaches(to, r.From, people):
			return errNobody
		}
		if err := tx.PassReview(ctx, request, to); err != nil {
			return err
		}
		var titles, ids []string
		for _, i := range q.Items {
			if i.Review == request && i.State == workflow.InReview {
				titles, ids = append(titles, q.Trees.Title(i.ID)), append(ids, i.ID)
			}
		}
		if err := tx.NotePassed(ctx, ids, HistoryStep{State: workflow.InReview, Person: who.ID, PassedTo: cmp.Or(to, Anybody), At: a.Now()}); err != nil {
			return err
		}
		r.To = to
		return tx.Notify(ctx, a.askedNotices(q, people, who, r, titles))
	})
}

// stepping takes steps while nobody else publishes, plans or takes one.
func (a *Editions) stepping(ctx context.Context, who plan.Person, f func(Tx, Queue, map[string]plan.Person) error) error {
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		var err error
		if s.Work, err = tx.LockDrafts(ctx); err != nil {
			return err
		}
		q, err := a.queue(ctx, tx, s)
		if err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		if err != nil {
			return err
		}
		return f(tx, q, people)
	})
}

// BranchAsks says what a branch asks of changes before they go out; nil leaves it to what is
// above.
func (a *Editions) BranchAsks(ctx context.Context, who plan.Person, entry string, asks *workflow.ApprovalPolicy) error {
	if asks != nil && !slices.Contains(workflow.ApprovalPolicies(), *asks) {
		return plan.Refuse("asks", "Choose which approval is required.")
	}
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if trees.Next.Find(entry) < 0 && trees.Live.Find(entry) < 0 {
			return plan.Refuse("entry", "Choose a page.")
		}
		return tx.PutBranchAsks(ctx, entry, asks)
	})
}
