package editions

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/workflow"
)

// LargeState is how far a large edition is.
type LargeState string

// The states of large editions.
const (
	LargeWaiting LargeState = "waiting" // for its job, or the job is at it
	LargeOut     LargeState = "out"
	LargeStopped LargeState = "stopped" // something kept it from going out
)

// LargeEdition is an edition that a job publishes, because nobody should wait for it.
type LargeEdition struct {
	ID, PersonID, Why, Note string
	Reviewed                string // what the person had before them, as change.Looked writes it
	Changes                 int
	State                   LargeState
	Done, Total             int // pages that are rendered anew
	Edition                 int // that it became
	Problem                 string
	At                      time.Time
}

const (
	largeChanges = 2000 // from which on somebody does not wait
	largePages   = 400  // that are rendered anew, from which on
)

// PublishChosen publishes what a person chose and had before them: at once, or, where that is large,
// by a job. Then it gives the id of that instead of an edition.
func (a *Editions) PublishChosen(ctx context.Context, who plan.Person, ask PublishAsk) (e plan.Edition, later string, err error) {
	all, err := a.Summary(ctx, who) // which is known, since somebody looked at it
	if err != nil {
		return e, "", err
	}
	if len(all.Next.All) < largeChanges && len(all.Next.Relaid) < largePages {
		e, err = a.Publish(ctx, who, ask)
		return e, "", err
	}
	large := false
	err = a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if _, err := tx.EditionByKey(ctx, ask.Key); err == nil {
			return nil
		}
		if known, err := tx.LargeEdition(ctx, ask.Key); err == nil {
			large, later = true, known.ID
			return nil
		}
		if err := plan.CheckKey(ask.Key); err != nil {
			return err
		}
		if err := a.keepChoice(ctx, tx, s, who, *ask.Form); err != nil {
			return err
		}
		n, err := a.next(ctx, tx, s, who, Select{Own: true})
		if err != nil || len(n.Chosen) < largeChanges && len(n.Relaid) < largePages || ask.Why == "" {
			return err
		}
		if err := n.checkUnchanged(ask.Form.Reviewed); err != nil {
			return err
		}
		if err := n.judge(who, workflow.ByHand, a.Now()).Err(); err != nil {
			return err
		}
		large, later = true, ask.Key
		if err := tx.PutLargeEdition(ctx, LargeEdition{
			ID: ask.Key, PersonID: who.ID, Why: ask.Why, Note: ask.Note, Reviewed: ask.Form.Reviewed.Text(), Changes: len(n.Chosen), State: LargeWaiting, Total: len(n.Relaid), At: a.Now(),
		}); err != nil {
			return err
		}
		return tx.Enqueue(ctx, plan.Job{Kind: plan.JobPublish, ID: ask.Key})
	})
	if err != nil || large {
		return e, later, err
	}
	e, err = a.Publish(ctx, who, ask)
	return e, "", err
}

// LargeEdition tells how far a large edition is; only to who publishes it.
func (a *Editions) LargeEdition(ctx context.Context, who plan.Person, id string) (l LargeEdition, err error) {
	err = a.Store.Read(ctx, func(tx Tx, _ plan.Site) error {
		if l, err = tx.LargeEdition(ctx, id); err == nil && l.PersonID != who.ID {
			err = plan.ErrNotFound
		}
		return err
	})
	return l, err
}

// PublishLarge publishes a large edition, as its job: it renders what is laid out anew, then writes the edition in
// one transaction. A job that is cut off goes on with what is not rendered yet; nothing goes out twice.
func (a *Editions) PublishLarge(ctx context.Context, id string) error {
	var l LargeEdition
	var who plan.Person
	err := a.Store.Read(ctx, func(tx Tx, _ plan.Site) (err error) {
		if l, err = tx.LargeEdition(ctx, id); err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		who = people[l.PersonID]
		return err
	})
	if errors.Is(err, plan.ErrNotFound) || err == nil && l.State != LargeWaiting {
		return nil
	}
	if err != nil {
		return err
	}
	looked := change.ParseReviewed(l.Reviewed)
	within, end := context.WithCancelCause(ctx)
	defer end(nil)
	far := 0
	progress := func(done int) { // which begins anew for those that are written
		if far = max(far, done); !a.progress(ctx, id, far) {
			end(errStopped)
		}
	}
	err = a.ahead(within, who, looked, progress)
	var e plan.Edition
	if err == nil {
		e, err = a.Publish(within, who, PublishAsk{Key: l.ID, Why: l.Why, Note: l.Note, Changes: Select{Own: true}, Reviewed: &looked, Progress: progress})
	}
	if err != nil && errors.Is(context.Cause(within), errStopped) {
		return nil
	}
	words, number := fmt.Sprintf("Edition %d is live: %s", e.Number, l.Why), strconv.Itoa(e.Number)
	l.State, l.Edition, l.Done = LargeOut, e.Number, l.Total
	if err != nil {
		if l.Problem = stopped(err); l.Problem == "" {
			return err // it is tried again
		}
		l.State, l.Edition, number, words = LargeStopped, 0, "", "Your edition was not published: "+l.Problem
	}
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.PutLargeEdition(ctx, l); err != nil {
			return err
		}
		return tx.Notify(ctx, []plan.Notice{{PersonID: l.PersonID, Kind: plan.NoticeEdition, Subject: number, At: a.Now(), Words: words}})
	})
}

// ahead renders what the edition that a person chose lays out anew, if it may go out: else publishing tells why not.
func (a *Editions) ahead(ctx context.Context, who plan.Person, looked change.Reviewed, progress func(done int)) error {
	n, err := a.LookAhead(ctx, who, Select{Own: true})
	if err != nil || n.checkUnchanged(looked) != nil || n.Hinders(who) != workflow.None {
		return nil //nolint:nilerr // as above
	}
	return a.renderAhead(ctx, &n, progress)
}

// stopped words what keeps an edition from going out however often one tries; empty: that may be
// otherwise another time.
func stopped(err error) string {
	var invalid *plan.Invalid
	var notReady *NotReady
	var moved *Moved
	switch {
	case errors.As(err, &notReady):
		n, _ := check.Count(notReady.Findings)
		return fmt.Sprintf("the checks found %d %s.", n, plan.Plural(n, "error", "errors"))
	case errors.As(err, &invalid), errors.As(err, &moved), errors.Is(err, ErrOwnWork), errors.Is(err, plan.ErrForbidden):
		return err.Error() + "."
	}
	return ""
}

// progress notes how many pages are rendered, beside the transaction that publishes, and tells whether
// the edition still waits to go out.
func (a *Editions) progress(ctx context.Context, id string, done int) (waits bool) {
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) (err error) {
		waits, err = tx.LargeProgress(ctx, id, done)
		return err
	})
	return waits || err != nil // the next one tells
}

// StopLarge keeps an edition that one publishes from going out, unless it is out already.
func (a *Editions) StopLarge(ctx context.Context, who plan.Person, id string) error {
	return a.endLarge(ctx, id, func(l LargeEdition) bool { return l.PersonID == who.ID }, "You stopped it. Nothing was published.", false)
}

// GiveUpLarge frees the person of an edition that will not be tried again.
func (a *Editions) GiveUpLarge(ctx context.Context, id string) error {
	err := a.endLarge(ctx, id, func(LargeEdition) bool { return true }, "It was tried several times. Nothing was published. Your administrator finds the reason under Background jobs.", true)
	if errors.Is(err, plan.ErrNotFound) {
		return nil
	}
	return err
}

func (a *Editions) endLarge(ctx context.Context, id string, may func(LargeEdition) bool, problem string, tell bool) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		l, err := tx.LargeEdition(ctx, id)
		if err == nil && !may(l) {
			err = plan.ErrNotFound
		}
		if err != nil || l.State != LargeWaiting {
			return err
		}
		l.State, l.Problem = LargeStopped, problem
		if err := tx.PutLargeEdition(ctx, l); err != nil || !tell {
			return err
		}
		return tx.Notify(ctx, []plan.Notice{{PersonID: l.PersonID, Kind: plan.NoticeEdition, At: a.Now(), Words: "The edition that you wanted to publish was not published: " + problem}})
	})
}
