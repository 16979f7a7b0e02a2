package workflow

import (
	"time"
)

// LockFor is how long a lock holds without a sign of life from its window.
const LockFor = 60 * time.Second

// Lock says which window has a page open for writing. The zero Lock is nobody's.
type Lock struct {
	Person, Window string
	Taken, Seen    time.Time // since when; last sign of life
}

// Held tells whether the lock still holds.
func (l Lock) Held(now time.Time) bool { return l.Window != "" && now.Sub(l.Seen) < LockFor }

// Take gives the lock to a window, or renews it, unless another window holds
// it; by force it is taken from whoever has it.
func (l Lock) Take(person, window string, now time.Time, force bool) (Lock, bool) {
	return l.TakeAfter(person, window, "", now, force)
}

// TakeAfter is Take for a window that was reloaded: what the window had before, it
// has again.
func (l Lock) TakeAfter(person, window, was string, now time.Time, force bool) (Lock, bool) {
	switch {
	case l.Held(now) && was != "" && l.Window == was && l.Person == person:
		l.Window, l.Seen = window, now
		return l, true
	case l.Held(now) && l.Window == window:
		l.Seen = now
		return l, true
	case l.Held(now) && !force:
		return l, false
	}
	return Lock{Person: person, Window: window, Taken: now, Seen: now}, true
}

// SavedHere tells whether a draft that somebody saved at a moment was saved by
// the window that holds the lock: nobody else can have, while it held it. So a
// window whose answer was lost on the way may go on from there.
func (l Lock) SavedHere(window, savedBy string, savedAt time.Time) bool {
	return l.Window == window && l.Person == savedBy && !savedAt.Before(l.Taken)
}
