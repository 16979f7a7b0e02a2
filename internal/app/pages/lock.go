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
	Newest *Newest // set where a reading window has become the writing one
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
}

// takeLock takes or keeps a page's lock for a window. By force it is taken
// from whoever has it.
func (a *Pages) takeLock(ctx context.Context, tx Tx, who plan.Person, entry string, ask LockAsk) (LockState, error) {
	l, err := plan.LockOf(ctx, tx, entry)
	if err != nil {
		return LockState{}, err
	}
	l, mine := l.TakeAfter(who.ID, ask.Window, ask.Was, a.Now(), ask.Force)
	if !mine {
		people, err := plan.PeopleByID(ctx, tx)
		return LockState{Holder: people[l.Person].Name, Self: l.Person == who.ID, Since: l.Taken}, err
	}
	return LockState{Mine: true, Since: l.Taken}, tx.PutLock(ctx, entry, l)
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
