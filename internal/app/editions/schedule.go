package editions

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/review"
	"candlepath/internal/core/workflow"
)

// TimeAsk is the wish that approved changes go out at a minute.
type TimeAsk struct {
	List    []Judged
	Leaving []string // pages that are withdrawn at a minute, where they get another one
	At      string   // as 2026-11-30T09:00
	Zone    string   // such as Europe/London
	Which   string   // of a minute that comes twice: "first" or "second"
}

// minute reads when it is to be, and says what is wrong with it.
func (t TimeAsk) minute(now time.Time) (time.Time, error) {
	at, err := workflow.Minute(t.At, t.Zone, t.Which, now)
	twice := (*workflow.Doubled)(nil)
	switch {
	case err == nil:
		return at, nil
	case errors.As(err, &twice):
		return at, plan.Refuse("which", fmt.Sprintf("In %s %s. Choose which you mean.", t.Zone, twice))
	case errors.Is(err, workflow.ErrSkipped):
		return at, plan.Refuse("at", fmt.Sprintf("In %s %s. Choose another.", t.Zone, err))
	case errors.Is(err, workflow.ErrZone):
		return at, plan.Refuse("zone", fmt.Sprintf("%q is no time zone. Write one such as Europe/London.", t.Zone))
	case errors.Is(err, workflow.ErrPast):
		return at, plan.Refuse("at", "This minute is past. Choose one that is to come.")
	}
	return at, plan.Refuse("at", "Choose a day and a minute.")
}

// TimeChanges has approved changes go out at a minute.
func (a *Editions) TimeChanges(ctx context.Context, who plan.Person, ask TimeAsk) (at time.Time, n int, err error) {
	if at, err = ask.minute(a.Now()); err != nil {
		return at, 0, err
	}
	n, err = a.moveOn(ctx, who, ask.List, workflow.Ready, workflow.Time, at, func(s *Standing) { s.GoAt, s.Zone = at, ask.Zone })
	return at, n, err
}

// Retime gives changes that are timed, and pages that are to be withdrawn, another minute: all or none.
func (a *Editions) Retime(ctx context.Context, who plan.Person, ask TimeAsk) (at time.Time, n int, err error) {
	if at, err = ask.minute(a.Now()); err != nil {
		return at, 0, err
	}
	if len(ask.List)+len(ask.Leaving) == 0 {
		return at, 0, errNothingTicked
	}
	err = a.stepping(ctx, who, func(tx Tx, q Queue, _ map[string]plan.Person) error {
		if err := a.thawed(ctx, tx, at); err != nil {
			return err
		}
		err := a.stepOn(ctx, tx, q, who, ask.List, workflow.Timed, workflow.Lift, func(s *Standing) {
			s.State, s.GoAt, s.Zone = workflow.Timed, at, ask.Zone
		})
		if err != nil || len(ask.Leaving) == 0 {
			return err
		}
		return a.retimeWithdrawals(ctx, tx, q, who, ask, at)
	})
	return at, len(ask.List) + len(ask.Leaving), err
}

// LiftChanges takes the minute away from changes; they stay approved.
func (a *Editions) LiftChanges(ctx context.Context, who plan.Person, list []Judged) (n int, err error) {
	return a.moveOn(ctx, who, list, workflow.Timed, workflow.Lift, time.Time{}, func(*Standing) {})
}

var errNothingTicked = plan.Refuse("id", "Tick something first.")

// moveOn takes a step with things that are approved, for a minute if there is one. Who approved
// them stays told.
func (a *Editions) moveOn(ctx context.Context, who plan.Person, list []Judged, from workflow.State, step workflow.Step, at time.Time, with func(*Standing)) (n int, err error) {
	if len(list) == 0 {
		return 0, errNothingTicked
	}
	return len(list), a.stepping(ctx, who, func(tx Tx, q Queue, _ map[string]plan.Person) error {
		if !at.IsZero() {
			if err := a.thawed(ctx, tx, at); err != nil {
				return err
			}
		}
		return a.stepOn(ctx, tx, q, who, list, from, step, with)
	})
}

func (a *Editions) stepOn(ctx context.Context, tx Tx, q Queue, who plan.Person, list []Judged, from workflow.State, step workflow.Step, with func(*Standing)) error {
	put := map[change.Key]Standing{}
	for _, j := range list {
		item, there := q.Find(j.ID, from)
		title := q.Next.Trees.Title(j.ID)
		if !there || item.Stamp != j.Stamp {
			return plan.Refuse("id", fmt.Sprintf("%q does not stand where it did when you looked. Look at it again.", title))
		}
		for _, c := range item.Changes {
			to, why := q.Next.Site.Rights().Take(from, step, q.Hand(who, c))
			if why != "" {
				return plan.Refuse("id", fmt.Sprintf("%q: %s", title, why))
			}
			s := q.Next.Standings[c.Key]
			s.State, s.GoAt, s.Zone, s.By, s.At = to, time.Time{}, "", who.ID, a.Now()
			with(&s)
			put[c.Key] = s
		}
	}
	return tx.PutStandings(ctx, put)
}

// GoAt gives the minute of an item that is timed.
func (q Queue) GoAt(i review.Item) Standing { return q.Next.Standings[i.Changes[0].Key] }

// Timed gives what is timed, the next minute first.
func (q Queue) Timed() (out []review.Item) {
	for _, i := range q.Items {
		if i.State == workflow.Timed {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(out, func(x, y review.Item) int { return q.GoAt(x).GoAt.Compare(q.GoAt(y).GoAt) })
	return out
}

// lateAfter is from when on an edition says that its minute was missed.
const lateAfter = 2 * time.Minute

// PublishDue publishes what is timed and due by the clock of the database, so that instances whose
// clocks differ agree.
func (a *Editions) PublishDue(ctx context.Context) error {
	var now time.Time
	err := a.Store.Read(ctx, func(tx Tx, _ plan.Site) (err error) {
		now, err = tx.Clock(ctx)
		return err
	})
	if err != nil {
		return err
	}
	return a.PublishTimed(ctx, now)
}

// PublishTimed publishes what is timed and due at a time, one edition for each minute, the
// earliest first. What preflight stops stays approved, and its people are told. It does nothing
// twice, whoever else does it at the same time: each minute is one transaction. While a freeze
// holds nothing goes out; it goes once that is over.
func (a *Editions) PublishTimed(ctx context.Context, now time.Time) error {
	for {
		some := false
		err := a.Store.Write(ctx, func(tx Tx, s plan.Site) (err error) {
			if s.ID == "" {
				return nil
			}
			some, err = a.publishMinute(ctx, tx, s, now)
			return err
		})
		if err != nil || !some {
			return err
		}
	}
}

// publishMinute publishes what is due of the earliest minute.
func (a *Editions) publishMinute(ctx context.Context, tx Tx, s plan.Site, now time.Time) (some bool, err error) {
	n := NextEdition{Site: s}
	if err := n.dueIn(ctx, tx, now); err != nil {
		return false, err
	}
	leaving, err := a.dueWithdrawals(ctx, tx, s, now)
	if err != nil || len(n.Standings)+len(leaving) == 0 {
		return false, err
	}
	freezes, err := tx.Freezes(ctx)
	if err != nil || workflow.Frozen(freezes, now) != nil {
		return false, err
	}
	if err := tx.LockDrafts(ctx); err != nil {
		return false, err
	}
	q, err := a.queue(ctx, tx, s)
	if err != nil {
		return false, err
	}
	due, at := q.due(now)
	if at.By != "" {
		at.Person = at.By // who gave it its minute publishes it
	}
	switch {
	case len(due)+len(leaving) == 0:
		return false, nil // what is due was edited since, so it is a draft
	case len(leaving) > 0 && (len(due) == 0 || leaving[0].GoAt.Before(at.GoAt)):
		due = change.Set{}
		at = Standing{Standing: workflow.Standing{Person: leaving[0].Person}, GoAt: leaving[0].GoAt, Zone: leaving[0].Zone}
	case len(leaving) > 0 && leaving[0].GoAt.After(at.GoAt):
		leaving = nil
	}
	return true, a.publishAt(ctx, tx, q, due, leaving, at, now)
}

// publishAt publishes what is due at a minute, or takes the minute away from it.
func (a *Editions) publishAt(ctx context.Context, tx Tx, q Queue, due change.Set, leaving []Withdrawal, at Standing, now time.Time) error {
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	sel := Select{Chosen: true, withdraw: leaving}
	for _, c := range q.Next.All {
		if !due[c.Key] && c.Aspect != change.Readdressed {
			sel.LeaveOut = append(sel.LeaveOut, c.Key)
		}
	}
	s := q.Next.Site
	next, err := a.next(ctx, tx, s, people[at.Person], sel)
	if err != nil {
		return err
	}
	var entries []string
	for _, w := range leaving {
		entries = append(entries, w.Entry)
	}
	if err := tx.DropWithdrawals(ctx, entries); err != nil {
		return err
	}
	if errs, _ := check.Count(next.Findings); errs > 0 {
		return a.fallBack(ctx, tx, q, due, leaving, at, next.Findings)
	}
	why := fmt.Sprintf("Timed for %s (%s)", at.GoAt.In(zoneOf(at.Zone)).Format("2 January 2006, 15:04"), at.Zone)
	if late := now.Sub(at.GoAt); late > lateAfter {
		why += fmt.Sprintf("; published %s late, because the program was not running or nothing was to be published", late.Round(time.Minute))
	}
	_, err = a.release(ctx, tx, next, plan.Edition{
		Number: s.Edition + 1, At: now, PersonID: at.Person, Why: why, ActKey: plan.NewID(), Changes: next.summaries(next.Chosen),
	})
	if err != nil {
		return err
	}
	a.Counts.Editions.Add(1)
	return tx.Notify(ctx, q.timedNotices(now, due, leaving, at, why+" went out."))
}

// dueIn keeps the standings that are timed and due.
func (n *NextEdition) dueIn(ctx context.Context, tx Tx, now time.Time) error {
	all, err := tx.Standings(ctx)
	n.Standings = map[change.Key]Standing{}
	for k, s := range all {
		if s.State == workflow.Timed && !s.GoAt.After(now) {
			n.Standings[k] = s
		}
	}
	return err
}

// due gives the changes of the earliest minute that has come, and one of their standings. One
// that was edited since it was timed is a draft, and not among them.
func (q Queue) due(now time.Time) (due change.Set, at Standing) {
	due = change.Set{}
	for _, i := range q.Timed() {
		s := q.GoAt(i)
		if s.GoAt.After(now) || len(due) > 0 && !s.GoAt.Equal(at.GoAt) {
			break
		}
		if len(due) == 0 {
			at = s
		}
		for _, k := range i.Keys() {
			due[k] = true
		}
	}
	return due, at
}

func zoneOf(name string) *time.Location {
	if in, err := time.LoadLocation(name); err == nil {
		return in
	}
	return time.UTC
}

// fallBack takes the minute away from what cannot go out, and tells its people why.
func (a *Editions) fallBack(ctx context.Context, tx Tx, q Queue, due change.Set, leaving []Withdrawal, at Standing, found []check.Finding) error {
	put := map[change.Key]Standing{}
	for k := range due {
		s := q.Next.Standings[k]
		s.State, s.GoAt, s.Zone, s.By = workflow.Ready, time.Time{}, "", ""
		put[k] = s
	}
	if err := tx.PutStandings(ctx, put); err != nil {
		return err
	}
	why := "the checks found errors"
	for _, f := range found {
		if f.Severity == check.Error {
			why = f.Message
			break
		}
	}
	return tx.Notify(ctx, q.timedNotices(a.Now(), due, leaving, at, fmt.Sprintf("What was timed for %s (%s) did not go out, and stays approved or live: %s",
		at.GoAt.In(zoneOf(at.Zone)).Format("2 January 2006, 15:04"), at.Zone, why)))
}

// timedNotices tell who approved changes, who made and who sent them, what became of them.
func (q Queue) timedNotices(now time.Time, due change.Set, leaving []Withdrawal, at Standing, words string) (out []plan.Notice) {
	to, titles := []string{at.Person}, []string(nil)
	for _, i := range q.Items {
		if due[i.Changes[0].Key] {
			to, titles = append(append(to, q.Makers(i)...), q.Request(i).From), append(titles, q.Next.Trees.Title(i.ID))
		}
	}
	for _, w := range leaving {
		to, titles = append(to, w.Person), append(titles, q.Next.Trees.Title(w.Entry))
	}
	slices.Sort(to)
	for _, p := range slices.Compact(to) {
		if p != "" {
			out = append(out, plan.Notice{PersonID: p, Kind: plan.NoticeReviewed, Subject: at.GoAt.UTC().Format(time.RFC3339) + " " + strings.Join(titles, " "), At: now, Words: words + " It is " + listed(titles) + "."})
		}
	}
	return out
}
