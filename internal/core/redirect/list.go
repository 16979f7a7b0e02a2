package redirect

import (
	"slices"
	"strings"
	"time"

	"candlepath/internal/core/address"
)

// ListState tells how a row of the list of redirects stands.
type ListState string

// The states.
const (
	Answers  ListState = "live"
	Planned  ListState = "planned"  // it comes with the next edition
	Changing ListState = "changing" // it is another with the next edition
)

// Listed is a row of the list of redirects.
type Listed struct {
	Row
	State ListState
	Was   *Row // in Live, where it changes
	Use   Use
	Lost  bool // it leads to nothing
}

// Use is how a redirect was used.
type Use struct {
	N    int    // how often of late
	Last string // the last day, as 2026-11-26; empty: never
}

// Moment is when a list is looked at.
type Moment struct {
	Today string // as 2026-11-26
	Since string // before, a redirect was not used for long
	Used  bool   // uses are counted
}

// MomentOf is a time, with a year as what is long.
func MomentOf(now time.Time) Moment {
	return Moment{Today: now.Format(time.DateOnly), Since: now.AddDate(-1, 0, 0).Format(time.DateOnly)}
}

// Before is the moment with another day before which a last use is long ago. What is no day, or
// not past, changes nothing.
func (m Moment) Before(day string) Moment {
	if _, err := time.Parse(time.DateOnly, day); err == nil && day <= m.Today {
		m.Since = day
	}
	return m
}

// List gives the rows of Live with those that are planned by hand over them, by their
// addresses.
func List(live, planned []Row) []Listed {
	out, at := make([]Listed, len(live), len(live)+len(planned)), make(map[Key]int, len(live))
	for i, r := range live {
		out[i], at[r.Key()] = Listed{Row: r, State: Answers}, i
	}
	for _, r := range planned {
		if i, ok := at[r.Key()]; ok {
			was := live[i]
			out[i] = Listed{Row: r, State: Changing, Was: &was}
			continue
		}
		out = append(out, Listed{Row: r, State: Planned})
	}
	slices.SortStableFunc(out, func(a, b Listed) int {
		if c := strings.Compare(a.From, b.From); c != 0 {
			return c
		}
		return strings.Compare(string(a.Match), string(b.Match))
	})
	return out
}

// ListFilter shows some rows of the list.
type ListFilter struct {
	Key, Words string
	Fits       func(l *Listed, now Moment) bool
}

// LongUnused is the filter that depends on the day of Moment.Since.
const LongUnused = "long"

// ListFilters is the table of filters, in the order in which they are offered.
func ListFilters() []ListFilter {
	is := func(f func(*Listed) bool) func(*Listed, Moment) bool {
		return func(l *Listed, _ Moment) bool { return f(l) }
	}
	return []ListFilter{
		{"", "All", is(func(*Listed) bool { return true })},
		{"planned", "Planned", is(func(l *Listed) bool { return l.State != Answers })},
		{"live", "Live", is(func(l *Listed) bool { return l.State != Planned })},
		{"hand", "By hand", is(func(l *Listed) bool { return l.Origin == ByHand })},
		{"move", "By a move", is(func(l *Listed) bool { return l.Origin == ByMove })},
		{"older", "From the older site", is(func(l *Listed) bool { return l.Origin == FromOlder })},
		{"exact", "Exact", is(func(l *Listed) bool { return l.Match == Exact })},
		{"prefix", "Prefix", is(func(l *Listed) bool { return l.Match == Prefix })},
		{"branch", "Branch", is(func(l *Listed) bool { return l.Match == Branch })},
		{"host", "For one host name", is(func(l *Listed) bool { _, _, named := address.CutHost(l.From); return named })},
		{"permanent", "Permanent", is(func(l *Listed) bool { return l.Code != Gone && !temporary(l.Code) })},
		{"temporary", "Temporary", is(func(l *Listed) bool { return temporary(l.Code) })},
		{"gone", "Gone", is(func(l *Listed) bool { return l.Code == Gone })},
		{"due", "Review due", func(l *Listed, now Moment) bool { return l.Review != "" && l.Review <= now.Today }},
		{"lost", "Target gone", is(func(l *Listed) bool { return l.Lost })},
		{"unused", "Never used", func(l *Listed, now Moment) bool { return now.Used && l.State != Planned && l.Use.Last == "" }},
		{LongUnused, "Last used before…", func(l *Listed, now Moment) bool { return l.Use.Last != "" && l.Use.Last < now.Since }},
	}
}
