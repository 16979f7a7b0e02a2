package editions

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// scheduleView is a calendar of what goes out and what is withdrawn.
type scheduleView struct {
	shell.Frame
	Self, Title                      string
	By, Day, Zone                    string
	Earlier, Later, Today, Week, Mon string
	ByMonth                          bool
	Days                             []scheduleDay
	Names                            []string
	List                             []scheduled
	Freezes                          []freezeView
	Zones                            []string
	Move, Withdraw, Freeze, End      string
	TimeURL, FindURL                 string
	Page, PageID                     string // that somebody wants to withdraw
	Said, Problem                    string
	May, MayFreeze, Guess            bool
}

type scheduleDay struct {
	Date, Words, Says string
	Today, Past, Out  bool // out of the month
	Frozen            string
	Minutes           []scheduleMinute
}

// scheduleMinute is what goes out at a minute, as one edition; many things are folded.
type scheduleMinute struct {
	Clock, Date, Words string
	Folded             bool
	Items              []scheduled
}

// fewAtOnce is how many things of a minute a calendar shows unfolded.
const fewAtOnce = 3

// scheduled is what happens at a minute to one thing.
type scheduled struct {
	ID, Stamp, Title, URL string
	At                    time.Time
	Clock, Date, Zone     string
	Words                 string // what happens
	When                  string // in its own zone
	By                    string
	Leaves                bool // it is withdrawn
	Late                  bool
}

type freezeView struct {
	ID, Words, Why, By string
	Holds              bool
}

func (s *Screens) schedule(r *shell.Request) error {
	return s.schedulePage(r, http.StatusOK, r.Query("said"), "")
}

func (s *Screens) schedulePage(r *shell.Request, status int, said, problem string) error {
	f, _, err := s.FrameFor(r, "Schedule")
	if err != nil {
		return err
	}
	c, err := s.App.Calendar(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	ask := func(name string) string { return part.OrElse(r.Query(name), r.PostForm(name)) }
	v := newSchedule(c, people, s.App.Now(), ask("by"), ask("day"), part.OrElse(ask("zone"), r.PostForm("in")))
	v.Frame, v.Said, v.Problem = f, said, problem
	rights := c.Site.Rights()
	v.May, v.MayFreeze = rights.May(r.Who.Role, workflow.Publish), rights.May(r.Who.Role, workflow.Govern)
	if id := ask("withdraw"); id != "" {
		v.Page, v.PageID = c.Trees.Title(id), id
	}
	return s.Show(r, status, "schedule", v)
}

// newSchedule builds the calendar of the week or month of a day, as clocks of a zone show it.
func newSchedule(c editions.Calendar, people []plan.Person, now time.Time, by, day, zone string) (v scheduleView) {
	v = scheduleView{
		Self: urls.Schedule, Zone: zone, Guess: zone == "", Zones: zones, Move: urls.Retime, Withdraw: urls.WithdrawAt, Freeze: urls.Freeze, End: urls.EndFreeze,
		TimeURL: urls.ReviewAt("ready", "", "", "", ""), FindURL: urls.Find, Names: []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"},
	}
	in, err := time.LoadLocation(part.OrElse(zone, "UTC"))
	if err != nil {
		in = time.UTC
	}
	v.Zone, v.ByMonth, v.By = in.String(), by == "month", part.OrElse(by, "week")
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		at = now.In(in)
	}
	v.Day = at.Format(time.DateOnly)
	v.list(c, people, now, in)
	v.freezes(c, people, now, in)
	v.days(c, at, now, in)
	v.ways(at, now.In(in))
	return v
}

// list gathers what is scheduled, the earliest first.
func (v *scheduleView) list(c editions.Calendar, people []plan.Person, now time.Time, in *time.Location) {
	for _, i := range c.Timed() {
		s := c.GoAt(i)
		v.List = append(v.List, scheduled{
			ID: i.ID, Stamp: i.Stamp, Title: c.Trees.Title(i.ID), URL: urls.ReviewAt("scheduled", i.ID, "", "", ""), At: s.GoAt, Words: "is published",
			When: clockIn(s.GoAt, s.Zone), By: part.PersonName(people, s.Person),
		})
	}
	for _, w := range c.Withdrawals {
		to := w.To
		if at := c.Trees.Live.Find(w.To); at != sitemap.None {
			to = "“" + c.Trees.Live.Ref(at).Title + "”"
		}
		v.List = append(v.List, scheduled{
			ID: w.Entry, Title: c.Trees.Title(w.Entry), URL: urls.Page(w.Entry), At: w.GoAt, Leaves: true, When: clockIn(w.GoAt, w.Zone), By: part.PersonName(people, w.Person),
			Words: map[bool]string{true: "is withdrawn and marked as gone", false: "is withdrawn; visitors go to " + to}[w.To == "gone"],
		})
	}
	slices.SortStableFunc(v.List, func(a, b scheduled) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(strings.ToLower(a.Title), strings.ToLower(b.Title)))
	})
	for i := range v.List {
		s := &v.List[i]
		local := s.At.In(in)
		s.Clock, s.Date, s.Zone, s.Late = local.Format("15:04"), local.Format(time.DateOnly), in.String(), !s.At.After(now)
	}
}

func (v *scheduleView) freezes(c editions.Calendar, people []plan.Person, now time.Time, in *time.Location) {
	for _, f := range c.Freezes {
		if !f.Ends.After(now) {
			continue
		}
		const form = "2 January 2006, 15:04"
		v.Freezes = append(v.Freezes, freezeView{
			ID: f.ID, Why: f.Why, By: part.PersonName(people, f.Person), Holds: f.Holds(now),
			Words: fmt.Sprintf("%s to %s (%s)", f.Begins.In(in).Format(form), f.Ends.In(in).Format(form), in),
		})
	}
}

// days puts what is scheduled into the days of the calendar.
func (v *scheduleView) days(c editions.Calendar, at, now time.Time, in *time.Location) {
	today := now.In(in).Format(time.DateOnly)
	for _, d := range workflow.Days(at, v.ByMonth) {
		y, m, n := d.Date()
		begins, ends := time.Date(y, m, n, 0, 0, 0, 0, in), time.Date(y, m, n+1, 0, 0, 0, 0, in)
		day := scheduleDay{Date: d.Format(time.DateOnly), Words: d.Format("2 Jan"), Says: d.Format("Monday 2 January 2006"), Out: v.ByMonth && m != at.Month()}
		if !v.ByMonth {
			day.Words = d.Format("Mon 2 Jan")
		}
		day.Today, day.Past = day.Date == today, day.Date < today
		for _, f := range c.Freezes {
			if f.Touches(begins, ends) {
				day.Frozen = f.Why
			}
		}
		day.Minutes = minutesOf(v.List, day.Date)
		v.Days = append(v.Days, day)
	}
}

// minutesOf gathers by minute what happens on a day, from a list in the order of time.
func minutesOf(list []scheduled, date string) (out []scheduleMinute) {
	for _, s := range list {
		if s.Date != date {
			continue
		}
		if n := len(out); n == 0 || out[n-1].Clock != s.Clock {
			out = append(out, scheduleMinute{Clock: s.Clock, Date: date})
		}
		m := &out[len(out)-1]
		m.Items = append(m.Items, s)
		m.Words, m.Folded = part.Count(len(m.Items), "change", "changes"), len(m.Items) > fewAtOnce
	}
	return out
}

// ways are the links to other weeks and months.
func (v *scheduleView) ways(at, today time.Time) {
	before, after := at.AddDate(0, 0, -7), at.AddDate(0, 0, 7)
	first, last := workflow.Days(at, false)[0], workflow.Days(at, false)[6]
	v.Title = "Week of " + first.Format("2 January") + " to " + last.Format("2 January 2006")
	if v.ByMonth {
		first := time.Date(at.Year(), at.Month(), 1, 0, 0, 0, 0, time.UTC)
		before, after, v.Title = first.AddDate(0, -1, 0), first.AddDate(0, 1, 0), at.Format("January 2006")
	}
	to := func(by string, day time.Time) string {
		return urls.ScheduleAt(by, day.Format(time.DateOnly), v.Zone, "", "")
	}
	v.Earlier, v.Later, v.Today, v.Week, v.Mon = to(v.By, before), to(v.By, after), to(v.By, today), to("week", at), to("month", at)
}

// rescheduled shows the calendar again with what was done, or with why it was not.
func (s *Screens) rescheduled(r *shell.Request, err error, said func() string) error {
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.schedulePage(r, http.StatusUnprocessableEntity, "", invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.ScheduleAt(r.PostForm("by"), r.PostForm("day"), part.OrElse(r.PostForm("in"), r.PostForm("zone")), "", said()))
	return nil
}

// retime gives what is scheduled another minute, or none.
func (s *Screens) retime(r *shell.Request) error {
	ask := editions.TimeAsk{
		List: judgedList(r, r.PostFormArray("id")), Leaving: r.PostFormArray("leaves"), At: part.OrElse(r.PostForm("at"), r.PostForm("on")+"T"+r.PostForm("clock")), Zone: r.PostForm("zone"), Which: r.PostForm("which-of-two"),
	}
	switch {
	case r.PostForm("do") != "lift":
		at, n, err := s.App.Retime(r.Ctx(), r.Who, ask)
		return s.rescheduled(r, err, func() string { return part.Count(n, "change", "changes") + " moved to " + clockIn(at, ask.Zone) + "." })
	case len(ask.Leaving) > 0:
		err := s.App.KeepLive(r.Ctx(), r.Who, ask.Leaving[0])
		return s.rescheduled(r, err, func() string { return "The page stays live." })
	}
	_, err := s.App.LiftChanges(r.Ctx(), r.Who, ask.List)
	return s.rescheduled(r, err, func() string { return "Unscheduled. It stays approved." })
}

func (s *Screens) withdrawAt(r *shell.Request) error {
	ask := editions.WithdrawAsk{Entry: r.PostForm("page-id"), To: part.OrElse(r.PostForm("to-id"), r.PostForm("to")), Says: r.PostForm("says"), At: r.PostForm("at"), Zone: r.PostForm("zone"), Which: r.PostForm("which-of-two")}
	if r.PostForm("gone") != "" {
		ask.To = "gone"
	}
	at, err := s.App.WithdrawAt(r.Ctx(), r.Who, ask)
	return s.rescheduled(r, err, func() string { return "The page will be withdrawn at " + clockIn(at, ask.Zone) + "." })
}

func (s *Screens) freeze(r *shell.Request) error {
	minute := func(name string) editions.TimeAsk {
		return editions.TimeAsk{At: r.PostForm(name), Zone: r.PostForm("zone"), Which: "first"}
	}
	err := s.App.Freeze(r.Ctx(), r.Who, minute("from"), minute("until"), r.PostForm("why"))
	return s.rescheduled(r, err, func() string { return "Freeze added. Nobody can publish during it." })
}

func (s *Screens) endFreeze(r *shell.Request) error {
	err := s.App.EndFreeze(r.Ctx(), r.Who, r.PostForm("id"))
	return s.rescheduled(r, err, func() string { return "Freeze ended." })
}
