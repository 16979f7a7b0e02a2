package workflow

import (
	"errors"
	"fmt"
	"time"
)

// Clock time is what people write when they time something: a minute in a named zone. Twice a
// year a zone puts its clocks forward or back. A minute that is skipped never comes, and one in
// the doubled hour comes twice; both are told at once, and which of the two is meant is asked.

// Errors of clock times.
var (
	ErrPast    = errors.New("this time has passed")
	ErrSkipped = errors.New("this time does not exist, because the clocks go forward")
	ErrZone    = errors.New("this is not a time zone")
	ErrClock   = errors.New("this is not a date and time")
)

const clock = "2006-01-02T15:04"

// Doubled is the error of a minute that comes twice, with both times.
type Doubled struct{ First, Second time.Time }

func (d *Doubled) Error() string {
	return fmt.Sprintf("this time occurs twice, because the clocks go back: at %s and at %s UTC", d.First.UTC().Format("15:04"), d.Second.UTC().Format("15:04"))
}

// Minute reads a minute, as 2026-11-30T09:00, in a named zone. Of one that comes twice, second
// picks the later one where it is "second", the first where it is "first"; else it is a *Doubled.
func Minute(text, zone, which string, now time.Time) (time.Time, error) {
	at, err := time.Parse(clock, text)
	if err != nil {
		return time.Time{}, ErrClock
	}
	if zone == "" || zone == "Local" {
		return time.Time{}, ErrZone
	}
	in, err := time.LoadLocation(zone)
	if err != nil {
		return time.Time{}, ErrZone
	}
	fits := moments(at, in)
	switch {
	case len(fits) == 0:
		return time.Time{}, ErrSkipped
	case len(fits) == 2 && which == "second":
		fits = fits[1:]
	case len(fits) == 2 && which != "first":
		return time.Time{}, &Doubled{fits[0], fits[1]}
	}
	if !fits[0].After(now) {
		return time.Time{}, ErrPast
	}
	return fits[0], nil
}

// moments gives the moments at which clocks in a zone show a time, the first first: none, one, or
// two.
func moments(shown time.Time, in *time.Location) (out []time.Time) {
	offsets := map[int]bool{}
	for _, near := range []time.Duration{-26 * time.Hour, 0, 26 * time.Hour} {
		_, offset := shown.Add(near).In(in).Zone()
		offsets[offset] = true
	}
	for offset := range offsets {
		at := shown.Add(-time.Duration(offset) * time.Second).In(in)
		if at.Format(clock) == shown.Format(clock) {
			out = append(out, at)
		}
	}
	if len(out) == 2 && out[1].Before(out[0]) {
		out[0], out[1] = out[1], out[0]
	}
	return out
}
