package app_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Each of these pairs holds alone; together they once published what nobody approved, or nothing at all.

// strike moves the clock to some seconds after a minute and publishes what is due; it gives how many editions
// that made.
func (d *desk) strike(at string) int {
	d.t.Helper()
	when, err := time.Parse("2006-01-02T15:04", at)
	require.NoError(d.t, err)
	before, _ := d.edition()
	d.now = when.Add(4 * time.Second)
	ctx, stop := context.WithTimeout(d.t.Context(), 20*time.Second)
	defer stop()
	require.NoError(d.t, d.PublishTimed(ctx, d.now))
	after, _ := d.edition()
	return after - before
}

// asksOf makes a branch ask something.
func (d *desk) asksOf(entry string, asks workflow.ApprovalPolicy) {
	d.t.Helper()
	require.NoError(d.t, d.BranchAsks(d.t.Context(), d.people["marta"], entry, &asks))
}

func TestAChildWithADateAndItsNewParent(t *testing.T) {
	for _, asks := range []bool{false, true} {
		d := newDesk(t)
		parent := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: d.id("/grounds"), Value: "Parent"}).ID
		child := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: parent, Value: "Child"}).ID
		d.write("ines", child, "Words.")
		if asks {
			d.asksOf(d.id("/grounds"), workflow.Approval)
		}
		d.approved(child)
		out, err := d.TimeChanges(t.Context(), d.people["anselm"], editions.TimeAsk{List: d.looked(workflow.Ready, child), At: "2026-11-26T09:00", Zone: "UTC"})
		require.NoError(t, err)
		if !asks {
			require.Equal(t, []string{"Parent"}, out.Along)
			require.Contains(t, d.inbox("ines")[0], "scheduled your draft “Parent”")
			require.Equal(t, 1, d.strike("2026-11-26T09:00"))
			require.NotEqual(t, sitemap.None, d.live().Tree.Find(child))
			continue
		}
		require.Equal(t, []string{"Parent"}, out.Waits)
		require.Equal(t, 0, d.strike("2026-11-26T09:00"), "no empty edition")
		require.Equal(t, workflow.Ready, d.states()["Child"])
		require.Contains(t, d.inbox("ines")[0], "was not published: it needs “Parent”")
		told := len(d.inbox("ines"))
		require.Equal(t, 0, d.strike("2026-11-26T10:00"), "the date is used up")
		require.Len(t, d.inbox("ines"), told, "and told once")
	}
}

// What may go of a minute goes; what may not stays approved.
func TestTheLargestPartOfAMinute(t *testing.T) {
	d := newDesk(t)
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On})
	grounds, ponds, compost := d.id("/grounds"), d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.write("ines", ponds, "Two metres deep.")
	d.write("ines", compost, "[Heaps](page:"+ponds+")")
	bog := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: grounds, Value: "Bog"}).ID
	d.write("ines", bog, "[To nothing](/nowhere)")
	d.approved(ponds, compost, bog)
	require.NoError(t, d.time("2026-11-26T09:00", ponds, compost, bog))
	require.Equal(t, 1, d.strike("2026-11-26T09:00"))
	require.Equal(t, "Two metres deep.", d.liveText(ponds))
	require.Equal(t, sitemap.None, d.live().Tree.Find(bog), "the checks stop it")
	require.Equal(t, map[string]workflow.State{"Bog": workflow.Ready}, d.states())
}

func TestAuthorsAreNotForgottenByATemplateChange(t *testing.T) {
	d := newDesk(t)
	compost := d.id("/grounds/compost")
	d.asksOf(compost, workflow.FourEyes)
	d.now = d.now.Add(time.Hour)
	d.write("anselm", compost, "Written by Anselm.")
	d.draftTemplate("marta", "procedure", func(t *content.Template) { t.Parts[0].Content[0].Text = "Always ask." })
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	d.publish("marta", "Template", change.Key{ID: compost, Aspect: change.Content})
	d.now = d.now.Add(time.Hour)
	d.write("ines", compost, "Written by Anselm. And a comma by Ines.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{compost}}))
	require.ErrorContains(t, d.judge("anselm", workflow.Approve, "", compost), "made part of this")
}

func TestAuthorsAreNotForgottenByARestore(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	first, _ := d.edition()
	d.now = d.now.Add(time.Hour)
	d.write("anselm", ponds, "Written by Anselm.")
	d.write("ines", ponds, "Written by Anselm. Comma.")
	d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/compost"), Value: "Heaps"})
	d.publish("marta", "out")
	d.now = d.now.Add(time.Hour)
	_, err := d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), first, "back")
	require.NoError(t, err)
	d.asksOf(d.id("/grounds"), workflow.FourEyes)
	for _, id := range []string{ponds, d.id("/grounds/compost")} {
		require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{id}}))
		require.ErrorContains(t, d.judge("anselm", workflow.Approve, "", id), "made part of this")
		require.NoError(t, d.judge("marta", workflow.Approve, "", id))
	}
}

func TestOwnWorkIsNotBroughtOutByADate(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Anselm's ponds"})
	_, err := d.tryPublish("anselm", "own")
	require.ErrorIs(t, err, editions.ErrOwnWork)
	require.ErrorContains(t, err, "Anselm's ponds", "it is named")
	require.NoError(t, d.send("anselm", editions.SendAsk{IDs: []string{ponds}}))
	require.NoError(t, d.judge("anselm", workflow.Approve, "", ponds))
	require.ErrorContains(t, d.time("2026-11-26T09:00", ponds), "your own work")
	require.Equal(t, 0, d.strike("2026-11-26T09:00"))

	t.Log("scheduled while that was allowed")
	d.asksFor(setting.Values{setting.OwnWork: setting.On})
	require.NoError(t, d.time("2026-11-27T09:00", ponds))
	require.NoError(t, d.SaveSettings(t.Context(), d.people["marta"], setting.Values{setting.OwnWork: ""}, nil))
	require.Equal(t, 0, d.strike("2026-11-27T09:00"))
	require.Equal(t, workflow.Ready, d.states()["Anselm's ponds"])
}

func TestADateThatHasPassedDoesNotComeBack(t *testing.T) {
	d := newDesk(t)
	compost := d.id("/grounds/compost")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost heaps"})
	d.approved(compost)
	require.NoError(t, d.time("2026-11-26T09:00", compost))
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Wrong title"})
	require.Contains(t, d.inbox("anselm")[0], "edited “Wrong title”, which was scheduled for 26 November 2026, 09:00 UTC")
	require.Equal(t, 0, d.strike("2026-11-26T09:00"))
	d.now = time.Date(2026, 11, 28, 9, 0, 0, 0, time.UTC)
	_, err := d.Undo(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, 0, d.strike("2026-11-28T09:01"), "an undo publishes nothing")
	require.Equal(t, workflow.Draft, d.states()["Compost heaps"])
}

func TestADateTakesNobodysDraftAlong(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "slug", Value: "pools"})
	d.act("ines", appsitemap.PlanAct{Do: "fact", ID: compost, Field: "slug", Value: "ponds"})
	d.asksOf(ponds, workflow.Approval)
	d.approved(compost)
	require.NoError(t, d.time("2026-11-26T09:00", compost))
	require.Equal(t, 0, d.strike("2026-11-26T09:00"))
	require.Equal(t, workflow.Ready, d.states()["Compost"])
}

func TestAnApprovalIsHeldAgainstTheRuleOfTheDay(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.asksOf(ponds, workflow.Approval)
	d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Anselm's ponds"})
	require.NoError(t, d.send("anselm", editions.SendAsk{IDs: []string{ponds}}))
	require.NoError(t, d.judge("anselm", workflow.Approve, "", ponds))
	d.asksOf(ponds, workflow.FourEyes)
	_, err := d.Publish(t.Context(), d.people["marta"], editions.PublishAsk{Key: uuid.NewString(), Why: "out", Changes: editions.Select{Only: []string{ponds}}})
	notReady := (*editions.NotReady)(nil)
	require.ErrorAs(t, err, &notReady)
	require.EqualValues(t, "review-missing", notReady.Findings[0].Rule)
}

func TestARestoreOpensNoRestrictedPage(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	first, _ := d.edition()
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: d.id("/visitors"), Field: "readership", Value: "site manager"})
	d.act("marta", appsitemap.PlanAct{Do: "move", ID: ponds, Parent: d.id("/visitors")})
	d.publish("marta", "Ponds are for managers")
	d.now = d.now.Add(time.Minute)
	_, err := d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), first, "back")
	require.NoError(t, err)
	l := d.live()
	require.Equal(t, sitemap.None, readership.Visible(l.Tree, readership.Reader{}, l.Readerships()).Find(ponds))
	require.Equal(t, "/grounds/ponds", l.Tree.Address(l.Tree.Find(ponds)))
}

func TestARestoreDuringAFreeze(t *testing.T) {
	d := newDesk(t)
	first, _ := d.edition()
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/ponds"), Value: "Pools"})
	d.publish("marta", "Pools")
	ctx := t.Context()
	require.NoError(t, d.Freeze(ctx, d.people["marta"], editions.TimeAsk{At: "2026-11-25T09:02", Zone: "UTC"}, editions.TimeAsk{At: "2026-11-28T09:00", Zone: "UTC"}, "Open days"))
	d.now = d.now.Add(time.Hour)
	_, err := d.Rollback(ctx, d.people["anselm"], uuid.NewString(), first, "back")
	require.ErrorContains(t, err, "Open days")
	_, err = d.Rollback(ctx, d.people["marta"], uuid.NewString(), first, "The pools are wrong")
	require.NoError(t, err, "a site manager may, and says why")
	_, err = d.Rollback(ctx, d.people["marta"], uuid.NewString(), first, "Again")
	require.ErrorContains(t, err, "nothing to restore")
}

func TestAReviewThatIsPassedToARoleIsCounted(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds := t.Context(), d.people["marta"], d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Ponds and streams"})
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: editions.GroupOfRole(workflow.Approver)}))
	asked := func(who plan.Person) int {
		o, err := d.Summary(ctx, who)
		require.NoError(t, err)
		n, _ := o.Next.AskedOf(who)
		return n
	}
	require.Equal(t, 0, asked(marta))
	require.NoError(t, d.PassOn(ctx, d.people["ines"], d.queue("ines").Items[0].Review, editions.GroupOfRole(workflow.Manager)))
	require.Equal(t, 1, asked(marta))
	require.Equal(t, 0, asked(d.people["anselm"]))
}

// An instance that serves an edition gives the text of that edition, also when a later one is live.
func TestABodyIsOfTheEditionThatIsServed(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	served := d.live()
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "readership", Value: "site manager"})
	d.write("marta", ponds, "Secret: the ponds are sold.")
	d.publish("marta", "For managers")
	b, err := d.LiveBody(t.Context(), served, ponds, served.Tree)
	require.NoError(t, err)
	require.NotContains(t, b.HTML, "Secret")
	hits, err := d.Search(t.Context(), served.Site.Edition, "secret", nil, 10)
	require.NoError(t, err)
	require.Empty(t, hits)
}

// A request to somebody who leaves, or may not publish any more, goes to the others who may; all are told.
func TestARequestToSomebodyWhoLeaves(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Pools"})
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: d.people["anselm"].ID}))
	require.NoError(t, d.ChangePerson(t.Context(), d.people["marta"], d.people["anselm"].ID, workflow.Editor, false))
	for _, login := range []string{"ines", "marta"} {
		require.Contains(t, d.inbox(login)[0], "anselm of Quillmere can no longer review “Pools”", login)
	}
	require.NoError(t, d.judge("marta", workflow.Approve, "", ponds))
}

// A freeze that is laid over dates is told to their people.
func TestAFreezeOverADate(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Pools"})
	d.approved(ponds)
	require.NoError(t, d.time("2026-11-26T09:00", ponds))
	require.NoError(t, d.Freeze(t.Context(), d.people["marta"], editions.TimeAsk{At: "2026-11-26T08:00", Zone: "UTC"}, editions.TimeAsk{At: "2026-11-27T09:00", Zone: "UTC"}, "Open days"))
	for _, login := range []string{"ines", "anselm"} {
		require.Contains(t, d.inbox(login)[0], "froze publishing until 27 November 2026, 09:00 UTC (Open days)", login)
	}
	require.Equal(t, 0, d.strike("2026-11-26T09:00"))
	require.Equal(t, 1, d.strike("2026-11-27T09:00"), "it goes out once the freeze is over")
}

// A page that is to be withdrawn and cannot be stays live, uses up its date like everything else, and who
// scheduled it is told why. Until then such a minute stayed due for ever.
func TestAWithdrawalThatCannotBeUsesUpItsDate(t *testing.T) {
	left := func(d *desk, ponds string) {
		require.NoError(d.t, d.ChangePerson(d.t.Context(), d.people["marta"], d.people["anselm"].ID, workflow.Approver, true))
	}
	demoted := func(d *desk, ponds string) {
		require.NoError(d.t, d.ChangePerson(d.t.Context(), d.people["marta"], d.people["anselm"].ID, workflow.Editor, false))
	}
	asked := func(d *desk, ponds string) { d.asksOf(ponds, workflow.FourEyes) }
	linked := func(d *desk, ponds string) {
		d.write("marta", d.id("/grounds/compost"), "[The ponds](page:"+ponds+")")
		d.publish("marta", "A link")
	}
	ruled := func(d *desk, ponds string) { d.asksFor(setting.Values{setting.OwnWork: setting.Off}) }
	for why, then := range map[string]func(*desk, string){"must approve it since": ruled, "has left": left, "can no longer publish": demoted, "someone else must approve": asked, "links": linked} {
		d := newDesk(t)
		ponds := d.id("/grounds/ponds")
		d.asksFor(setting.Values{setting.OwnWork: setting.On})
		_, err := d.WithdrawAt(t.Context(), d.people["anselm"], editions.WithdrawAsk{Entry: ponds, At: "2026-11-26T09:00", Zone: "UTC", To: "gone"})
		require.NoError(t, err)
		then(d, ponds)
		require.Equal(t, 0, d.strike("2026-11-26T09:00"), why)
		require.NotEqual(t, sitemap.None, d.live().Tree.Find(ponds))
		require.Equal(t, "page", d.answers("/grounds/ponds")[0], why)
		if why != "has left" {
			require.Contains(t, d.inbox("anselm")[0], why)
		}
		c, err := d.Calendar(t.Context(), d.people["marta"])
		require.NoError(t, err)
		require.Empty(t, c.Withdrawals)
		require.Equal(t, 0, d.strike("2026-11-26T10:00"), "the date is used up")
	}
}

// A trail that keeps readers from its pages does so after a restore, too, whether the edition had no such trail or a wider one,
// and also after that restore is itself gone back from.
func TestARestoreOpensNoTrail(t *testing.T) {
	d := newDesk(t)
	ponds, hours := d.id("/grounds/ponds"), d.id("/visitors/opening-hours")
	reads := func(who readership.Reader, id string) bool {
		l := d.live()
		return readership.Visible(l.Tree, who, l.Shapes.Readerships()).Find(id) != sitemap.None
	}
	number := func() int { n, _ := d.edition(); return n }
	before := number()
	id := d.trail("marta", appnavigation.TrailAct{Confirmed: true, Trail: shape.Trail{Title: "Closing", Readership: "editor; approver", Pages: []string{hours, ponds}}}).ID
	d.publish("marta", "A trail for closing time")
	wide := number()
	d.trail("marta", appnavigation.TrailAct{ID: id, Confirmed: true, Trail: shape.Trail{Title: "Closing", Readership: "approver", Pages: []string{hours, ponds}}})
	d.publish("marta", "For approvers alone")
	narrow := number()
	for _, to := range []int{wide, before, narrow, before} {
		_, err := d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), to, "Something else was wrong")
		if err != nil { // there may be nothing to restore
			require.True(t, errors.As(err, new(*plan.Invalid)), err)
		}
		require.False(t, reads(readership.Reader{}, ponds), "restored %d", to)
		require.False(t, reads(readership.Reader{Role: "editor"}, ponds), "restored %d", to)
		require.True(t, reads(readership.Reader{Role: "approver"}, ponds), "restored %d", to)
	}
	d.trail("marta", appnavigation.TrailAct{ID: id, Remove: true})
	d.publish("marta", "It is open to all again")
	require.True(t, reads(readership.Reader{}, ponds), "who may set readership opens it by publishing that")
}

// What was released under a host name stays released after a restore, an undo and a restart; the rows of an edition that is
// restored do not bring back a name that was given up.
func TestAReleasedHostNameAndARestore(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	_, err := d.pool.Exec(ctx, `UPDATE sites SET hosts = '{inside.quillmere.example}'`)
	require.NoError(t, err)
	d.restart()
	require.NoError(t, d.SaveSettings(ctx, marta, setting.Values{setting.OldHosts: "staff.quillmere.example"}, nil))
	const tea = "//staff.quillmere.example/tea"
	code := func() int { return d.live().Table.Proven(tea).Code }
	_, err = d.PlanRedirects(ctx, marta, uuid.NewString(), []redirect.Wish{{From: tea, To: "/grounds"}})
	require.NoError(t, err)
	d.publish("marta", "Old names")
	with, _ := d.edition()
	require.Equal(t, 301, code())
	require.NoError(t, d.ReleaseAddresses(ctx, marta, []string{"https://staff.quillmere.example/tea"}, "Nobody asks there any more"))
	_, err = d.Undo(ctx, marta) // whatever was done last; a release is dropped by name, not undone
	if err == nil {
		_, err = d.Redo(ctx, marta)
		require.NoError(t, err)
	}
	d.publish("marta", "Released")
	require.Equal(t, 404, code())
	require.NoError(t, d.SaveSettings(ctx, marta, setting.Values{setting.OldHosts: ""}, nil))
	d.act("marta", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/ponds"), Value: "Newts"})
	d.publish("marta", "Newts")
	_, err = d.Rollback(ctx, marta, uuid.NewString(), with, "The title was wrong")
	require.NoError(t, err)
	d.restart()
	require.Equal(t, 404, code(), "it was released")
	n := d.look("marta")
	require.Empty(t, n.Proof.Lost)
	require.NoError(t, d.SaveSettings(ctx, marta, setting.Values{setting.OldHosts: ""}, nil), "nothing of the name is left that would stop")
}

// What was looked at is not published where a save that publishing waits for made it something else.
func TestPublishingWaitsForASaveAndSeesIt(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds := t.Context(), d.people["marta"], d.id("/grounds/ponds")
	d.write("marta", ponds, "Newts.")
	sel := editions.Select{Only: []string{ponds}}
	_, err := d.LookAhead(ctx, marta, sel)
	require.NoError(t, err)
	save, err := d.pool.Begin(ctx)
	require.NoError(t, err)
	defer save.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // it is committed by then
	_, err = save.Exec(ctx, `SELECT 1 FROM page_spans WHERE from_edition IS NULL FOR UPDATE`)
	require.NoError(t, err)
	_, err = save.Exec(ctx, `INSERT INTO branch_asks (site_id, entry_id, asks) SELECT id, $1, 'approval' FROM sites`, ponds)
	require.NoError(t, err)
	done := make(chan error, 1)
	go func() {
		_, err := d.Publish(ctx, marta, editions.PublishAsk{Key: uuid.NewString(), Why: "Newts", Changes: sel})
		done <- err
	}()
	require.Eventually(t, func() bool {
		var waits bool
		require.NoError(t, d.pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database())`).Scan(&waits))
		return waits
	}, 20*time.Second, 5*time.Millisecond)
	require.NoError(t, save.Commit(ctx))
	require.Error(t, <-done, "approval is asked since")
}

// What is planned when an edition is restored can be undone afterwards, redirects as well.
func TestAPlannedRedirectIsUndoneAfterARestore(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	d.act("marta", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/ponds"), Value: "Newts"})
	d.publish("marta", "Newts")
	_, err := d.PlanRedirects(ctx, marta, uuid.NewString(), []redirect.Wish{{From: "/tea", To: "/grounds"}})
	require.NoError(t, err)
	now, _ := d.edition()
	_, err = d.Rollback(ctx, marta, uuid.NewString(), now-1, "The title was wrong")
	require.NoError(t, err)
	tea := change.Key{ID: redirect.Key{From: "/tea"}.ID(), Aspect: change.Redirect}
	has := func() bool {
		return slices.ContainsFunc(d.look("marta").All, func(c change.Change) bool { return c.Key == tea })
	}
	require.True(t, has(), "it is planned still")
	_, err = d.Undo(ctx, marta)
	require.NoError(t, err)
	require.False(t, has())
}

// Who made something stays its author where somebody else discards it and undoes that: under four eyes they cannot
// approve it, and where own work is ruled they cannot publish it.
func TestAuthorsComeBackWithWhatIsUndone(t *testing.T) {
	d := newDesk(t)
	ctx, anselm, grounds, ponds := t.Context(), d.people["anselm"], d.id("/grounds"), d.id("/grounds/ponds")
	d.App = app.New(d.store, markup.New(), d.Objects, func() time.Time { d.now = d.now.Add(time.Millisecond); return d.now }) // no two times are the same
	authors := func() (names []string) {
		n, err := d.LookAhead(ctx, d.people["marta"], editions.Select{})
		require.NoError(t, err)
		for _, p := range n.AuthorsOf(change.Key{ID: ponds, Aspect: change.Placement}) {
			for login, known := range d.people {
				if known.ID == p {
					names = append(names, login)
				}
			}
		}
		slices.Sort(names)
		return names
	}
	d.act("anselm", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "pools"})
	require.Equal(t, []string{"anselm"}, authors())
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: grounds})
	_, err := d.Undo(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, []string{"anselm"}, authors())
	_, err = d.Publish(ctx, anselm, editions.PublishAsk{Key: uuid.NewString(), Why: "Pools", Changes: editions.Select{Only: []string{ponds}}})
	require.ErrorIs(t, err, editions.ErrOwnWork)

	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "ponds"}) // as it is live
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "tarns"})
	require.Equal(t, []string{"ines"}, authors(), "what is planned anew is nobody's but hers")
	_, err = d.Undo(ctx, d.people["ines"])
	require.NoError(t, err)
	_, err = d.Redo(ctx, d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, []string{"ines"}, authors())
}

// A page that was restricted and then removed comes back as restricted as it was last, whatever edition is restored.
func TestARestoreBringsARemovedPageBackRestricted(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds := t.Context(), d.people["marta"], d.id("/grounds/ponds")
	first, _ := d.edition()
	d.act("marta", appsitemap.PlanAct{Do: "fact", Field: "readership", ID: ponds, Value: "approver"})
	d.publish("marta", "For approvers")
	d.act("marta", appsitemap.PlanAct{Do: "remove", ID: ponds})
	require.NoError(t, d.Decide(ctx, marta, ponds, "gone", false, ""))
	d.publish("marta", "Drained")
	_, err := d.Rollback(ctx, marta, uuid.NewString(), first, "Not yet")
	require.NoError(t, err)
	l := d.live()
	require.NotEqual(t, -1, l.Tree.Find(ponds))
	reads := func(r readership.Reader) bool {
		return readership.Visible(l.Tree, r, l.Readerships()).Find(ponds) >= 0
	}
	require.False(t, reads(readership.Reader{}), "it was for approvers when it was removed")
	require.True(t, reads(readership.Reader{Role: workflow.Approver}))
}

// Who schedules a change counts as who brings out what it needs, too: their own work that nobody else approved does not
// come along, and what needs it waits and says why.
func TestOwnWorkDoesNotComeAlongWithADate(t *testing.T) {
	d := newDesk(t)
	ctx, anselm := t.Context(), d.people["anselm"]
	d.now = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On})
	tea := d.act("anselm", appsitemap.PlanAct{Do: "add", Parent: d.id("/visitors"), Value: "Tea"}).ID
	herbs := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: tea, Value: "Herbs"}).ID
	for login, id := range map[string]string{"anselm": tea, "ines": herbs} {
		require.NoError(t, d.send(login, editions.SendAsk{IDs: []string{id}}))
	}
	require.NoError(t, d.judge("anselm", workflow.Approve, "", tea), "under this rule they may approve it")
	require.NoError(t, d.judge("marta", workflow.Approve, "", herbs))
	_, err := d.Publish(ctx, anselm, editions.PublishAsk{Key: uuid.NewString(), Why: "Tea", Changes: editions.Select{Only: []string{herbs}}})
	require.ErrorIs(t, err, editions.ErrOwnWork, "but not publish it")
	ask := editions.TimeAsk{List: d.looked(workflow.Ready, herbs), At: "2026-12-01T09:00", Zone: "UTC"}
	said, err := d.TimeChanges(ctx, anselm, ask)
	require.NoError(t, err)
	require.Equal(t, []string{"Tea"}, said.Waits)
	before, _ := d.edition()
	d.now = time.Date(2026, 12, 1, 9, 0, 20, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	after, _ := d.edition()
	require.Equal(t, before, after)
	require.Contains(t, strings.Join(d.inbox("ines"), "\n"), "includes the work of the person who scheduled it")

	ask = editions.TimeAsk{List: d.looked(workflow.Ready, herbs), At: "2026-12-02T09:00", Zone: "UTC"}
	_, err = d.TimeChanges(ctx, d.people["marta"], ask)
	require.NoError(t, err)
	d.now = time.Date(2026, 12, 2, 9, 0, 20, 0, time.UTC)
	require.NoError(t, d.PublishTimed(ctx, d.now))
	require.Equal(t, "page", d.answers("/visitors/tea/herbs")[0], "a site manager may")
}
