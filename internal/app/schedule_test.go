package app_test

import (
	"context"
	"sync"
	"testing"
	"time"
	_ "time/tzdata" // the zones of this machine may be none

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/workflow"
)

// approved has things sent by ines and approved by anselm.
func (d *desk) approved(ids ...string) {
	d.t.Helper()
	require.NoError(d.t, d.send("ines", editions.SendAsk{IDs: ids, To: d.people["anselm"].ID}))
	require.NoError(d.t, d.judge("anselm", workflow.Approve, "", ids...))
}

func (d *desk) looked(state workflow.State, ids ...string) (list []editions.Judged) {
	d.t.Helper()
	q := d.queue("anselm")
	for _, id := range ids {
		item, _ := q.Find(id, state)
		list = append(list, editions.Judged{ID: id, Stamp: item.Stamp})
	}
	return list
}

func (d *desk) time(at string, ids ...string) error {
	d.t.Helper()
	_, err := d.TimeChanges(d.t.Context(), d.people["anselm"], editions.TimeAsk{List: d.looked(workflow.Ready, ids...), At: at, Zone: "Europe/London"})
	return err
}

// edition gives the number of the live edition, and why it was published.
func (d *desk) edition() (int, string) {
	d.t.Helper()
	eds, _, err := d.PastEditions(d.t.Context(), d.people["marta"])
	require.NoError(d.t, err)
	return eds[0].Number, eds[0].Why
}

// Approved changes go out at their minute, those of one minute as one edition, once, whoever
// looks at the clock; before it nothing goes.
func TestTimedChanges(t *testing.T) {
	d := newDesk(t)
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On})
	ponds, compost, hours := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/visitors/opening-hours")
	d.write("ines", ponds, "Two metres deep.")
	d.write("ines", hours, "Nine to five.")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost heaps"})
	require.Error(t, d.time("2026-11-26T09:00", ponds), "it is not approved")
	d.approved(ponds, compost, hours)
	for _, c := range [][3]string{
		{"2026-11-25T08:59", "Europe/London", "has passed"},
		{"2027-03-28T01:30", "Europe/London", "does not exist"},
		{"2027-10-31T01:30", "Europe/London", "earlier or later"},
		{"tomorrow", "Europe/London", "Choose a date"},
		{"2026-11-26T09:00", "Quillmere", "not a time zone"},
	} {
		_, err := d.TimeChanges(t.Context(), d.people["anselm"], editions.TimeAsk{List: d.looked(workflow.Ready, ponds), At: c[0], Zone: c[1]})
		require.ErrorContains(t, err, c[2])
	}
	_, err := d.TimeChanges(t.Context(), d.people["ines"], editions.TimeAsk{List: d.looked(workflow.Ready, ponds), At: "2026-11-26T09:00", Zone: "Europe/London"})
	require.ErrorContains(t, err, "can publish")
	require.NoError(t, d.time("2026-11-26T09:00", ponds, compost))
	require.NoError(t, d.time("2026-11-26T10:00", hours))
	before, _ := d.edition()
	d.now = time.Date(2026, 11, 26, 8, 59, 59, 0, time.UTC)
	require.NoError(t, d.PublishTimed(t.Context(), d.now))
	number, _ := d.edition()
	require.Equal(t, before, number, "its minute has not come")

	d.now = time.Date(2026, 11, 26, 9, 0, 4, 0, time.UTC)
	var all sync.WaitGroup
	for range 4 { // as instances do
		all.Go(func() { _ = d.PublishTimed(t.Context(), d.now) })
	}
	all.Wait()
	require.NoError(t, d.PublishTimed(t.Context(), d.now))
	number, why := d.edition()
	require.Equal(t, before+1, number)
	require.Equal(t, "Scheduled for 26 November 2026, 09:00 (Europe/London)", why)
	require.Equal(t, map[string]workflow.State{"Opening hours": workflow.Scheduled}, d.states())
	require.Contains(t, d.inbox("ines")[0], `Now live: "Compost heaps", "Ponds".`)
	require.Equal(t, "Two metres deep.", d.liveText(ponds))

	t.Log("a minute is taken away")
	_, err = d.LiftChanges(t.Context(), d.people["anselm"], d.looked(workflow.Scheduled, hours))
	require.NoError(t, err)
	require.Equal(t, workflow.Ready, d.states()["Opening hours"])
	d.now = time.Date(2026, 11, 26, 10, 30, 0, 0, time.UTC)
	require.NoError(t, d.PublishTimed(t.Context(), d.now))
	last, _ := d.edition()
	require.Equal(t, number, last)
}

// After an outage what was missed goes out, minute by minute, and says so. What was edited since
// does not go, and what the checks stop stays approved, with its people told.
func TestMissedMinutes(t *testing.T) {
	d := newDesk(t)
	ponds, compost, hours := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/visitors/opening-hours")
	d.write("ines", ponds, "Two metres deep.")
	d.write("ines", hours, "Nine to five.")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost heaps"})
	d.approved(ponds, compost, hours)
	require.NoError(t, d.time("2026-11-26T09:00", ponds))
	require.NoError(t, d.time("2026-11-26T09:30", compost))
	require.NoError(t, d.time("2026-11-26T09:15", hours))
	d.write("ines", hours, "Ten to five.")
	before, _ := d.edition()
	d.now = time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)
	require.NoError(t, d.PublishTimed(t.Context(), d.now))
	number, why := d.edition()
	require.Equal(t, before+2, number, "two minutes had something; what was edited was a draft")
	require.Contains(t, why, "09:30 (Europe/London); published 23h30m0s late")
	require.Equal(t, map[string]workflow.State{"Opening hours": workflow.Draft}, d.states())

	t.Log("the page above it is gone at its minute")
	d.act("ines", appsitemap.PlanAct{Do: "add", Parent: d.id("/visitors"), Value: "Tea"})
	q := d.queue("ines")
	var tea string
	for _, i := range q.Items {
		if q.Trees.Title(i.ID) == "Tea" {
			tea = i.ID
		}
	}
	d.approved(tea)
	require.NoError(t, d.time("2026-11-27T10:00", tea))
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: tea, Field: "slug", Value: "search"})
	d.act("marta", appsitemap.PlanAct{Do: "move", ID: tea})
	require.Equal(t, workflow.Draft, d.states()["Tea"], "it was edited")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{tea}}))
	require.NoError(t, d.judge("anselm", workflow.Approve, "", tea))
	require.NoError(t, d.time("2026-11-27T10:00", tea))
	d.now = time.Date(2026, 11, 27, 10, 0, 1, 0, time.UTC)
	require.NoError(t, d.PublishTimed(t.Context(), d.now))
	last, _ := d.edition()
	require.Equal(t, number, last)
	require.Equal(t, workflow.Ready, d.states()["Tea"])
	require.Contains(t, d.inbox("ines")[0], "“Tea”, scheduled for 27 November 2026, 10:00 (Europe/London), was not published")
	require.NoError(t, d.PublishTimed(t.Context(), d.now), "it is not tried again and again")
}

// A live page is withdrawn at its minute, its visitors go where was said until it returns, and its
// draft stays; what goes out at the same minute goes with it.
func TestWithdrawalsAtAMinute(t *testing.T) {
	d := newDesk(t)
	ctx, marta, anselm := t.Context(), d.people["marta"], d.people["anselm"]
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	ask := editions.WithdrawAsk{Entry: ponds, At: "2026-12-01T09:00", Zone: "Europe/London", To: compost}
	d.now = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	_, err := d.WithdrawAt(ctx, d.people["ines"], ask)
	require.ErrorIs(t, err, plan.ErrForbidden)
	for _, wrong := range []editions.WithdrawAsk{
		{Entry: "nothing", At: ask.At, Zone: ask.Zone},
		{Entry: ponds, At: "2026-11-30T11:00", Zone: ask.Zone},
		{Entry: ponds, At: ask.At, Zone: "Quillmere"},
		{Entry: ponds, At: ask.At, Zone: ask.Zone, To: "javascript:alert(1)"},
	} {
		_, err := d.WithdrawAt(ctx, anselm, wrong)
		var invalid *plan.Invalid
		require.ErrorAs(t, err, &invalid, "%+v", wrong)
	}
	_, err = d.WithdrawAt(ctx, anselm, ask)
	require.ErrorContains(t, err, "Someone else must approve this", "it is their own work")
	d.asksFor(setting.Values{setting.OwnWork: setting.On})
	_, err = d.WithdrawAt(ctx, anselm, ask)
	require.NoError(t, err)
	d.write("ines", compost, "Turned on Mondays.")
	d.approved(compost)
	require.NoError(t, d.time("2026-12-01T09:00", compost))
	d.write("ines", ponds, "A draft that stays.")

	require.NoError(t, d.PublishTimed(ctx, d.now))
	require.Equal(t, "page", d.answers("/grounds/ponds")[0])
	d.now = time.Date(2026, 12, 1, 9, 0, 20, 0, time.UTC)
	before, _ := d.edition()
	require.NoError(t, d.PublishTimed(ctx, d.now))
	after, why := d.edition()
	require.Equal(t, before+1, after, "both went as one edition")
	require.Contains(t, why, "Scheduled for 1 December 2026, 09:00")
	require.Equal(t, [2]string{"/grounds/compost", "/grounds/compost"}, d.answers("/grounds/ponds"))
	require.Equal(t, 302, d.live().Table.Resolve("/grounds/ponds").Code, "it may return")
	require.Contains(t, d.body(compost), "Turned on Mondays")
	require.Contains(t, d.inbox("anselm")[0], "Now live")
	require.NoError(t, d.PublishTimed(ctx, d.now))
	again, _ := d.edition()
	require.Equal(t, after, again)

	d.act("marta", appsitemap.PlanAct{Do: "return", ID: ponds})
	d.publish("marta", "It is back")
	require.Equal(t, "page", d.answers("/grounds/ponds")[0])
	require.Contains(t, d.body(ponds), "A draft that stays.")

	// A page that went by itself meanwhile has no minute any more; nor has one that is kept.
	_, err = d.WithdrawAt(ctx, marta, editions.WithdrawAsk{Entry: ponds, At: "2026-12-02T09:00", Zone: "UTC", To: "gone", Says: "Drained"})
	require.NoError(t, err)
	require.ErrorIs(t, d.KeepLive(ctx, d.people["ines"], ponds), plan.ErrForbidden)
	require.NoError(t, d.KeepLive(ctx, marta, ponds))
	d.now = time.Date(2026, 12, 2, 9, 1, 0, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	require.Equal(t, "page", d.answers("/grounds/ponds")[0])
}

// While a freeze holds nobody publishes, nothing is scheduled into it, and what was scheduled waits for
// its end.
func TestFreezesHoldEditionsBack(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	compost := d.id("/grounds/compost")
	d.now = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	d.write("ines", compost, "Turned on Mondays.")
	d.approved(compost)
	require.NoError(t, d.time("2026-12-01T09:00", compost))
	minute := func(at string) editions.TimeAsk { return editions.TimeAsk{At: at, Zone: "UTC"} }
	require.ErrorIs(t, d.Freeze(ctx, d.people["anselm"], minute("2026-12-01T08:00"), minute("2026-12-01T17:00"), "Open day"), plan.ErrForbidden)
	require.ErrorContains(t, d.Freeze(ctx, marta, minute("2026-12-01T08:00"), minute("2026-12-01T08:00"), "Open day"), "after the start")
	require.ErrorContains(t, d.Freeze(ctx, marta, minute("2026-12-01T08:00"), minute("2026-12-01T17:00"), " "), "Enter a reason")
	require.NoError(t, d.Freeze(ctx, marta, minute("2026-12-01T08:00"), minute("2026-12-01T17:00"), "Open day"))
	before, _ := d.edition()

	d.now = time.Date(2026, 12, 1, 9, 0, 10, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	d.write("ines", d.id("/grounds"), "Something else.")
	_, err := d.tryPublish("marta", "Now")
	require.ErrorContains(t, err, "Publishing is frozen until 1 December 2026, 17:00 UTC (Open day)")
	_, err = d.WithdrawAt(ctx, marta, editions.WithdrawAsk{Entry: compost, At: "2026-12-01T16:59", Zone: "UTC"})
	require.ErrorContains(t, err, "Open day")
	still, _ := d.edition()
	require.Equal(t, before, still)

	d.now = time.Date(2026, 12, 1, 17, 0, 0, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	after, why := d.edition()
	require.Equal(t, before+1, after)
	require.Contains(t, why, "8h0m0s late")
}

// The clock of the database decides, so an instance whose own clock is ahead publishes nothing early.
func TestClocksThatDiffer(t *testing.T) {
	d := newDesk(t)
	compost := d.id("/grounds/compost")
	d.now = time.Date(2126, 12, 1, 8, 0, 0, 0, time.UTC)
	d.write("ines", compost, "Turned on Mondays.")
	d.approved(compost)
	require.NoError(t, d.time("2126-12-01T09:00", compost))
	before, _ := d.edition()
	d.now = time.Date(2126, 12, 1, 9, 1, 0, 0, time.UTC)
	require.NoError(t, d.PublishDue(t.Context()))
	still, _ := d.edition()
	require.Equal(t, before, still)
	_, err := d.pool.Exec(t.Context(), `UPDATE change_states SET go_at = now() - interval '1 second' WHERE go_at IS NOT NULL`)
	require.NoError(t, err)
	d.now = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC) // far behind
	require.NoError(t, d.PublishDue(t.Context()))
	after, _ := d.edition()
	require.Equal(t, before+1, after)
}

// What is due in a moment is waited for: it is rendered before its minute and published at it, not at the next look
// at the clock.
func TestAMinuteIsWaitedFor(t *testing.T) {
	d := newDesk(t)
	compost := d.id("/grounds/compost")
	d.write("ines", compost, "Turned on Mondays.")
	require.Empty(t, d.draftTemplate("marta", "procedure", func(t *content.Template) { t.Parts[0].Content[0].Text = "Wear gloves." }))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	changed := []string{compost, shape.TemplateID("procedure")}
	d.approved(changed...)
	require.NoError(t, d.time("2126-12-01T09:00", changed...))
	before, _ := d.edition()
	_, err = d.pool.Exec(t.Context(), `UPDATE change_states SET go_at = now() + interval '2 seconds' WHERE go_at IS NOT NULL`)
	require.NoError(t, err)
	gone, stop := context.WithTimeout(t.Context(), 500*time.Millisecond)
	defer stop()
	require.Error(t, d.PublishDue(gone), "an instance that ends does not publish")
	still, _ := d.edition()
	require.Equal(t, before, still)
	require.Len(t, d.ahead(), 1, "the page of that template")
	require.NoError(t, d.PublishDue(t.Context()))
	after, _ := d.edition()
	require.Equal(t, before+1, after)
	require.Equal(t, "Turned on Mondays.", d.liveText(compost))
	require.Contains(t, d.body(compost), "Wear gloves.")
	require.Empty(t, d.ahead())
}

// What is scheduled and what is withdrawn at one minute gets another one together, or not at all.
func TestAMinuteIsMovedWhole(t *testing.T) {
	d := newDesk(t)
	ctx, marta, compost, ponds := t.Context(), d.people["marta"], d.id("/grounds/compost"), d.id("/grounds/ponds")
	d.now = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	d.write("ines", compost, "Turned on Mondays.")
	d.approved(compost)
	nine := time.Date(2026, 12, 1, 9, 0, 0, 0, time.UTC)
	_, err := d.TimeChanges(ctx, marta, editions.TimeAsk{List: d.looked(workflow.Ready, compost), At: "2026-12-01T09:00", Zone: "UTC"})
	require.NoError(t, err)
	_, err = d.WithdrawAt(ctx, marta, editions.WithdrawAsk{Entry: ponds, At: "2026-12-01T09:00", Zone: "UTC", To: "gone", Says: "Drained"})
	require.NoError(t, err)
	stands := func() (out []time.Time) {
		c, err := d.Calendar(ctx, marta)
		require.NoError(t, err)
		require.Equal(t, []string{"gone", "Drained"}, []string{c.Withdrawals[0].To, c.Withdrawals[0].Says})
		return []time.Time{c.GoAt(c.Timed()[0]).GoAt.UTC(), c.Withdrawals[0].GoAt.UTC()}
	}
	ask := editions.TimeAsk{List: d.looked(workflow.Scheduled, compost), Leaving: []string{ponds, d.id("/visitors")}, At: "2026-12-01T10:00", Zone: "UTC"}
	_, _, err = d.Retime(ctx, marta, ask)
	require.ErrorContains(t, err, "no longer scheduled", "one of them has no minute")
	require.Equal(t, []time.Time{nine, nine}, stands())
	ask.Leaving = []string{ponds}
	_, _, err = d.Retime(ctx, d.people["ines"], ask)
	require.Error(t, err, "an editor does not publish")
	ask.List[0].Stamp = "0"
	_, _, err = d.Retime(ctx, marta, ask)
	require.Error(t, err, "one of them changed since")
	require.Equal(t, []time.Time{nine, nine}, stands())
	ask.List = d.looked(workflow.Scheduled, compost)
	_, n, err := d.Retime(ctx, marta, ask)
	require.NoError(t, err)
	require.Equal(t, 2, n)
	require.Equal(t, []time.Time{nine.Add(time.Hour), nine.Add(time.Hour)}, stands())
}

// Who gave a change its minute publishes it; who approved it is told with it. Another minute is
// another step of the same person.
func TestWhoTimedPublishes(t *testing.T) {
	d := newDesk(t)
	ctx, marta, compost := t.Context(), d.people["marta"], d.id("/grounds/compost")
	d.now = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	d.write("ines", compost, "Turned on Mondays.")
	d.approved(compost)
	_, err := d.TimeChanges(ctx, marta, editions.TimeAsk{List: d.looked(workflow.Ready, compost), At: "2026-12-01T09:00", Zone: "UTC"})
	require.NoError(t, err)
	_, _, err = d.Retime(ctx, d.people["ines"], editions.TimeAsk{List: d.looked(workflow.Scheduled, compost), At: "2026-12-01T10:00", Zone: "UTC"})
	require.Error(t, err, "an editor does not publish")
	at, n, err := d.Retime(ctx, marta, editions.TimeAsk{List: d.looked(workflow.Scheduled, compost), At: "2026-12-01T10:00", Zone: "UTC"})
	require.NoError(t, err)
	require.Equal(t, 1, n)
	d.now = time.Date(2026, 12, 1, 9, 30, 0, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	before, _ := d.edition()
	d.now = at.Add(time.Second)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	eds, _, err := d.PastEditions(ctx, marta)
	require.NoError(t, err)
	require.Equal(t, before+1, eds[0].Number)
	require.Equal(t, marta.ID, eds[0].PersonID)
	require.Equal(t, d.people["anselm"].ID, eds[0].Changes[0].ApprovedBy)
}

// Where approval is asked, who may give it gives it with the date; where somebody else has to, there is no date.
func TestWithdrawalsWhereApprovalIsAsked(t *testing.T) {
	d := newDesk(t)
	ctx, anselm, ponds := t.Context(), d.people["anselm"], d.id("/grounds/ponds")
	d.now = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	ask := editions.WithdrawAsk{Entry: ponds, At: "2026-12-01T09:00", Zone: "UTC", To: "gone"}
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On, setting.FourEyes: setting.On})
	_, err := d.WithdrawAt(ctx, anselm, ask)
	require.ErrorContains(t, err, "Someone else must approve this")
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On, setting.FourEyes: setting.Off, setting.OwnWork: setting.On})
	_, err = d.WithdrawAt(ctx, anselm, ask)
	require.NoError(t, err)
	d.now = time.Date(2026, 12, 1, 9, 0, 20, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	require.Equal(t, 410, d.live().Table.Resolve("/grounds/ponds").Code)
}
