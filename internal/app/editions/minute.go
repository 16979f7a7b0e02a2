package editions

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/review"
	"candlepath/internal/core/workflow"
)

// At its minute what is scheduled goes out as one edition, as far as it may: what may not is put aside with
// all that needs it, until nothing stands in the way of the rest. It goes back to where it stood, its people
// are told why, once, and its date is used up either way.

// lateAfter is from when on an edition says that its minute was missed.
const lateAfter = 2 * time.Minute

// lookAhead is how long before a date its edition is prepared. It is longer than the time between two looks at
// the clock, so that one of them is there when the minute comes.
const lookAhead = 15 * time.Second

// PublishDue publishes what is scheduled and due by the clock of the database, so that instances whose clocks
// differ agree. What is due in a moment is prepared, and waited for.
func (a *Editions) PublishDue(ctx context.Context) error {
	now, next, err := a.clock(ctx)
	if err != nil {
		return err
	}
	if wait := next.Sub(now); wait > 0 && wait <= lookAhead {
		strikes := time.After(wait)
		before, stop := context.WithTimeout(ctx, wait)
		_ = a.prepare(before, next) // what is wrong is told at its minute
		stop()
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-strikes:
		}
		if now, _, err = a.clock(ctx); err != nil {
			return err
		}
	}
	return a.PublishTimed(ctx, now)
}

// clock gives the time of the database, and the earliest date; zero where nothing is scheduled.
func (a *Editions) clock(ctx context.Context) (now, next time.Time, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if now, err = tx.Clock(ctx); err != nil || s.ID == "" {
			return err
		}
		all, err := tx.ApprovalStates(ctx)
		if err != nil {
			return err
		}
		leaving, err := tx.Withdrawals(ctx)
		if err != nil {
			return err
		}
		earlier := func(at time.Time) {
			if next.IsZero() || at.Before(next) {
				next = at
			}
		}
		for _, st := range all {
			if st.State == workflow.Scheduled {
				earlier(st.GoAt)
			}
		}
		for _, w := range leaving {
			earlier(w.GoAt)
		}
		return nil
	})
	return now, next, err
}

// prepare loads all that an edition at a time needs, so that it is cached when the minute comes, and renders what
// is not yet.
func (a *Editions) prepare(ctx context.Context, at time.Time) error {
	var n NextEdition
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		q, err := a.queue(ctx, tx, s)
		if err != nil {
			return err
		}
		goes := change.Set{}
		for _, c := range q.All {
			if state, _ := q.StateOf(c); state == workflow.Scheduled && !q.ApprovalStates[c.Key].GoAt.After(at) {
				goes[c.Key] = true
			}
		}
		n, err = a.workOut(ctx, tx, s, plan.Person{}, Select{exactly: goes})
		return err
	})
	if err != nil {
		return err
	}
	return a.renderAhead(ctx, &n, func(int) {})
}

// PublishTimed publishes what is timed and due at a time, one edition for each minute, the
// earliest first. It does nothing twice, whoever else does it at the same time: each minute is one
// transaction, which uses up all dates of that minute. While a freeze holds nothing goes out; it goes
// once that is over.
func (a *Editions) PublishTimed(ctx context.Context, now time.Time) error {
	var last time.Time
	for {
		var at time.Time
		err := a.Store.Write(ctx, func(tx Tx, s plan.Site) (err error) {
			if s.ID == "" {
				return nil
			}
			at, err = a.publishMinute(ctx, tx, s, now)
			return err
		})
		switch {
		case err != nil || at.IsZero():
			return err
		case at.Equal(last): // never for ever, whatever is wrong
			return fmt.Errorf("the minute %s stays due", at.UTC().Format(time.RFC3339))
		}
		last = at
	}
}

// minute is what is due at one minute.
type minute struct {
	at      time.Time
	zone    string
	due     map[change.Key]review.ApprovalState // as they are noted
	leaving []Withdrawal
	aside   map[change.Key]string // why they do not go out
	stays   []Withdrawal          // pages that stay live, each for its reason in aside
}

// minuteDue gives the earliest minute that has come with something due.
func (a *Editions) minuteDue(ctx context.Context, tx Tx, s plan.Site, now time.Time) (m minute, some bool, err error) {
	all, err := tx.ApprovalStates(ctx)
	if err != nil {
		return m, false, err
	}
	leaving, err := a.dueWithdrawals(ctx, tx, s, now)
	if err != nil {
		return m, false, err
	}
	m.due, m.aside = map[change.Key]review.ApprovalState{}, map[change.Key]string{}
	for _, st := range all {
		if st.State == workflow.Scheduled && !st.GoAt.After(now) && (m.at.IsZero() || st.GoAt.Before(m.at)) {
			m.at, m.zone = st.GoAt, st.Zone
		}
	}
	if len(leaving) > 0 && (m.at.IsZero() || leaving[0].GoAt.Before(m.at)) {
		m.at, m.zone = leaving[0].GoAt, leaving[0].Zone
	}
	for k, st := range all {
		if st.State == workflow.Scheduled && st.GoAt.Equal(m.at) {
			m.due[k] = st
		}
	}
	if len(leaving) > 0 && leaving[0].GoAt.Equal(m.at) {
		m.leaving = leaving
	}
	return m, len(m.due)+len(m.leaving) > 0, nil
}

// publishMinute publishes what may go out of the earliest minute that has come, and gives that minute.
func (a *Editions) publishMinute(ctx context.Context, tx Tx, s plan.Site, now time.Time) (at time.Time, err error) {
	m, some, err := a.minuteDue(ctx, tx, s, now)
	if err != nil || !some {
		return at, err
	}
	freezes, err := tx.Freezes(ctx)
	if err != nil || workflow.Frozen(freezes, now) != nil {
		return at, err
	}
	if s.Work, err = tx.LockDrafts(ctx); err != nil {
		return at, err
	}
	q, err := a.queue(ctx, tx, s)
	if err != nil {
		return at, err
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return at, err
	}
	entries := make([]string, len(m.leaving)) // all of them: those that stay live have used up their date too
	for i, w := range m.leaving {
		entries[i] = w.Entry
	}
	if err := tx.DropWithdrawals(ctx, entries); err != nil {
		return at, err
	}
	goes := m.current(q)
	next, who, err := a.largest(ctx, tx, q, &m, goes, people)
	if err != nil {
		return at, err
	}
	if err := a.useUp(ctx, tx, q, m, next); err != nil {
		return at, err
	}
	if next == nil {
		return m.at, nil
	}
	return m.at, a.releaseMinute(ctx, tx, q, m, *next, who, now)
}

// current gives the changes of the minute that are still as they were when they got it.
func (m *minute) current(q Queue) change.Set {
	goes := change.Set{}
	for _, c := range q.All {
		if _, due := m.due[c.Key]; !due {
			continue
		}
		if state, _ := q.StateOf(c); state == workflow.Scheduled {
			goes[c.Key] = true
		}
	}
	for k := range m.due {
		if !goes[k] {
			m.aside[k] = "it was edited since, or is no longer planned"
		}
	}
	return goes
}

// mostTries is how often what stands in the way is put aside before the rest is left for another time.
const mostTries = 40

// largest works out the largest part of a minute that may go out; nil where nothing may.
func (a *Editions) largest(ctx context.Context, tx Tx, q Queue, m *minute, goes change.Set, people map[string]plan.Person) (*NextEdition, plan.Person, error) {
	for _, c := range q.All { // who publishes is asked for each change, since several may have given dates
		if !goes[c.Key] {
			continue
		}
		if why := m.mayBring(q, c, people); why != "" {
			m.put(goes, c.Key, why)
		}
	}
	m.stay(func(w Withdrawal) string {
		if w.why != "" {
			return w.why
		}
		return w.forbidden(q.Work, people[w.Person])
	})
	for range mostTries {
		if len(goes)+len(m.leaving) == 0 {
			return nil, plan.Person{}, nil
		}
		who := m.publisher(goes, people)
		next, err := a.workOut(ctx, tx, q.Site, who, Select{exactly: goes, leaving: leaving(m.leaving)})
		if err != nil {
			return nil, who, err
		}
		if !m.putAside(q, &next, goes, people) {
			if len(next.Chosen) == 0 {
				return nil, who, nil
			}
			return &next, who, nil
		}
	}
	for k := range goes {
		m.put(goes, k, "the checks found errors")
	}
	m.stay(func(Withdrawal) string { return "the checks found errors" })
	return nil, plan.Person{}, nil
}

// put puts a change of the minute aside.
func (m *minute) put(goes change.Set, k change.Key, why string) {
	delete(goes, k)
	if m.aside[k] == "" {
		m.aside[k] = why
	}
}

// stay keeps those pages live for which there is a reason, and tells whether one of them is new.
func (m *minute) stay(why func(Withdrawal) string) (some bool) {
	m.leaving = slices.DeleteFunc(m.leaving, func(w Withdrawal) bool {
		reason := why(w)
		if reason != "" {
			m.aside[change.Key{ID: w.Entry, Aspect: change.Withdrawn}], some = reason, true
			m.stays = append(m.stays, w)
		}
		return reason != ""
	})
	return some
}

// mayBring tells why who gave a change its date may not publish it; empty: they may.
func (m *minute) mayBring(q Queue, c change.Change, people map[string]plan.Person) string {
	who := people[m.due[c.Key].Publisher()]
	if q.Waits(c) {
		return "it needs approval that it does not have"
	}
	if who.Inactive {
		return "the person who scheduled it has left"
	}
	return string(q.brings(who, c))
}

// brings tells why a person may not bring a change out by giving it a date; empty: they may.
func (q Queue) brings(who plan.Person, c change.Change) workflow.Refusal {
	from, step := workflow.Ready, workflow.Schedule
	if _, approved := q.ApprovedBy(c.Key); !approved {
		from, step = workflow.Draft, workflow.ScheduleDraft
	}
	_, why := q.Site.Rights().Take(from, step, q.ActorOf(who, c))
	return why
}

// publisher is who publishes the edition: who gave the first of its changes its date.
func (m *minute) publisher(goes change.Set, people map[string]plan.Person) plan.Person {
	keys := slices.SortedFunc(maps.Keys(goes), func(x, y change.Key) int { return strings.Compare(x.ID+string(x.Aspect), y.ID+string(y.Aspect)) })
	if len(keys) > 0 {
		return people[m.due[keys[0]].Publisher()]
	}
	return people[m.leaving[0].Person]
}

// putAside puts aside what may not go out of an edition, and tells whether something was: changes that need
// others which are not on their way out, or which whoever gave the date may not bring out, and those on which the
// checks found errors.
func (m *minute) putAside(q Queue, next *NextEdition, goes change.Set, people map[string]plan.Person) bool {
	some := false
	put := func(k change.Key, why string) {
		if goes[k] {
			m.put(goes, k, why)
			some = true
		}
	}
	for _, c := range next.All {
		if _, leaves := next.Leaves(c.Key); leaves || !next.Chosen[c.Key] || goes[c.Key] {
			continue
		}
		comes, title := m.comesAlong(next, c), next.Trees.Title(c.ID)
		for k := range change.WithNeeding(next.Dependencies, c.Key) {
			if !comes {
				put(k, fmt.Sprintf("it needs “%s”, which is not approved or is scheduled for later", title))
			} else if goes[k] && q.brings(people[m.due[k].Publisher()], c) != "" {
				put(k, fmt.Sprintf("it needs “%s”, which includes the work of the person who scheduled it and was approved by nobody else", title))
			}
		}
	}
	if some {
		return true
	}
	for _, f := range next.Findings {
		if f.Severity != check.Error {
			continue
		}
		for k := range change.Faulty(next.Chosen, next.Dependencies, faults([]check.Finding{f})) {
			put(k, f.Message)
			some = m.stay(func(w Withdrawal) string {
				if k == (change.Key{ID: w.Entry, Aspect: change.Withdrawn}) {
					return f.Message
				}
				return ""
			}) || some
		}
	}
	if errs, _ := check.Count(next.Findings); some || errs == 0 {
		return some
	}
	why := firstError(next.Findings) // which is about none of them alone: the later half waits
	keys := slices.SortedFunc(maps.Keys(goes), func(x, y change.Key) int { return strings.Compare(x.ID+string(x.Aspect), y.ID+string(y.Aspect)) })
	for _, k := range keys[len(keys)/2:] {
		m.put(goes, k, why)
	}
	if len(keys) == 0 {
		m.stay(func(Withdrawal) string { return why })
	}
	return true
}

// comesAlong tells whether a change that others of the minute need may go out with them: it is approved where that
// is asked, or its own date has come.
func (m *minute) comesAlong(next *NextEdition, c change.Change) bool {
	state, _ := next.StateOf(c)
	due := state == workflow.Scheduled && !next.ApprovalStates[c.Key].GoAt.After(m.at)
	return !next.Waits(c) && (state == workflow.Ready || due)
}

func firstError(found []check.Finding) string {
	for _, f := range found {
		if f.Severity == check.Error {
			return f.Message
		}
	}
	return "the checks found errors"
}

// useUp takes the date from what does not go out: it is where it stood before it got one, or a draft where
// it was edited since. What is not planned any more stands nowhere.
func (a *Editions) useUp(ctx context.Context, tx Tx, q Queue, m minute, next *NextEdition) error {
	put, planned := map[change.Key]review.ApprovalState{}, map[change.Key]change.Change{}
	for _, c := range q.All {
		planned[c.Key] = c
	}
	for k := range m.aside {
		st, timed := m.due[k]
		if !timed || next != nil && next.Chosen[k] {
			continue
		}
		st.State, st.GoAt, st.Zone, st.By, st.At = workflow.Ready, time.Time{}, "", "", a.Now()
		c, there := planned[k]
		if !there || !st.Approved || st.Stamp != q.Stamp(c) {
			st.State = workflow.Draft
		}
		put[k] = st
	}
	if len(put) > 0 {
		if err := tx.PutStandings(ctx, put); err != nil {
			return err
		}
	}
	return tx.Notify(ctx, a.asideNotices(q, m, put))
}

// asideNotices tell the people of what does not go out why, each thing once.
func (a *Editions) asideNotices(q Queue, m minute, put map[change.Key]review.ApprovalState) (out []plan.Notice) {
	when := fmt.Sprintf("%s (%s)", m.at.In(zoneOf(m.zone)).Format("2 January 2006, 15:04"), m.zone)
	whys, to := map[string]string{}, map[string][]string{}
	for k := range put {
		st := m.due[k]
		whys[k.ID] = m.aside[k]
		to[k.ID] = append(to[k.ID], append(q.AuthorsOf(k), st.Person, st.By, q.Requests[st.Review].From)...)
	}
	tell := func(id, subject, what, why string, people []string) {
		words := fmt.Sprintf("“%s”, "+what+": %s.", q.Trees.Title(id), when, strings.TrimSuffix(why, "."))
		slices.Sort(people)
		for _, p := range slices.Compact(people) {
			if p != "" {
				out = append(out, plan.Notice{PersonID: p, Kind: plan.NoticeReviewed, Subject: m.at.UTC().Format(time.RFC3339) + subject + id, At: a.Now(), Words: words})
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(whys)) {
		tell(id, " aside ", "scheduled for %s, was not published", whys[id], to[id])
	}
	for _, w := range m.stays {
		tell(w.Entry, " stays ", "to be withdrawn on %s, stays live", m.aside[change.Key{ID: w.Entry, Aspect: change.Withdrawn}], []string{w.Person})
	}
	return out
}

// releaseMinute publishes what may go out, and tells its people.
func (a *Editions) releaseMinute(ctx context.Context, tx Tx, q Queue, m minute, next NextEdition, who plan.Person, now time.Time) error {
	why := fmt.Sprintf("Scheduled for %s (%s)", m.at.In(zoneOf(m.zone)).Format("2 January 2006, 15:04"), m.zone)
	if late := now.Sub(m.at); late > lateAfter {
		why += fmt.Sprintf("; published %s late, because Candle Path was not running or publishing was frozen", late.Round(time.Minute))
	}
	if _, err := a.release(ctx, tx, next.judge(who, workflow.ByDate, now), plan.Edition{
		Number: next.Site.Edition + 1, At: now, PersonID: who.ID, Why: why, ActKey: plan.NewID(),
	}, nil); err != nil {
		return err
	}
	a.Counts.Editions.Add(1)
	return tx.Notify(ctx, q.timedNotices(now, next.Chosen, m, who, why+". Now live:"))
}

// timedNotices tell who approved changes, who made and who sent them, what became of them.
func (q Queue) timedNotices(now time.Time, out change.Set, m minute, who plan.Person, words string) (list []plan.Notice) {
	to, titles := []string{who.ID}, []string(nil)
	for _, i := range q.Items {
		if out[i.Changes[0].Key] {
			to, titles = append(append(to, q.Makers(i)...), q.Request(i).From), append(titles, q.Trees.Title(i.ID))
		}
	}
	for _, w := range m.leaving {
		to, titles = append(to, w.Person), append(titles, q.Trees.Title(w.Entry))
	}
	slices.Sort(to)
	for _, p := range slices.Compact(to) {
		if p != "" {
			list = append(list, plan.Notice{PersonID: p, Kind: plan.NoticeReviewed, Subject: m.at.UTC().Format(time.RFC3339) + " " + strings.Join(titles, " "), At: now, Words: words + " " + listed(titles) + "."})
		}
	}
	return list
}
