package app_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/workflow"
)

// The next edition that somebody looked at is kept until something changes of what it is worked
// out from, whatever that is; then it is another one. Acts that it does not depend on leave it.
func TestTheNextEditionIsKeptAsLongAsItHolds(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ines := t.Context(), d.people["marta"], d.people["ines"]
	ponds, hours := d.id("/grounds/ponds"), d.id("/visitors/opening-hours")
	d.look("marta")
	do := func(err error) { t.Helper(); require.NoError(t, err) }
	for _, step := range []struct {
		what string
		do   func()
	}{
		{"a text is written", func() { d.write("ines", hours, "From eight.") }},
		{"the same text is written on", func() { d.write("ines", hours, "From nine.") }},
		{"its words are found", func() { do(d.FinishDrafts(ctx)) }},
		{"a page is moved", func() {
			d.act("ines", appsitemap.PlanAct{Do: "move", ID: ponds, Parent: d.id("/visitors"), Last: true})
		}},
		{"that is undone", func() { _, err := d.Undo(ctx, ines); do(err) }},
		{"a page is removed", func() { d.act("ines", appsitemap.PlanAct{Do: "remove", ID: ponds}) }},
		{"somebody visited it", func() { do(d.CountVisits(ctx, map[string]int{ponds: 1})) }},
		{"it is decided about", func() { do(d.Decide(ctx, ines, ponds, "gone", false, "")) }},
		{"that is decided otherwise", func() { do(d.Decide(ctx, ines, ponds, "/grounds", true, "2027-01-01")) }},
		{"a redirect is planned", func() { _, err := d.redirects("ines", "/tea /visitors"); do(err) }},
		{"an older site comes", func() { d.olderLines("old.quillmere.example", [2]string{"/a.html", "A"}, [2]string{"/b.html", "B"}) }},
		{"a menu is planned", func() { d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "out", Item: d.id("/visitors")}) }},
		{"a template is planned", func() {
			d.draftTemplate("marta", "topic", func(t *content.Template) { t.Name = "Topic" })
			_, err := d.planTemplate("marta", "topic")
			do(err)
		}},
		{"approval is asked", func() { d.asksFor(setting.Values{setting.ReviewAsked: setting.On}) }},
		{"a branch asks for more", func() {
			four := workflow.FourEyes
			do(d.BranchAsks(ctx, marta, d.id("/grounds"), &four))
		}},
		{"something is sent", func() { do(d.send("ines", editions.SendAsk{IDs: []string{hours}, To: d.people["anselm"].ID})) }},
		{"it is approved", func() { do(d.judge("anselm", workflow.Approve, "", hours)) }},
		{"it is timed", func() { do(d.time("2026-12-01T09:00", hours)) }},
		{"there is a freeze", func() {
			do(d.Freeze(ctx, marta, editions.TimeAsk{At: "2026-11-25T08:00", Zone: "UTC"}, editions.TimeAsk{At: "2026-11-25T20:00", Zone: "UTC"}, "Plant fair"))
		}},
		{"the freeze is over", func() { d.now = d.now.Add(24 * time.Hour) }},
		{"a file comes", func() { _, err := d.AddFile(ctx, ines, textFile("other.txt", "Tuesday")); do(err) }},
		{"somebody leaves", func() {
			_, err := d.pool.Exec(ctx, `UPDATE people SET name = 'Anselm, who left' WHERE login = 'anselm'`)
			do(err)
		}},
		{"another day begins", func() { d.now = d.now.Add(24 * time.Hour) }},
		{"the site is asked for by another name", func() {
			d.asksFor(setting.Values{setting.ReviewAsked: setting.On, setting.OldHosts: "old.quillmere.example"})
		}},
		{"the minute is taken away", func() { _, err := d.LiftChanges(ctx, marta, d.looked(workflow.Scheduled, hours)); do(err) }},
		{"an address is given up", func() { do(d.ReleaseAddresses(ctx, marta, []string{"/grounds/ponds"}, "Nobody asks for it")) }},
		{"approval is not asked any more", func() {
			do(d.BranchAsks(ctx, marta, d.id("/grounds"), nil))
			d.asksFor(setting.Values{setting.ReviewAsked: setting.Off, setting.OwnWork: setting.On})
		}},
		{"an edition goes out", func() { d.publish("marta", "Whatever") }},
		{"a page is published by itself", func() {
			d.write("ines", hours, "From ten.")
			_, err := d.Publish(ctx, marta, editions.PublishAsk{Key: uuid.NewString(), Why: "Now", Changes: editions.Select{Only: []string{hours}}})
			do(err)
		}},
		{"it goes back", func() { _, err := d.Rollback(ctx, marta, uuid.NewString(), 2, "Too early"); do(err) }},
		{"somebody chose", func() { d.choose("marta", func(f *editions.ChoiceForm) { f.Every = "out" }) }},
	} {
		t.Log(step.what)
		step.do()
		for _, login := range []string{"marta", "ines"} {
			d.look(login)
			d.own(login)
		}
	}
	require.Same(t, d.look("ines").Draft.Tree, d.look("ines").Draft.Tree, "it is not worked out twice")
}
