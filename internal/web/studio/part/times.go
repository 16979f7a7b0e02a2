package part

import (
	"time"
)

// moment is how times are shown; a script turns them into the viewer's zone.
type Moment struct{ ISO, Words string }

func At(t time.Time) Moment {
	if t.IsZero() {
		return Moment{}
	}
	return Moment{t.UTC().Format(time.RFC3339), t.UTC().Format("2 Jan 2006, 15:04") + " UTC"}
}

// Day is how a day, given as 2026-11-30, is shown.
func Day(day string) string {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return day
	}
	return t.Format("2 Jan 2006")
}
