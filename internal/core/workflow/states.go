package workflow

import (
	"slices"
	"time"
)

// Draft states: while somebody writes, earlier versions of the draft are kept. The newest state follows the draft as
// long as it is young, of the same person, nobody paused, and nothing is taken away from it; then the next begins. As
// states age they are thinned out: the last one of each span stays, and of those from which something was taken away
// the one that held most.
//
//	up to an hour old   all
//	up to a day         one every quarter of an hour, and all from which something was taken away
//	up to a month       one a day
//	up to a year        one a week

// DraftState is a state of a draft that is kept.
type DraftState struct {
	ID, Person string
	At         time.Time // when it was written last
	Begun      time.Time
	Lost       bool // the next one lacks some of it
	Bytes      int  // of its text
}

const (
	stateSpan = 2 * time.Minute
	pause     = 30 * time.Second
	quarter   = 15 * time.Minute
	day       = 24 * time.Hour
)

// GoesOn tells whether a text that is saved now belongs to the state, or begins another: takes tells that it takes
// away some of what the state holds.
func (s DraftState) GoesOn(person string, now time.Time, takes bool) bool {
	return s.ID != "" && s.Person == person && now.Sub(s.Begun) < stateSpan && now.Sub(s.At) < pause && !takes
}

// span is how far apart states of an age are; zero: they go.
func span(age time.Duration) time.Duration {
	switch {
	case age < time.Hour:
		return stateSpan
	case age < day:
		return quarter
	case age < 31*day:
		return day
	case age < 366*day:
		return 7 * day
	}
	return 0
}

// Thinned gives the ids of the states that go. The newest of each person stays in any case, so
// that it stays known who wrote on the draft.
func Thinned(states []DraftState, now time.Time) (gone []string) {
	states = slices.Clone(states)
	slices.SortStableFunc(states, func(a, b DraftState) int { return b.At.Compare(a.At) })
	type bucket struct {
		span time.Duration
		at   int64
	}
	most := map[bucket]DraftState{} // of those that lost something
	in := func(s DraftState) bucket {
		wide := span(now.Sub(s.At))
		return bucket{wide, s.At.UnixNano() / int64(max(wide, 1))}
	}
	for _, s := range states {
		if b := in(s); s.Lost && s.Bytes > most[b].Bytes {
			most[b] = s
		}
	}
	kept, wrote := map[bucket]bool{}, map[string]bool{}
	for _, s := range states {
		b, newest := in(s), !wrote[s.Person]
		wrote[s.Person] = true
		if newest || b.span == stateSpan || s.Lost && (b.span == quarter || b.span > 0 && most[b].ID == s.ID) {
			continue
		}
		if b.span == 0 || kept[b] {
			gone = append(gone, s.ID)
		}
		kept[b] = true
	}
	return gone
}
