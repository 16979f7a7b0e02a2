package app_test

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"
	"testing"
	"time"

	"candlepath/internal/app"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/files"
	"candlepath/internal/markup"
	"candlepath/internal/platform/objects"
	"candlepath/internal/store"
	"candlepath/internal/testkit"
)

var kit testkit.Kit

func TestMain(m *testing.M) { os.Exit(testkit.Main(m, &kit)) }

// desk is a small site of its own, with a clock that the test moves.
type desk struct {
	*app.App
	t      *testing.T
	now    time.Time
	store  *store.Store
	pool   *pgxpool.Pool
	people map[string]plan.Person
}

var topic = content.Template{Key: "topic", Name: "Topic page", Parts: []content.Part{{Kind: content.Slot, Key: "main"}}}

var procedure = content.Template{Key: "procedure", Name: "Procedure", Parts: []content.Part{
	{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: "Ask before you start."}}},
	{Kind: content.Slot, Key: "main", Required: true},
}}

// over is a desk over a database, with nobody at it yet.
func over(t *testing.T, pool *pgxpool.Pool) *desk {
	st, err := store.Open(pool)
	require.NoError(t, err)
	d := &desk{t: t, store: st, pool: pool, now: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC), people: map[string]plan.Person{}}
	d.restart()
	return d
}

func newDesk(t *testing.T) *desk { return open(t, kit.Pool(t, false)) }

// open sets up the small site in an empty database.
func open(t *testing.T, pool *pgxpool.Pool) *desk {
	d := over(t, pool)
	var people []plan.Person
	for login, role := range map[string]workflow.Role{"marta": workflow.Manager, "anselm": workflow.Approver, "ines": workflow.Editor, "noor": workflow.Reader} {
		people = append(people, plan.Person{Login: login, Name: login + " of Quillmere", Role: role})
	}
	_, err := d.CreateSite(t.Context(), account.NewSite{Site: plan.Site{Settings: setting.Values{setting.SiteName: "Quillmere Inside"}}, People: people, Templates: []content.Template{topic, procedure}})
	require.NoError(t, err)
	all, err := d.Everyone(t.Context())
	require.NoError(t, err)
	for _, p := range all {
		d.people[p.Login] = p
	}
	d.bring("marta", sheet.Update, `level,title,template
0,Home,topic
1,Grounds,topic
2,Compost,procedure
2,Ponds,topic
1,Visitors,topic
2,Opening hours,topic
`)
	for _, a := range []string{"/", "/grounds", "/grounds/compost", "/grounds/ponds", "/visitors", "/visitors/opening-hours"} {
		d.write("marta", d.id(a), "About "+a)
	}
	d.publish("marta", "The site opens")
	return d
}

// restart is the application begun anew over the same database.
func (d *desk) restart() {
	d.App = app.New(d.store, markup.New(), memory(d.t), func() time.Time { return d.now })
}

func (d *desk) next() *sitemap.Tree {
	t, _, err := d.Export(d.t.Context(), d.people["marta"], false)
	require.NoError(d.t, err)
	return t
}

func (d *desk) id(addr string) string {
	d.t.Helper()
	i := d.next().ClaimedBy(addr)
	require.NotEqual(d.t, sitemap.None, i, "nothing claims %s", addr)
	return d.next().At(i).ID
}

func (d *desk) try(login string, a appsitemap.PlanAct) (plan.PlanResult, error) {
	a.Key, a.Confirmed = uuid.NewString(), true
	d.now = d.now.Add(time.Second)
	return d.Plan(d.t.Context(), d.people[login], a)
}

func (d *desk) act(login string, a appsitemap.PlanAct) plan.PlanResult {
	d.t.Helper()
	r, err := d.try(login, a)
	require.NoError(d.t, err)
	return r
}

func (d *desk) bring(login string, way sheet.ImportMode, csv string) {
	d.t.Helper()
	ctx, who := d.t.Context(), d.people[login]
	id, err := d.KeepFile(ctx, who, "plan.csv", []byte(csv))
	require.NoError(d.t, err)
	require.NoError(d.t, d.ReadFile(ctx, id, readSheet))
	_, err = d.PreviewFile(ctx, who, id, appsitemap.ImportChoice{Mode: way})
	require.NoError(d.t, err)
	_, err = d.AcceptFile(ctx, who, id)
	require.NoError(d.t, err)
}

func page(text string) content.Page {
	return content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: text}}}}
}

func (d *desk) write(login, entry, text string) {
	d.t.Helper()
	d.writePage(login, entry, page(text))
}

func (d *desk) writePage(login, entry string, p content.Page) {
	d.t.Helper()
	ctx, who, window := d.t.Context(), d.people[login], uuid.NewString()
	v, err := d.OpenPage(ctx, who, entry, window)
	require.NoError(d.t, err)
	saved, err := d.SavePage(ctx, who, entry, window, p, v.Base)
	require.NoError(d.t, err)
	require.Nil(d.t, saved.Clash)
	require.NoError(d.t, d.ClosePage(ctx, who, entry, window))
}

func (d *desk) look(login string, leave ...change.Key) editions.NextEdition {
	d.t.Helper()
	sel := editions.Select{Chosen: len(leave) > 0, LeaveOut: leave}
	n, err := d.LookAhead(d.t.Context(), d.people[login], sel)
	require.NoError(d.t, err)
	fresh, err := d.begunAnew().LookAhead(d.t.Context(), d.people[login], sel)
	require.NoError(d.t, err)
	require.Equal(d.t, told(fresh), told(n), "what is kept is what is worked out anew")
	return n
}

// begunAnew is another instance of the application, which keeps nothing yet.
func (d *desk) begunAnew() *app.App {
	return app.New(d.store, markup.New(), d.Objects, func() time.Time { return d.now })
}

// told is what a next edition tells of itself.
func told(n editions.NextEdition) (out []string) {
	for _, part := range []any{
		n.Site, n.All, n.Chosen, n.Dependencies, n.Findings, n.Decisions, n.Table, n.Outgoing, n.Relaid, n.Makers, n.Why, n.Note, n.ChangedSince, n.Proof, n.ApprovalStates, n.Requests, n.Today,
		n.Rules, n.Draft.Plan, n.Draft.Table, n.Draft.Released, n.Templates, n.Frozen != nil,
	} {
		out = append(out, fmt.Sprintf("%+v", part))
	}
	return out
}

func (d *desk) tryPublish(login, why string, leave ...change.Key) (plan.Edition, error) {
	d.now = d.now.Add(time.Minute)
	return d.Publish(d.t.Context(), d.people[login], editions.PublishAsk{Key: uuid.NewString(), Why: why, Changes: editions.Select{Chosen: len(leave) > 0, LeaveOut: leave}})
}

func (d *desk) publish(login, why string, leave ...change.Key) plan.Edition {
	d.t.Helper()
	e, err := d.tryPublish(login, why, leave...)
	require.NoError(d.t, err)
	return e
}

// planned lists what is planned and whether it is ticked.
func (d *desk) planned() map[string]bool {
	n, out := d.look("marta"), map[string]bool{}
	for _, c := range n.All {
		t := n.Trees.Next
		if t.Find(c.ID) == sitemap.None {
			t = n.Trees.Live
		}
		out[fmt.Sprintf("%s %s", c.Aspect, t.Ref(t.Find(c.ID)).Title)] = n.Chosen[c.Key]
	}
	return out
}

func (d *desk) live() reading.LiveSite {
	l, err := d.LoadLive(context.WithoutCancel(d.t.Context()))
	require.NoError(d.t, err)
	return l
}

// search finds pages of Live for those who get a tree.
func (d *desk) search(sees *sitemap.Tree, q string, limit int) ([]reading.Hit, error) {
	l := d.live()
	return d.Search(d.t.Context(), l.Site.Edition, q, reading.Hidden(l.Tree, sees), limit)
}

// body is what readers get of a page.
func (d *desk) body(entry string) string {
	b, err := d.LiveBody(d.t.Context(), d.live(), entry, d.live().Tree)
	require.NoError(d.t, err)
	return b.HTML
}

func TestWhatStaysPlannedKeepsItsPlanner(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Ponds and streams"})
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost and mulch"})
	_, err := d.tryPublish("anselm", "Better names")
	require.ErrorIs(t, err, editions.ErrOwnWork, "an approver does not publish own work")
	d.publish("anselm", "A better name", change.Key{ID: ponds, Aspect: change.Title})
	n := d.look("marta")
	require.Equal(t, d.people["anselm"].ID, n.Makers[change.Key{ID: ponds, Aspect: change.Title}].PersonID)
	require.Equal(t, map[string]bool{"title Ponds and streams": true}, d.planned())
	_, err = d.tryPublish("anselm", "The other, too")
	require.ErrorIs(t, err, editions.ErrOwnWork, "still")
	d.publish("marta", "The other, too")
	require.Equal(t, 3, d.live().Site.Edition)
	require.Empty(t, d.planned())
}

// Who may publish is a setting of the site.
func TestWhoMayPublishIsASetting(t *testing.T) {
	d := newDesk(t)
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/ponds"), Value: "Ponds and streams"})
	_, err := d.tryPublish("ines", "By an editor")
	require.ErrorIs(t, err, plan.ErrForbidden)
	require.NoError(t, d.SaveSettings(t.Context(), d.people["marta"], setting.Values{setting.EditorsPublish: setting.On}, nil))
	_, err = d.tryPublish("ines", "By an editor, of own work")
	require.ErrorIs(t, err, editions.ErrOwnWork)
	require.NoError(t, d.SaveSettings(t.Context(), d.people["marta"], setting.Values{setting.OwnWork: setting.On}, nil))
	d.publish("ines", "By an editor, of own work")
}

func TestUndoIsAPersonsOwnAndSurvivesARestart(t *testing.T) {
	d := newDesk(t)
	ctx, ponds := t.Context(), d.id("/grounds/ponds")
	before := d.next().Entries()
	for i := range 5 {
		d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: fmt.Sprintf("Ponds %d", i)})
	}
	added := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: d.id("/grounds"), Value: "Bog garden"})
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "owner", Value: "Gwen Hale"})
	d.restart()
	for range 6 {
		_, err := d.Undo(ctx, d.people["ines"])
		require.NoError(t, err)
	}
	_, err := d.Undo(ctx, d.people["ines"])
	require.ErrorIs(t, err, plan.ErrNothing)
	require.Equal(t, sitemap.None, d.next().Find(added.ID))
	require.Equal(t, "Ponds", d.next().At(d.next().Find(ponds)).Title)
	require.Equal(t, "Gwen Hale", d.next().At(d.next().Find(ponds)).Owner, "marta's act stays")
	_, err = d.Undo(ctx, d.people["marta"])
	require.NoError(t, err)
	require.Equal(t, before, d.next().Entries())
	d.restart()
	for range 6 {
		_, err := d.Redo(ctx, d.people["ines"])
		require.NoError(t, err)
	}
	require.Equal(t, "Ponds 4", d.next().At(d.next().Find(ponds)).Title)
	d.act("marta", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Still waters"})
	_, err = d.Undo(ctx, d.people["ines"]) // of adding
	require.NoError(t, err)
	_, err = d.Undo(ctx, d.people["ines"])
	meanwhile := (*plan.EditConflict)(nil)
	require.ErrorAs(t, err, &meanwhile)
	require.Equal(t, "marta of Quillmere", meanwhile.Who)
}

func TestConsequencesComeBeforeActsThatChangeAddresses(t *testing.T) {
	d := newDesk(t)
	d.write("marta", d.id("/visitors"), fmt.Sprintf("[See](page:%s) and [see](page:%s)", d.id("/grounds/ponds"), d.id("/grounds/compost")))
	d.publish("marta", "Links")
	grounds, visitors := d.id("/grounds"), d.id("/visitors")
	for _, a := range []appsitemap.PlanAct{
		{Do: "move", ID: grounds, Parent: visitors},
		{Do: "fact", Field: "slug", ID: grounds, Value: "outside"},
		{Do: "fact", Field: "kind", ID: grounds, Value: "group"},
		{Do: "withdraw", ID: d.id("/grounds/ponds")},
		{Do: "remove", ID: grounds},
		{Do: "step", ID: d.id("/visitors/opening-hours"), Step: sitemap.Out},
	} {
		a.Key = uuid.NewString()
		was := d.next()
		r, err := d.Plan(t.Context(), d.people["ines"], a)
		require.NoError(t, err)
		require.NotNil(t, r.Confirm, a.Do)
		require.Positive(t, r.Confirm.FromLive, a.Do)
		require.Equal(t, was.Entries(), d.next().Entries(), "nothing is done yet: %s", a.Do)
	}
	a := appsitemap.PlanAct{Key: uuid.NewString(), Do: "move", ID: grounds, Parent: visitors}
	r, err := d.Plan(t.Context(), d.people["ines"], a)
	require.NoError(t, err)
	require.Equal(t, []int{3, 3, 2, 1}, []int{r.Confirm.FromLive, r.Confirm.Redirects, r.Links, r.LinkPages})
	require.Equal(t, "/visitors/grounds", r.Confirm.NewAddress)
	require.Equal(t, []string{"Home", "Visitors"}, r.Confirm.TopAfter)
	a.Confirmed = true
	r, err = d.Plan(t.Context(), d.people["ines"], a)
	require.NoError(t, err)
	require.Nil(t, r.Confirm)
	again, err := d.Plan(t.Context(), d.people["ines"], a)
	require.NoError(t, err)
	require.Equal(t, r.Version, again.Version, "sent twice, done once")
	for _, quiet := range []appsitemap.PlanAct{{Do: "retitle", ID: grounds, Value: "Outdoors"}, {Do: "step", ID: d.id("/visitors/grounds/ponds"), Step: sitemap.Up}, {Do: "add", Value: "Science"}} {
		quiet.Key = uuid.NewString()
		r, err := d.Plan(t.Context(), d.people["ines"], quiet)
		require.NoError(t, err)
		require.Nil(t, r.Confirm, quiet.Do)
	}
}

func TestRightsAreCheckedForEveryAct(t *testing.T) {
	d := newDesk(t)
	ctx, grounds := t.Context(), d.id("/grounds")
	noor, ines := d.people["noor"], d.people["ines"]
	acts := map[string]func(plan.Person) error{
		"plan": func(p plan.Person) error {
			_, err := d.Plan(ctx, p, appsitemap.PlanAct{Key: uuid.NewString(), Do: "retitle", ID: grounds, Value: "X"})
			return err
		},
		"undo":    func(p plan.Person) error { _, err := d.Undo(ctx, p); return err },
		"upload":  func(p plan.Person) error { _, err := d.KeepFile(ctx, p, "a.csv", nil); return err },
		"takeout": func(p plan.Person) error { _, _, err := d.Export(ctx, p, true); return err },
		"open":    func(p plan.Person) error { _, err := d.OpenPage(ctx, p, grounds, uuid.NewString()); return err },
		"save": func(p plan.Person) error {
			_, err := d.SavePage(ctx, p, grounds, uuid.NewString(), page("x"), 0)
			return err
		},
		"lock": func(p plan.Person) error {
			_, err := d.KeepLock(ctx, p, grounds, pages.LockAsk{Window: uuid.NewString()})
			return err
		},
		"drop":    func(p plan.Person) error { return d.DropDraft(ctx, p, grounds, uuid.NewString()) },
		"page":    func(p plan.Person) error { _, err := d.Page(ctx, p, grounds); return err },
		"draw":    func(p plan.Person) error { _, _, err := d.DrawBlocks(ctx, p, grounds, nil); return err },
		"states":  func(p plan.Person) error { _, err := d.States(ctx, p, grounds); return err },
		"plain":   func(p plan.Person) error { _, err := d.PlainText(ctx, p, grounds, content.Page{}); return err },
		"unplain": func(p plan.Person) error { _, _, err := d.ReadPlain(ctx, p, grounds, "", content.Page{}); return err },
		"copy": func(p plan.Person) error {
			_, err := d.CopyBlock(ctx, p, uuid.NewString(), grounds, content.Block{Type: content.Text, Text: "x"})
			return err
		},
		"file": func(p plan.Person) error {
			_, err := d.AddFile(ctx, p, textFile("a.txt", "x"))
			return err
		},
		"files":  func(p plan.Person) error { _, err := d.Files(ctx, p, "", false, 1); return err },
		"unfile": func(p plan.Person) error { return d.RemoveFile(ctx, p, "x") },
		"decide": func(p plan.Person) error { return d.Decide(ctx, p, grounds, "gone", false, "") },
		"look":   func(p plan.Person) error { _, err := d.LookAhead(ctx, p, editions.Select{}); return err },
		"past":   func(p plan.Person) error { _, _, err := d.PastEditions(ctx, p); return err },
	}
	for name, act := range acts {
		require.ErrorIs(t, act(noor), plan.ErrForbidden, "a reader may not %s", name)
	}
	for _, p := range []plan.Person{noor, ines} {
		_, err := d.Publish(ctx, p, editions.PublishAsk{Key: uuid.NewString(), Why: "x"})
		require.ErrorIs(t, err, plan.ErrForbidden)
		_, err = d.Rollback(ctx, p, uuid.NewString(), 1, "x")
		require.ErrorIs(t, err, plan.ErrForbidden)
	}
}

func TestPublishingTwiceActsOnceAndNumbersHaveNoGaps(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds"), Value: "Outdoors"})
	_, err := d.tryPublish("marta", "  ")
	require.Error(t, err, "a sentence why is needed")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/visitors"), Value: "Guests"})
	ask := editions.PublishAsk{Key: uuid.NewString(), Why: "Names"}
	first, err := d.Publish(ctx, marta, ask)
	require.NoError(t, err)
	again, err := d.Publish(ctx, marta, ask)
	require.NoError(t, err)
	require.Equal(t, []int{2, 2}, []int{first.Number, again.Number})
	_, err = d.tryPublish("marta", "Nothing")
	require.Error(t, err)
	eds, _, err := d.PastEditions(ctx, marta)
	require.NoError(t, err)
	require.Len(t, eds, 2)
	require.Equal(t, "Names", eds[0].Why)
	require.Len(t, eds[0].Changes, 2)
}

func TestAddressesSwapPlaces(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "aside"})
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: compost, Value: "ponds"})
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: ponds, Value: "compost"})
	d.publish("marta", "They change places")
	l := d.live()
	require.Equal(t, ponds, l.Tree.At(l.Tree.PageAt("/grounds/compost")).ID)
	require.Equal(t, compost, l.Tree.At(l.Tree.PageAt("/grounds/ponds")).ID)
	require.Equal(t, 200, l.Table.Resolve("/grounds/ponds").Code)
}

func TestRemovedPagesWantADecision(t *testing.T) {
	d := newDesk(t)
	ctx, ponds := t.Context(), d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: ponds})
	_, err := d.tryPublish("marta", "Away with it")
	notReady := (*editions.NotReady)(nil)
	require.ErrorAs(t, err, &notReady)
	require.Equal(t, preflight.UndecidedPage, notReady.Findings[0].Rule)
	for _, wrong := range []string{"/nowhere", ponds, "some-id"} {
		require.Error(t, d.Decide(ctx, d.people["ines"], ponds, wrong, false, ""), wrong)
	}
	require.NoError(t, d.Decide(ctx, d.people["ines"], ponds, "/grounds", true, "2027-01-01"))
	d.publish("marta", "Away with it")
	got := d.live().Table.Resolve("/grounds/ponds?x=1")
	require.Equal(t, 302, got.Code)
	require.Equal(t, "/grounds?x=1", got.Location)
	d.act("ines", appsitemap.PlanAct{Do: "fact", Field: "slug", ID: d.id("/grounds"), Value: "outdoors"})
	d.publish("marta", "Its target moves")
	require.Equal(t, "/outdoors", d.live().Table.Resolve("/grounds/ponds").Location, "no chain")
	require.Empty(t, redirect.Unanswered(d.live().Table, []string{"/grounds", "/grounds/ponds", "/grounds/compost"}))
}

func TestGoingBackReturnsTheRestToThePlan(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds := t.Context(), d.people["marta"], d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Waters"})
	d.write("ines", ponds, "The second text")
	added := d.act("ines", appsitemap.PlanAct{Do: "add", Value: "Science"}).ID
	d.write("ines", added, "Born in the second edition")
	d.publish("marta", "Second")
	d.write("ines", d.id("/visitors"), "A draft that waits")

	e, err := d.Rollback(ctx, marta, uuid.NewString(), 1, "Too soon")
	require.NoError(t, err)
	require.Equal(t, []int{3, 1}, []int{e.Number, e.BackTo})
	require.Contains(t, d.body(ponds), "About /grounds/ponds")
	l := d.live()
	require.Equal(t, "Ponds", l.Tree.At(l.Tree.Find(ponds)).Title)
	require.Equal(t, 302, l.Table.Resolve("/science").Code, "born since, and to come again")
	require.Equal(t, map[string]bool{
		"title Waters": false, "content Waters": false, "added Science": false, "content Visitors": true,
	}, d.planned(), "what was taken back is planned again, not ticked")

	_, err = d.Rollback(ctx, marta, uuid.NewString(), 2, "Not too soon")
	require.NoError(t, err)
	require.Contains(t, d.body(ponds), "The second text")
	require.Equal(t, 200, d.live().Table.Resolve("/science").Code)
	_, err = d.Rollback(ctx, marta, uuid.NewString(), 3, "And back")
	require.NoError(t, err)
	require.Contains(t, d.body(ponds), "About /grounds/ponds")
	require.Contains(t, d.body(d.id("/visitors")), "About /visitors", "a page that never changed")
}

func TestAnotherTemplateRendersAPageAgain(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	require.Contains(t, d.body(compost), "Ask before you start.")
	require.NotContains(t, d.body(ponds), "Ask before you start.")
	d.act("ines", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "template", Value: "procedure"})
	d.write("ines", compost, "")
	_, err := d.tryPublish("marta", "Procedures")
	notReady := (*editions.NotReady)(nil)
	require.ErrorAs(t, err, &notReady)
	require.Equal(t, preflight.RequiredSlot, notReady.Findings[0].Rule)
	d.write("ines", compost, "Turn it")
	d.publish("marta", "Procedures")
	require.Contains(t, d.body(ponds), "Ask before you start.")
	require.Contains(t, d.body(ponds), "About /grounds/ponds")
	require.Empty(t, d.planned())
}

func TestLinksToNothingStopAnEdition(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	for link, broken := range map[string]bool{
		"page:" + d.id("/grounds/compost"): false, "/grounds/compost": false, "/GROUNDS/compost/?x=1#y": false, "https://weather.quillmere.example": false,
		"mailto:gate@quillmere.example": false, "/files/map.pdf": false, "/nowhere": true, "page:none": true,
	} {
		d.write("ines", ponds, fmt.Sprintf("[there](%s)", link))
		errs, _ := check.Count(d.look("marta").Findings)
		require.Equal(t, broken, errs == 1, link)
	}
}

func TestAFileWhoseProcessWasKilledIsTakenUpAgain(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	id, err := d.PutFile(ctx, ines, "plan.csv", []byte("level,title\n1,Science\n"))
	require.NoError(t, err)
	running := func() (state string) {
		require.NoError(t, d.pool.QueryRow(ctx, `SELECT state FROM river_job WHERE kind = 'read_file' AND args ->> 'id' = $1`, id).Scan(&state))
		return state
	}
	_, err = d.pool.Exec(ctx, `UPDATE river_job SET state = 'running', attempt = 1, attempted_at = now(), attempted_by = '{a process that is gone}' WHERE kind = 'read_file'`)
	require.NoError(t, err)
	_, err = d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, "running", running(), "somebody reads it")
	d.now = d.now.Add(2 * time.Minute)
	_, err = d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, "available", running())
	require.NoError(t, d.ReadFile(ctx, id, readSheet))
	require.NoError(t, d.ReadFile(ctx, id, readSheet), "reading twice reads once")
	b, err := d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, appsitemap.ImportReady, b.State)
	_, err = d.ImportState(ctx, d.people["marta"], id)
	require.ErrorIs(t, err, plan.ErrNotFound, "somebody else's file")

	require.NoError(t, d.store.WriteUnlocked(ctx, func(tx app.Tx, _ plan.Site) error {
		still, err := tx.SetImport(ctx, id, appsitemap.ImportReady, appsitemap.ImportStep{State: appsitemap.ImportWriting, Total: 1, At: d.now})
		require.True(t, still)
		return err
	}))
	_, err = d.AcceptFile(ctx, ines, id)
	require.ErrorIs(t, err, plan.ErrDone)
	d.now = d.now.Add(2 * time.Minute)
	b, err = d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, appsitemap.ImportReady, b.State)
	_, err = d.PreviewFile(ctx, ines, id, appsitemap.ImportChoice{Mode: sheet.Update})
	require.NoError(t, err)
	_, err = d.AcceptFile(ctx, ines, id)
	require.NoError(t, err)
	require.NotEqual(t, sitemap.None, d.next().ClaimedBy("/science"))
	require.NoError(t, d.ReadFile(ctx, id, readSheet), "a late reader changes nothing")
	b, err = d.ImportState(ctx, ines, id)
	require.NoError(t, err)
	require.Equal(t, appsitemap.ImportWritten, b.State)
}

func TestAnyTwoStatesCompare(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds"), Value: "Outdoors"})
	d.publish("marta", "A name")
	d.act("ines", appsitemap.PlanAct{Do: "add", Value: "Science"})
	for states, want := range map[[2]string]int{{"live", "next"}: 1, {"1", "2"}: 1, {"1", "next"}: 2, {"2", "live"}: 0, {"next", "1"}: 2} {
		c, err := d.Compare(ctx, ines, states[0], states[1])
		require.NoError(t, err)
		require.Len(t, c.Changes, want, "%v", states)
	}
	for _, none := range []string{"0", "3", "x", ""} {
		_, err := d.Compare(ctx, ines, none, "next")
		require.ErrorIs(t, err, plan.ErrNotFound, none)
	}
	_, err := d.Compare(ctx, d.people["noor"], "live", "next")
	require.ErrorIs(t, err, plan.ErrForbidden)
}

func TestAPastedListIsOneAct(t *testing.T) {
	d := newDesk(t)
	before := d.next().Entries()
	r := d.act("ines", appsitemap.PlanAct{Do: "paste", Parent: d.id("/grounds"), Value: "Ponds\n\tNewts\nBeds"})
	require.Equal(t, "pasted 2 entries; 1 was there already", r.Label)
	require.Len(t, r.Patches, 2)
	d.id("/grounds/ponds/newts")
	_, err := d.Undo(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, before, d.next().Entries())
	_, err = d.try("ines", appsitemap.PlanAct{Do: "paste", Value: " "})
	require.ErrorIs(t, err, sheet.ErrPastedNothing)
	_, err = d.try("ines", appsitemap.PlanAct{Do: "paste", Parent: "zzz", Value: "A"})
	require.ErrorIs(t, err, sitemap.ErrNoEntry)
}

func TestABranchIsCopiedWithItsText(t *testing.T) {
	d := newDesk(t)
	ctx, ines, grounds, ponds, compost := t.Context(), d.people["ines"], d.id("/grounds"), d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.write("ines", ponds, "See [compost](page:"+compost+") and [visitors](page:"+d.id("/visitors")+")")
	d.publish("marta", "Ponds and compost")
	d.write("ines", compost, "A draft about [ponds](page:"+ponds+")")

	key := uuid.NewString()
	res, err := d.Plan(ctx, ines, appsitemap.PlanAct{Key: key, Do: "copy", ID: grounds})
	require.NoError(t, err)
	require.Equal(t, `copied "Grounds"`, res.Label)
	next := d.next()
	twins := next.CopyPairs(grounds, res.ID)
	require.Len(t, twins, 3)
	require.Equal(t, "/copy-of-grounds/ponds", next.Address(next.Find(twins[ponds])))
	text := func(id string) string {
		v, err := d.OpenPage(ctx, ines, id, uuid.NewString())
		require.NoError(t, err)
		return v.Content.Slots["main"][0].Text
	}
	require.Equal(t, "See [compost](page:"+twins[compost]+") and [visitors](page:"+d.id("/visitors")+")", text(twins[ponds]))
	require.Equal(t, "A draft about [ponds](page:"+twins[ponds]+")", text(twins[compost]))
	require.Equal(t, "A draft about [ponds](page:"+ponds+")", text(compost), "the first keeps its links")

	_, err = d.Plan(ctx, ines, appsitemap.PlanAct{Key: key, Do: "copy", ID: grounds})
	require.NoError(t, err, "the same form again")
	require.Equal(t, next.Len(), d.next().Len())
	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	require.Equal(t, sitemap.None, d.next().Find(res.ID))
	_, err = d.Redo(ctx, ines)
	require.NoError(t, err)
	require.Equal(t, "A draft about [ponds](page:"+twins[ponds]+")", text(twins[compost]))
	d.publish("marta", "Two of them")
	require.NotEqual(t, sitemap.None, d.live().Tree.PageAt("/copy-of-grounds/compost"))
}

func TestActsOnSeveral(t *testing.T) {
	d := newDesk(t)
	ctx, ines, ponds, compost := t.Context(), d.people["ines"], d.id("/grounds/ponds"), d.id("/grounds/compost")
	before := d.next()
	both := []string{ponds, compost}
	d.act("ines", appsitemap.PlanAct{Do: "fact", IDs: both, Field: "readership", Value: "editor"})
	for _, id := range both {
		require.Equal(t, "editor", d.next().Ref(d.next().Find(id)).Readership)
	}
	to := d.id("/visitors")
	res, err := d.Plan(ctx, ines, appsitemap.PlanAct{Key: uuid.NewString(), Do: "move", IDs: both, Parent: to})
	require.NoError(t, err)
	require.NotNil(t, res.Confirm, "colleagues use these addresses")
	require.Equal(t, 2, res.Confirm.FromLive)
	require.Empty(t, res.Patches)
	res, err = d.Plan(ctx, ines, appsitemap.PlanAct{Key: uuid.NewString(), Do: "move", IDs: both, Parent: to, Confirmed: true})
	require.NoError(t, err)
	require.Equal(t, "moved 2 entries", res.Label)
	require.NotEqual(t, sitemap.None, d.next().ClaimedBy("/visitors/ponds"))

	_, err = d.Plan(ctx, ines, appsitemap.PlanAct{Key: uuid.NewString(), Do: "remove", IDs: []string{ponds, "gone"}})
	require.ErrorIs(t, err, sitemap.ErrNoEntry)
	require.NotEqual(t, sitemap.None, d.next().Find(ponds), "all or none")
	_, err = d.Plan(ctx, d.people["noor"], appsitemap.PlanAct{Key: uuid.NewString(), Do: "remove", IDs: both, Confirmed: true})
	require.ErrorIs(t, err, plan.ErrForbidden)
	for range 2 {
		_, err = d.Undo(ctx, ines)
		require.NoError(t, err)
	}
	require.Equal(t, before.Entries(), d.next().Entries())
}

func TestSortingIsOneActAndFewReorderings(t *testing.T) {
	d := newDesk(t)
	ctx, ines, grounds := t.Context(), d.people["ines"], d.id("/grounds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/compost"), Value: "Composting"})
	d.act("ines", appsitemap.PlanAct{Do: "add", Parent: grounds, After: d.id("/grounds/ponds"), Value: "benches"})
	before := d.next()
	res, err := d.Plan(ctx, ines, appsitemap.PlanAct{Key: uuid.NewString(), Do: "sort", ID: grounds})
	require.NoError(t, err)
	var titles []string
	for c := range d.next().Children(d.next().Find(grounds)) {
		titles = append(titles, d.next().Ref(c).Title)
	}
	require.Equal(t, []string{"benches", "Composting", "Ponds"}, titles)
	require.Len(t, res.Patches, 1, "one of the three moves")
	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	require.Equal(t, before.Entries(), d.next().Entries())
	_, err = d.Plan(ctx, ines, appsitemap.PlanAct{Key: uuid.NewString(), Do: "sort", ID: d.id("/grounds/ponds")})
	require.ErrorIs(t, err, sitemap.ErrNothingBelow)
}

func TestPasswords(t *testing.T) {
	hash, err := account.HashPassword("sesame")
	require.NoError(t, err)
	require.True(t, account.CheckPassword(hash, "sesame"))
	require.False(t, account.CheckPassword(hash, "Sesame"))
	require.False(t, account.CheckPassword("", ""))
	require.False(t, account.CheckPassword("$argon2id$v=19$m=x$a$b", ""))
}

func TestSearchFindsWhatIsLiveOnly(t *testing.T) {
	d := newDesk(t)
	ctx, ponds := t.Context(), d.id("/grounds/ponds")
	d.write("ines", ponds, "Newts and dragonflies")
	hits := func(q string) int {
		h, err := d.search(d.live().Tree, q, 10)
		require.NoError(t, err)
		return len(h)
	}
	require.Zero(t, hits("newts"), "a draft is nobody's")
	d.publish("marta", "Newts")
	require.Equal(t, 1, hits("newt"))
	require.Equal(t, 1, hits(`"dragonflies" -compost`))
	require.Equal(t, 1, hits("ponds"), "by title")
	require.Zero(t, hits("') OR 1=1 --"))
	require.Zero(t, hits("!!! ((("))
	d.act("ines", appsitemap.PlanAct{Do: "withdraw", ID: ponds})
	require.NoError(t, d.Decide(ctx, d.people["ines"], ponds, "/grounds", false, ""))
	d.publish("marta", "Dry season")
	require.Zero(t, hits("newt"))
	require.Equal(t, 302, d.live().Table.Resolve("/grounds/ponds").Code, "it is to come back")
}

// Whoever may read only the last of many finds it all the same.
// The words of a draft are found once nobody writes on it; where it is published before
// that, the search finds it just the same.
func TestWordsOfDraftsAreFoundBeside(t *testing.T) {
	d := newDesk(t)
	missing := func() (n int) {
		require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(*) FROM page_words WHERE words IS NULL`).Scan(&n))
		return n
	}
	finds := func(word string) int {
		hits, err := d.search(d.live().Tree, word, 5)
		require.NoError(t, err)
		return len(hits)
	}
	require.Zero(t, missing(), "everything is published")
	d.write("ines", d.id("/grounds/ponds"), "Newts in spring.")
	require.Equal(t, 1, missing())
	require.NoError(t, d.FinishDrafts(t.Context()))
	require.Equal(t, 1, missing(), "somebody may be writing still")
	d.now = d.now.Add(2 * time.Minute)
	require.NoError(t, d.FinishDrafts(t.Context()))
	require.Zero(t, missing())
	d.write("ines", d.id("/grounds/compost"), "Slowworms in autumn.")
	d.publish("marta", "Who lives where")
	require.Zero(t, missing())
	require.Equal(t, []int{1, 1}, []int{finds("newts"), finds("slowworms")})
	d.write("ines", d.id("/grounds/ponds"), "Toads in spring.")
	d.publish("marta", "Who lives there now")
	require.Equal(t, []int{0, 1}, []int{finds("newts"), finds("toads")})
}

func TestSearchLooksFarEnoughForWhoMayReadLittle(t *testing.T) {
	d := newDesk(t)
	d.bring("marta", sheet.Update, "level,title,template\n0,Home,topic\n1,Shed,topic\n1,Newts here,topic\n")
	var titles []string
	for i := range 40 {
		titles = append(titles, fmt.Sprintf("Newts %d", i))
	}
	d.act("marta", appsitemap.PlanAct{Do: "paste", Parent: d.id("/shed"), Value: strings.Join(titles, "\n")})
	d.publish("marta", "Newts everywhere")
	visible, err := d.live().Tree.Remove(d.id("/shed"))
	require.NoError(t, err)
	hits, err := d.search(visible, "newts", 3)
	require.NoError(t, err)
	require.Len(t, hits, 1)
	require.Equal(t, d.id("/newts-here"), hits[0].EntryID)
	hits, err = d.search(d.live().Tree, "newts", 3)
	require.NoError(t, err)
	require.Len(t, hits, 3)
}

func readSheet(_ context.Context, name string, r io.Reader, progress func(int)) (*sheet.Sheet, error) {
	return files.ReadSitemap(name, r, files.Options{Progress: progress})
}

// memory keeps what files hold while a test runs.
func memory(t *testing.T) plan.Objects {
	o, err := objects.Open(t.Context(), "mem://")
	require.NoError(t, err)
	t.Cleanup(func() { _ = o.Close() })
	return o
}
