package workflow

import (
	"slices"
	"time"
)

// Draft states: while somebody writes, what the draft is every few minutes is kept. The
// newest state follows the draft as long as it is young and of the same person; then the
// next begins. As states age they are thinned out: the last one of each span stays.
//
//	up to an hour old   all, two minutes apart
//	up to a day         one every quarter of an hour
//	up to a month       one a day
//	up to a year        one a week

// DraftState is a state of a draft that is kept.
type DraftState struct {
	ID, Person string
	At         time.Time // when it was written last
	Begun      time.Time
}

const stateSpan = 2 * time.Minute

// GoesOn tells whether a text that is saved now belongs to the state, or begins another.
func (s DraftState) GoesOn(person string, now time.Time) bool {
	return s.ID != "" && s.Person == person && now.Sub(s.Begun) < stateSpan
}

// span is how far apart states of an age are; zero: they go.
func span(age time.Duration) time.Duration {
	const day = 24 * time.Hour
	switch {
	case age < time.Hour:
		return stateSpan
	case age < day:
		return 15 * time.Minute
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
	slices.SortFunc(states, func(a, b DraftState) int { return b.At.Compare(a.At) })
	type bucket struct {
		span time.Duration
		at   int64
	}
	kept, wrote := map[bucket]bool{}, map[string]bool{}
	for _, s := range states {
		wide, newest := span(now.Sub(s.At)), !wrote[s.Person]
		wrote[s.Person] = true
		if wide <= stateSpan && wide > 0 || newest {
			continue
		}
		b := bucket{wide, 0}
		if wide > 0 {
			b.at = s.At.UnixNano() / int64(wide)
		}
		if wide == 0 || kept[b] {
			gone = append(gone, s.ID)
		}
		kept[b] = true
	}
	return gone
}
