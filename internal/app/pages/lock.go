package pages

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
)

// LockState is who has the page open, as seen from one window.
type LockState struct {
	Mine   bool
	Holder string // name, if not mine
	Self   bool   // the holder is the same person in another window
	Since  time.Time

	Asked    string  // who asks for it, if it is mine
	Waiting  bool    // this window asked, and has no answer yet
	Declined bool    // it was told: not now
	Newest   *Newest // set where a reading window has become the writing one
}

// Newest is the text from which a window begins to write.
type Newest struct {
	Content content.Page
	Base    int
}

// LockAsk is what a window says with its sign of life.
type LockAsk struct {
	Window  string
	Was     string // the window before it was reloaded, or empty
	Force   bool   // take the lock from whoever has it
	Reading bool   // the window has not got it, and begins from the newest text when it gets it
	Ask     bool   // asks whoever has it for it
	Answer  string // what the window that has it says to who asks: AnswerYes or AnswerNo
}

// What a window that has the lock says to who asks for it.
const (
	AnswerYes = "yes"
	AnswerNo  = "no"
)

// takeLock takes or keeps a page's lock for a window. By force it is taken
// from whoever has it.
func (a *Pages) takeLock(ctx context.Context, tx Tx, who plan.Person, entry string, ask LockAsk) (LockState, error) {
	l, err := tx.HoldLock(ctx, entry)
	if err != nil {
		return LockState{}, err
	}
	before, now := l, a.Now()
	if ask.Answer != "" {
		l = l.Answer(who.ID, ask.Window, ask.Answer == AnswerYes, now)
	}
	if ask.Ask {
		l = l.Ask(who.ID, ask.Window, now)
	}
	l, mine := l.TakeAfter(who.ID, ask.Window, ask.Was, now, ask.Force)
	if mine || l != before {
		if err := tx.PutLock(ctx, entry, l); err != nil {
			return LockState{}, err
		}
	}
	if l.Window != before.Window || l.Asked != before.Asked {
		if err := tellLock(ctx, tx, entry); err != nil {
			return LockState{}, err
		}
	}
	people, err := plan.PeopleByID(ctx, tx)
	if !mine {
		return LockState{
			Holder: people[l.Person].Name, Self: l.Person == who.ID, Since: l.Taken,
			Waiting: l.Asks(ask.Window, now), Declined: l.Asked != nil && l.Asked.Window == ask.Window && l.Asked.Declined,
		}, err
	}
	st := LockState{Mine: true, Since: l.Taken}
	if q := l.Question(ask.Window, now); q != nil {
		st.Asked = people[q.Person].Name
	}
	return st, err
}

// tellLock tells every window that the lock of a page is another's, or that somebody asks for it.
func tellLock(ctx context.Context, tx Tx, entry string) error {
	if err := tx.TellWork(ctx, "lock "+entry); err != nil {
		return err
	}
	return tx.TellWork(ctx, "here")
}

// KeepLock is the sign of life of a window that has a page open. It takes the
// lock when it has become free, and by force when asked.
func (a *Pages) KeepLock(ctx context.Context, who plan.Person, entry string, ask LockAsk) (LockState, error) {
	var st LockState
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		var err error
		if st, err = a.takeLock(ctx, tx, who, entry, ask); err != nil || !st.Mine || !ask.Reading {
			return err
		}
		var v PageView
		err = a.pageView(ctx, tx, s, entry, &v)
		st.Newest = &Newest{v.Content, v.Base}
		return err
	})
	return st, err
}
