package account

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// Window is a window of the studio that somebody has open.
type Window struct {
	ID, Person    string
	Screen, Entry string // where it is; an entry that is chosen or open there
	Since, Seen   time.Time
}

// Here is somebody who is in the studio now.
type Here struct {
	Person, Name  string
	Window        string // empty: only their lock is known
	Screen, Entry string
	Since         time.Time
	Writes        bool // they have the page of the entry open for writing
}

const (
	// WindowFor is how long a window is known without a sign of life from its instance.
	WindowFor = 60 * time.Second
	mostHere  = 500 // windows that are told of
)

// Come keeps windows that were opened, or where they went; that is their sign of life, too. Others are
// told only where something of it is new.
func (a *Account) Come(ctx context.Context, who plan.Person, windows ...Window) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		tell := false
		for _, w := range windows {
			w.Person, w.Since, w.Seen = who.ID, a.Now(), a.Now()
			moved, err := tx.PutWindow(ctx, w)
			if err != nil {
				return err
			}
			tell = tell || moved
		}
		if !tell {
			return nil
		}
		return tx.TellWork(ctx, "here")
	})
}

// Leave forgets windows of a person that were closed.
func (a *Account) Leave(ctx context.Context, who plan.Person, ids []string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.DropWindows(ctx, who.ID, ids); err != nil {
			return err
		}
		return tx.TellWork(ctx, "here")
	})
}

// StillOpen is the sign of life of all windows of an instance. Those of instances that ended are
// forgotten.
func (a *Account) StillOpen(ctx context.Context, ids []string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		forgotten, err := tx.SeeWindows(ctx, ids, a.Now(), a.Now().Add(-WindowFor))
		if err != nil || forgotten == 0 {
			return err
		}
		return tx.TellWork(ctx, "here")
	})
}

// WhoIsHere tells who has which window open, and who has which page open for writing.
func (a *Account) WhoIsHere(ctx context.Context) (list []Here, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		windows, err := tx.Windows(ctx, a.Now().Add(-WindowFor), mostHere)
		if err != nil {
			return err
		}
		locks, err := tx.Locks(ctx, a.Now())
		if err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		list = here(windows, locks, people)
		return err
	})
	return list, err
}

func here(windows []Window, locks map[string]workflow.Lock, people map[string]plan.Person) (list []Here) {
	for _, w := range windows {
		h := Here{Person: w.Person, Name: people[w.Person].Name, Window: w.ID, Screen: w.Screen, Entry: w.Entry, Since: w.Since}
		if l, ok := locks[w.Entry]; ok && l.Person == w.Person && w.Screen == ScreenPage {
			h.Writes, h.Since = true, l.Taken
			delete(locks, w.Entry)
		}
		list = append(list, h)
	}
	for _, entry := range slices.Sorted(maps.Keys(locks)) {
		l := locks[entry]
		list = append(list, Here{Person: l.Person, Name: people[l.Person].Name, Screen: ScreenPage, Entry: entry, Since: l.Taken, Writes: true})
	}
	slices.SortStableFunc(list, func(x, y Here) int { return cmp.Compare(x.Name, y.Name) })
	return list
}

// ScreenPage is the page editor, as windows name where they are.
const ScreenPage = "page"
