package workflow

import "time"

// Days gives the days of the week of a day, from Monday to Sunday; or all weeks of its month.
func Days(of time.Time, month bool) []time.Time {
	y, m, d := of.Date()
	first, last := time.Date(y, m, d, 0, 0, 0, 0, time.UTC), time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
	if month {
		first, last = time.Date(y, m, 1, 0, 0, 0, 0, time.UTC), time.Date(y, m+1, 0, 0, 0, 0, 0, time.UTC)
	}
	for first.Weekday() != time.Monday {
		first = first.AddDate(0, 0, -1)
	}
	for last.Weekday() != time.Sunday {
		last = last.AddDate(0, 0, 1)
	}
	var out []time.Time
	for ; !first.After(last); first = first.AddDate(0, 0, 1) {
		out = append(out, first)
	}
	return out
}
