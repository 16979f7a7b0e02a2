package editions

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Withdrawal is a live page that is withdrawn at a minute, with where its visitors go meanwhile.
type Withdrawal struct {
	Entry, Person string
	GoAt          time.Time
	Zone          string
	To            string // an entry id, an address, a URL or "gone"
	Says          string // what readers are told where it is gone

	decision redirect.Decision
	why      string // it cannot be withdrawn now
}

// WithdrawAsk is the wish that a live page is withdrawn at a minute.
type WithdrawAsk struct {
	Entry, To, Says string
	At, Zone, Which string // as TimeAsk has them
}

// WithdrawAt has a live page withdrawn at a minute. Whoever may publish their own work there says so; under four eyes
// that is not enough.
func (a *Editions) WithdrawAt(ctx context.Context, who plan.Person, ask WithdrawAsk) (at time.Time, err error) {
	if at, err = (TimeAsk{At: ask.At, Zone: ask.Zone, Which: ask.Which}).minute(a.Now()); err != nil {
		return at, err
	}
	return at, a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		planned, err := a.load(ctx, tx, s)
		if err != nil {
			return err
		}
		w := Withdrawal{Entry: ask.Entry, Person: who.ID, GoAt: at, Zone: ask.Zone, To: strings.TrimSpace(ask.To), Says: strings.TrimSpace(ask.Says)}
		if err := w.allowed(planned, who); err != nil {
			return err
		}
		if err := a.thawed(ctx, tx, at); err != nil {
			return err
		}
		return tx.PutWithdrawal(ctx, w)
	})
}

// allowed tells why a page may not be withdrawn so, and where its visitors go if nobody said it.
func (w *Withdrawal) allowed(n Work, who plan.Person) error {
	if !n.Site.Rights().May(who.Role, workflow.Publish) {
		return plan.ErrForbidden
	}
	i := n.Trees.Live.Find(w.Entry)
	if i == sitemap.None || n.Trees.Live.Served(i) == "" {
		return plan.Refuse("entry", "Choose a live page.")
	}
	if w.needsOther(n, who) {
		return plan.Refuse("entry", "Someone else must approve this. Withdraw the page in the outline, send that for review, and schedule it once it is approved.")
	}
	if w.To == "" {
		w.To = above(n.Trees.Live, i)
	}
	_, err := w.decide(n.Trees)
	return err
}

// needsOther tells whether somebody else has to approve a withdrawal: it is the work of who gives it its date.
func (w *Withdrawal) needsOther(n Work, who plan.Person) bool {
	_, why := n.Rights.Take(workflow.Ready, workflow.Schedule, workflow.Actor{Role: who.Role, Made: true})
	return why != "" || n.AsksOf(change.Key{ID: w.Entry, Aspect: change.Withdrawn}) == workflow.FourEyes
}

// forbidden tells why who scheduled a withdrawal may not bring it out at its minute; empty: they may.
func (w *Withdrawal) forbidden(n Work, who plan.Person) string {
	switch {
	case who.Inactive:
		return "the person who scheduled it has left"
	case !n.Site.Rights().May(who.Role, workflow.Publish):
		return "the person who scheduled it can no longer publish"
	case w.needsOther(n, who):
		return "someone else must approve it since"
	}
	return ""
}

// above is the nearest page above one that readers get.
func above(t *sitemap.Tree, i int) string {
	for i = t.Parent(i); i != sitemap.None; i = t.Parent(i) {
		if t.Served(i) != "" {
			return t.Ref(i).ID
		}
	}
	return t.Ref(t.Home()).ID
}

// decide works out where the visitors go, for as long as the page is withdrawn.
func (w Withdrawal) decide(trees plan.Trees) (redirect.Decision, error) {
	d, err := plan.Destination{Entry: w.Entry, To: w.To, Temporary: w.To != "gone", Says: w.Says}.Decision(trees)
	if err != nil || d == nil {
		return redirect.Decision{}, err
	}
	return *d, nil
}

// KeepLive takes the minute away from a page that was to be withdrawn.
func (a *Editions) KeepLive(ctx context.Context, who plan.Person, entry string) error {
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if !s.Rights().May(who.Role, workflow.Publish) {
			return plan.ErrForbidden
		}
		return tx.DropWithdrawals(ctx, []string{entry})
	})
}

// leaving gives pages whose minute has come as the core takes them.
func leaving(list []Withdrawal) []edition.Leaving {
	out := make([]edition.Leaving, len(list))
	for i, w := range list {
		out[i] = edition.Leaving{Entry: w.Entry, Person: w.Person, At: w.GoAt, Decision: w.decision}
	}
	return out
}

// dueWithdrawals gives those of the earliest minute that has come, up to one. Of pages that are
// not live any more there is nothing left to do.
func (a *Editions) dueWithdrawals(ctx context.Context, tx Tx, s plan.Site, now time.Time) (due []Withdrawal, err error) {
	all, err := tx.Withdrawals(ctx)
	if err != nil || len(all) == 0 || all[0].GoAt.After(now) {
		return nil, err
	}
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return nil, err
	}
	var gone []string
	for _, w := range all {
		i := trees.Live.Find(w.Entry)
		switch {
		case w.GoAt.After(now) || len(due) > 0 && !w.GoAt.Equal(due[0].GoAt):
			continue
		case i == sitemap.None || trees.Live.Served(i) == "" || trees.Next.Find(w.Entry) == sitemap.None:
			gone = append(gone, w.Entry)
			continue
		}
		if w.decision, err = w.decide(trees); err != nil {
			w.To = above(trees.Live, i) // where they were to go is not there any more
			if w.decision, err = w.decide(trees); err != nil {
				w.why, err = "there is no page left to send its visitors to", nil
			}
		}
		due = append(due, w)
	}
	if len(gone) > 0 {
		err = tx.DropWithdrawals(ctx, gone)
	}
	return due, err
}

// Freeze says that nothing is published for a time.
func (a *Editions) Freeze(ctx context.Context, who plan.Person, from, until TimeAsk, why string) error {
	begins, err := from.minute(a.Now().Add(-24 * time.Hour)) // it may hold already
	if err != nil {
		return err
	}
	ends, err := until.minute(a.Now())
	if err != nil {
		return err
	}
	why = strings.TrimSpace(why)
	switch {
	case !ends.After(begins):
		return plan.Refuse("until", "The end must be after the start.")
	case ends.Sub(begins) > 92*24*time.Hour:
		return plan.Refuse("until", "A freeze can last up to three months.")
	case why == "" || len([]rune(why)) > 200:
		return plan.Refuse("why", "Enter a reason of up to 200 characters. Everyone who tries to publish sees it.")
	}
	return a.Governing(ctx, who, func(tx Tx, s plan.Site) error {
		f := workflow.Freeze{ID: plan.NewID(), Why: why, Person: who.ID, Begins: begins, Ends: ends}
		if err := tx.PutFreeze(ctx, f); err != nil {
			return err
		}
		return a.tellFrozen(ctx, tx, s, who, f)
	})
}

// tellFrozen tells the people of what is scheduled for the time of a freeze that it waits.
func (a *Editions) tellFrozen(ctx context.Context, tx Tx, s plan.Site, who plan.Person, f workflow.Freeze) error {
	q, err := a.queue(ctx, tx, s)
	if err != nil {
		return err
	}
	leaving, err := tx.Withdrawals(ctx)
	if err != nil {
		return err
	}
	in := func(at time.Time) bool { return !at.Before(f.Begins) && at.Before(f.Ends) }
	titles := map[string][]string{} // by person
	tell := func(title string, people ...string) {
		for _, p := range people {
			if p != "" && p != who.ID && !slices.Contains(titles[p], title) {
				titles[p] = append(titles[p], title)
			}
		}
	}
	for _, i := range q.Timed() {
		if at := q.GoAt(i); in(at.GoAt) {
			tell(q.Trees.Title(i.ID), append(q.Makers(i), at.Person, at.By, q.Request(i).From)...)
		}
	}
	for _, w := range leaving {
		if in(w.GoAt) {
			tell(q.Trees.Title(w.Entry), w.Person)
		}
	}
	var list []plan.Notice
	for _, p := range slices.Sorted(maps.Keys(titles)) {
		list = append(list, plan.Notice{PersonID: p, Kind: plan.NoticeReviewed, Subject: "freeze " + f.ID, At: a.Now(), Words: fmt.Sprintf(
			"%s froze publishing until %s (%s). What is scheduled before then waits until it ends: %s.", who.Name, f.Ends.UTC().Format("2 January 2006, 15:04 UTC"), f.Why, listed(titles[p]))})
	}
	return tx.Notify(ctx, list)
}

// EndFreeze ends a freeze now; one that did not begin is forgotten.
func (a *Editions) EndFreeze(ctx context.Context, who plan.Person, id string) error {
	return a.Governing(ctx, who, func(tx Tx, _ plan.Site) error { return tx.EndFreeze(ctx, id, a.Now()) })
}

// thawed refuses a minute in which nothing is published.
func (a *Editions) thawed(ctx context.Context, tx Tx, at time.Time) error {
	list, err := tx.Freezes(ctx)
	if f := workflow.Frozen(list, at); err == nil && f != nil {
		return plan.Refuse("at", frozenWords(*f))
	}
	return err
}

func frozenWords(f workflow.Freeze) string {
	return fmt.Sprintf("Publishing is frozen until %s (%s). A site manager can end the freeze under Schedule.", f.Ends.UTC().Format("2 January 2006, 15:04 UTC"), f.Why)
}

// Calendar is what is to happen when: what is scheduled, withdrawn, and when nothing is published.
type Calendar struct {
	Queue
	Withdrawals []Withdrawal
	Freezes     []workflow.Freeze
}

// Calendar gives what is to happen when.
func (a *Editions) Calendar(ctx context.Context, who plan.Person) (c Calendar, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		if c.Queue, err = a.queue(ctx, tx, s); err != nil {
			return err
		}
		if c.Withdrawals, err = tx.Withdrawals(ctx); err != nil {
			return err
		}
		c.Freezes, err = tx.Freezes(ctx)
		c.Freezes = workflow.Ordered(c.Freezes)
		return err
	})
	return c, err
}

// retimeWithdrawals gives pages that are to be withdrawn another minute.
func (a *Editions) retimeWithdrawals(ctx context.Context, tx Tx, q Queue, who plan.Person, ask TimeAsk, at time.Time) error {
	all, err := tx.Withdrawals(ctx)
	if err != nil {
		return err
	}
	for _, entry := range ask.Leaving {
		i := slices.IndexFunc(all, func(w Withdrawal) bool { return w.Entry == entry })
		if i < 0 {
			return plan.Refuse("id", fmt.Sprintf("%q is no longer scheduled. Reload the calendar.", q.Trees.Title(entry)))
		}
		w := all[i]
		w.Person, w.GoAt, w.Zone = who.ID, at, ask.Zone
		if err := w.allowed(q.Work, who); err != nil {
			return err
		}
		if err := tx.PutWithdrawal(ctx, w); err != nil {
			return err
		}
	}
	return nil
}
