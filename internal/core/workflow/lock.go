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

	Asked *LockAsked // who asks for it
}

// LockAsked is somebody who reads and would like to write.
type LockAsked struct {
	Person, Window string
	At             time.Time
	Declined       bool // not now
}

// AskedFor is how long a question for a lock stands.
const AskedFor = 2 * time.Minute

// Ask asks whoever holds the lock for it. Who was told no may ask again after a while.
func (l Lock) Ask(person, window string, now time.Time) Lock {
	if !l.Held(now) || l.Window == window || l.Asks(window, now) {
		return l
	}
	if l.Asked != nil && now.Sub(l.Asked.At) < AskedFor && (l.Asked.Window != window || now.Sub(l.Asked.At) < AskedFor/4) {
		return l // somebody else asks already, or the answer is still fresh
	}
	l.Asked = &LockAsked{Person: person, Window: window, At: now}
	return l
}

// Asks tells whether the question of a window stands and has no answer.
func (l Lock) Asks(window string, now time.Time) bool {
	return l.Asked != nil && l.Asked.Window == window && !l.Asked.Declined && now.Sub(l.Asked.At) < AskedFor
}

// Question gives who asks the window that holds the lock; nil if nobody does.
func (l Lock) Question(window string, now time.Time) *LockAsked {
	if l.Window != window || l.Asked == nil || !l.Asks(l.Asked.Window, now) {
		return nil
	}
	return l.Asked
}

// Answer is what the window that holds the lock says to who asks for it: they get it, or not now. Only the
// person who holds it answers: ids of windows are no secrets.
func (l Lock) Answer(person, window string, yes bool, now time.Time) Lock {
	asked := l.Question(window, now)
	switch {
	case asked == nil || l.Person != person:
		return l
	case yes:
		return Lock{Person: asked.Person, Window: asked.Window, Taken: now, Seen: now}
	}
	no := *asked
	no.Declined = true
	l.Asked = &no
	return l
}

// Held tells whether the lock still holds.
func (l Lock) Held(now time.Time) bool { return l.Window != "" && now.Sub(l.Seen) < LockFor }

// Take gives the lock to a window, or renews it, unless another window, or the
// same one of another person, holds it; by force it is taken from whoever has it.
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
	case l.Held(now) && l.Window == window && l.Person == person:
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
