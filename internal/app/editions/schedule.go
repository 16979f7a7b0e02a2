package editions

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
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
		return at, plan.Refuse("which", fmt.Sprintf("In %s, %s. Choose the earlier or later one.", t.Zone, twice))
	case errors.Is(err, workflow.ErrSkipped):
		return at, plan.Refuse("at", fmt.Sprintf("In %s, %s. Choose another time.", t.Zone, err))
	case errors.Is(err, workflow.ErrZone):
		return at, plan.Refuse("zone", fmt.Sprintf("%q is not a time zone. Use one such as Europe/London.", t.Zone))
	case errors.Is(err, workflow.ErrPast):
		return at, plan.Refuse("at", "This time has passed. Choose a later one.")
	}
	return at, plan.Refuse("at", "Choose a date and time.")
}

// Scheduling is what came of giving changes a date.
type Scheduling struct {
	At    time.Time
	N     int      // things that have it
	Along []string // titles of what they need, which got the same date or is approved and goes with them
	Waits []string // titles of what they need and is not approved: until it is, they cannot go out
}

// TimeChanges has changes go out at a minute: approved ones, and drafts where no review is asked. Drafts that
// they need get the same date where nothing is asked of these either; their authors are told.
func (a *Editions) TimeChanges(ctx context.Context, who plan.Person, ask TimeAsk) (out Scheduling, err error) {
	if out.At, err = ask.minute(a.Now()); err != nil {
		return out, err
	}
	if len(ask.List) == 0 {
		return out, errNothingTicked
	}
	return out, a.stepping(ctx, who, func(tx Tx, q Queue, _ map[string]plan.Person) error {
		if err := a.thawed(ctx, tx, out.At); err != nil {
			return err
		}
		put, chosen := map[change.Key]review.ApprovalState{}, change.Set{}
		for _, j := range ask.List {
			item, there := q.Find(j.ID, workflow.Ready)
			if !there {
				item, there = q.Find(j.ID, workflow.Draft)
			}
			if !there || item.Stamp != j.Stamp {
				return plan.Refuse("id", fmt.Sprintf("%q has changed since you opened it. Check it again.", q.Trees.Title(j.ID)))
			}
			for _, c := range item.Changes {
				if why := a.giveDate(q, who, c, item.State, out.At, ask.Zone, put); why != "" {
					return plan.Refuse("id", fmt.Sprintf("%q: %s", q.Trees.Title(j.ID), why))
				}
				chosen[c.Key] = true
			}
		}
		out.N = len(ask.List)
		notices := a.dateNeeds(q, who, chosen, &out, ask.Zone, put)
		if err := tx.PutStandings(ctx, put); err != nil {
			return err
		}
		return tx.Notify(ctx, notices)
	})
}

// giveDate puts a change that is approved or a draft on its date, or says why not.
func (a *Editions) giveDate(q Queue, who plan.Person, c change.Change, from workflow.State, at time.Time, zone string, put map[change.Key]review.ApprovalState) workflow.Refusal {
	step := workflow.Schedule
	if from == workflow.Draft {
		step = workflow.ScheduleDraft
	}
	to, why := q.Site.Rights().Take(from, step, q.ActorOf(who, c))
	if why != "" {
		return why
	}
	s := q.ApprovalStates[c.Key]
	if from == workflow.Draft {
		s = a.put(to, q.Stamp(c), who, "", "")
		s.Approved = false
	}
	s.State, s.GoAt, s.Zone, s.By, s.At = to, at, zone, who.ID, a.Now()
	put[c.Key] = s
	return ""
}

// dateNeeds sees to what changes need that get a date: it goes along where it may, and its authors are told.
func (a *Editions) dateNeeds(q Queue, who plan.Person, chosen change.Set, out *Scheduling, zone string, put map[change.Key]review.ApprovalState) (notices []plan.Notice) {
	closed, _, _ := q.Close(chosen)
	for _, c := range q.All {
		if !closed[c.Key] || chosen[c.Key] {
			continue
		}
		title := q.Trees.Title(c.ID)
		state, _ := q.StateOf(c)
		switch st := q.ApprovalStates[c.Key]; {
		case state == workflow.Scheduled && !st.GoAt.After(out.At), state == workflow.Ready && !q.Waits(c) && q.brings(who, c) == "":
			out.Along = append(out.Along, title)
		case state == workflow.Draft && a.giveDate(q, who, c, state, out.At, zone, put) == "":
			out.Along = append(out.Along, title)
			for _, p := range q.AuthorsOf(c.Key) {
				if p != who.ID {
					notices = append(notices, plan.Notice{PersonID: p, Kind: plan.NoticeReviewed, Subject: c.ID + " along", At: a.Now(), Words: fmt.Sprintf(
						"%s scheduled your draft “%s” for %s (%s), because other scheduled changes need it.", who.Name, title, out.At.In(zoneOf(zone)).Format("2 January 2006, 15:04"), zone)})
				}
			}
		default:
			out.Waits = append(out.Waits, title)
		}
	}
	slices.Sort(out.Along)
	slices.Sort(out.Waits)
	out.Along, out.Waits = slices.Compact(out.Along), slices.Compact(out.Waits)
	return notices
}

// Retime gives changes that are scheduled, and pages that are to be withdrawn, another minute: all or none.
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
		err := a.stepOn(ctx, tx, q, who, ask.List, workflow.Scheduled, workflow.Unschedule, func(s *review.ApprovalState) {
			s.State, s.GoAt, s.Zone = workflow.Scheduled, at, ask.Zone
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
	if len(list) == 0 {
		return 0, errNothingTicked
	}
	return len(list), a.stepping(ctx, who, func(tx Tx, q Queue, _ map[string]plan.Person) error {
		return a.stepOn(ctx, tx, q, who, list, workflow.Scheduled, workflow.Unschedule, func(*review.ApprovalState) {})
	})
}

var errNothingTicked = plan.Refuse("id", "Select at least one item.")

// stepOn takes a step with things that have a date. Who approved them stays told.
func (a *Editions) stepOn(ctx context.Context, tx Tx, q Queue, who plan.Person, list []Judged, from workflow.State, step workflow.Step, with func(*review.ApprovalState)) error {
	put := map[change.Key]review.ApprovalState{}
	for _, j := range list {
		item, there := q.Find(j.ID, from)
		title := q.Trees.Title(j.ID)
		if !there || item.Stamp != j.Stamp {
			return plan.Refuse("id", fmt.Sprintf("%q has changed since you opened it. Check it again.", title))
		}
		for _, c := range item.Changes {
			to, why := q.Site.Rights().Take(from, step, q.ActorOf(who, c))
			if why != "" {
				return plan.Refuse("id", fmt.Sprintf("%q: %s", title, why))
			}
			s := q.ApprovalStates[c.Key]
			if step == workflow.Unschedule && !s.Approved {
				to = workflow.Draft // nobody approved it
			}
			s.State, s.GoAt, s.Zone, s.By, s.At = to, time.Time{}, "", who.ID, a.Now()
			with(&s)
			put[c.Key] = s
		}
	}
	return tx.PutStandings(ctx, put)
}

// GoAt gives the minute of an item that is scheduled.
func (q Queue) GoAt(i review.Item) review.ApprovalState { return q.ApprovalStates[i.Changes[0].Key] }

// Timed gives what is timed, the next minute first.
func (q Queue) Timed() (out []review.Item) {
	for _, i := range q.Items {
		if i.State == workflow.Scheduled {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(out, func(x, y review.Item) int { return q.GoAt(x).GoAt.Compare(q.GoAt(y).GoAt) })
	return out
}

func zoneOf(name string) *time.Location {
	if in, err := time.LoadLocation(name); err == nil {
		return in
	}
	return time.UTC
}
