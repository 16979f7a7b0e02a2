package app_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/review"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/textdiff"
	"candlepath/internal/core/workflow"
)

// asksFor has the site ask for approval.
func (d *desk) asksFor(values setting.Values) {
	d.t.Helper()
	require.NoError(d.t, d.SaveSettings(d.t.Context(), d.people["marta"], values, nil))
}

func (d *desk) queue(login string) editions.Queue {
	d.t.Helper()
	q, err := d.Queue(d.t.Context(), d.people[login])
	require.NoError(d.t, err)
	return q
}

// states tells where what is planned stands, by title.
func (d *desk) states() map[string]workflow.State {
	d.t.Helper()
	q, out := d.queue("marta"), map[string]workflow.State{}
	for _, i := range q.Items {
		title := q.Trees.Title(i.ID)
		if _, twice := out[title]; twice {
			title += " too"
		}
		out[title] = i.State
	}
	return out
}

func (d *desk) send(login string, ask editions.SendAsk) error {
	_, err := d.SendForReview(d.t.Context(), d.people[login], ask)
	return err
}

// judge decides about things as they stand now.
func (d *desk) judge(login string, step workflow.Step, word string, ids ...string) error {
	d.t.Helper()
	var list []editions.Judged
	q := d.queue(login)
	for _, id := range ids {
		item, _ := q.Find(id, workflow.InReview)
		list = append(list, editions.Judged{ID: id, Stamp: item.Stamp})
	}
	_, err := d.Judge(d.t.Context(), d.people[login], step, list, word)
	return err
}

func (d *desk) inbox(login string) []string {
	d.t.Helper()
	list, err := d.Inbox(d.t.Context(), d.people[login])
	require.NoError(d.t, err)
	return wordsOf(list)
}

// unapproved counts what lacks approval where everything is chosen.
func (d *desk) unapproved() (n int) {
	d.t.Helper()
	for _, f := range d.look("marta", change.Key{}).Findings {
		if f.Rule == preflight.ReviewMissing {
			n++
		}
	}
	return n
}

// A text and a move go through review: sent, sent back with a word, sent again, approved, edited,
// which takes the approval away, and published. Everybody concerned is told.
func TestReview(t *testing.T) {
	d := newDesk(t)
	d.asksFor(setting.Values{setting.ReviewAsked: setting.On, setting.FourEyes: setting.On})
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.write("ines", ponds, "The ponds are deeper than they look.")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost heaps"})
	require.Equal(t, map[string]workflow.State{"Ponds": workflow.Draft, "Compost heaps": workflow.Draft}, d.states())
	require.Equal(t, 2, d.unapproved())
	_, err := d.tryPublish("marta", "Too early", change.Key{})
	require.ErrorAs(t, err, new(*editions.NotReady), "no role publishes around a review")
	require.Empty(t, d.look("marta").Chosen, "what lacks approval is not ticked by itself")

	t.Log("it is sent")
	anselm := d.people["anselm"].ID
	for why, ask := range map[string]editions.SendAsk{
		"Select at least one": {}, "can publish": {IDs: []string{ponds}, To: d.people["noor"].ID}, "today or a later": {IDs: []string{ponds}, Due: "2026-11-24"}, "Nothing of this": {IDs: []string{"nothing"}},
	} {
		require.ErrorContains(t, d.send("ines", ask), why)
	}
	require.ErrorIs(t, d.send("noor", editions.SendAsk{IDs: []string{ponds}}), plan.ErrForbidden)
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds, compost}, To: anselm, Message: "Please before Friday", Due: "2026-11-27", Informed: []string{d.people["marta"].ID}}))
	require.Equal(t, []string{`ines of Quillmere asked you to review "Ponds", "Compost heaps". “Please before Friday” By 2026-11-27.`}, d.inbox("anselm"))
	require.Empty(t, d.inbox("marta"), "only who is asked is told")
	require.ErrorContains(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}}), "Nothing of this", "it is sent once")

	t.Log("who made it may not approve it, and who sends it back says why")
	require.ErrorContains(t, d.judge("ines", workflow.Approve, "", ponds), "can publish")
	require.ErrorContains(t, d.judge("anselm", workflow.SendBack, " ", ponds), "Say what needs fixing")
	require.NoError(t, d.judge("anselm", workflow.SendBack, "How deep?", ponds))
	require.Equal(t, []string{`anselm of Quillmere sent back "Ponds". “How deep?”`}, d.inbox("ines"))
	require.Equal(t, []string{`anselm of Quillmere sent back "Ponds". “How deep?”`}, d.inbox("marta"))
	require.Equal(t, map[string]workflow.State{"Ponds": workflow.Draft, "Compost heaps": workflow.InReview}, d.states())
	require.NoError(t, d.judge("anselm", workflow.Approve, "", compost))
	require.ErrorContains(t, d.judge("anselm", workflow.Approve, "", compost), "no longer in review", "approved twice")

	t.Log("what is approved while it is edited is what was looked at")
	d.write("ines", ponds, "The ponds are two metres deep.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}}))
	require.Len(t, d.inbox("marta"), 3, "nobody is named, so all who may publish are asked")
	q := d.queue("anselm")
	looked, _ := q.Find(ponds, workflow.InReview)
	d.write("ines", ponds, "The ponds are three metres deep.")
	_, err = d.Judge(t.Context(), d.people["anselm"], workflow.Approve, []editions.Judged{{ID: ponds, Stamp: looked.Stamp}}, "")
	require.ErrorContains(t, err, "it was edited")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: anselm}))
	_, err = d.Judge(t.Context(), d.people["anselm"], workflow.Approve, []editions.Judged{{ID: ponds, Stamp: looked.Stamp}}, "")
	require.ErrorContains(t, err, "has changed since you opened")
	require.NoError(t, d.judge("ines", workflow.Recall, "", ponds))
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: anselm}))
	require.NoError(t, d.judge("anselm", workflow.Approve, "Good", ponds))
	require.Equal(t, map[string]workflow.State{"Ponds": workflow.Ready, "Compost heaps": workflow.Ready}, d.states())

	t.Log("an edit takes the approval away, and putting it back as it was does not give it again; its people are told")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Heaps"})
	require.Equal(t, workflow.Draft, d.states()["Heaps"])
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost heaps"})
	require.Equal(t, workflow.Draft, d.states()["Compost heaps"])
	require.Contains(t, d.inbox("anselm")[0], "ines of Quillmere edited “Heaps”, which was approved")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{compost}, To: anselm}))
	require.NoError(t, d.judge("anselm", workflow.Approve, "", compost))
	e := d.publish("anselm", "Ponds and compost")
	require.Equal(t, anselm, d.people["anselm"].ID)
	eds, _, err := d.PastEditions(t.Context(), d.people["marta"])
	require.NoError(t, err)
	require.Equal(t, e.Number, eds[0].Number)
	for _, c := range eds[0].Changes {
		require.Equal(t, anselm, c.ApprovedBy)
	}
	var left int
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(*) FROM change_states`).Scan(&left))
	require.Zero(t, left, "what is out stands nowhere any more")
}

// Four eyes hold for everybody who wrote on a page, a site manager too, and a branch can ask for
// less or more than the site.
func TestFourEyesByBranch(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	grounds, ponds, hours := d.id("/grounds"), d.id("/grounds/ponds"), d.id("/visitors/opening-hours")
	four, nothing := workflow.FourEyes, workflow.NoApproval
	require.ErrorIs(t, d.BranchAsks(ctx, d.people["anselm"], grounds, &four), plan.ErrForbidden)
	require.NoError(t, d.BranchAsks(ctx, marta, grounds, &four))
	d.now = d.now.Add(time.Hour)
	d.write("anselm", ponds, "Deep.")
	d.write("marta", ponds, "Deep and cold.")
	d.write("ines", hours, "Nine to five.")
	require.Equal(t, 1, d.unapproved(), "the rest of the site asks for nothing")
	require.NoError(t, d.send("marta", editions.SendAsk{IDs: []string{ponds}}))
	require.ErrorContains(t, d.judge("marta", workflow.Approve, "", ponds), "someone else must approve")
	require.ErrorContains(t, d.judge("anselm", workflow.Approve, "", ponds), "someone else must approve", "he wrote on it before")
	require.NoError(t, d.BranchAsks(ctx, marta, ponds, &nothing))
	require.Zero(t, d.unapproved())
	require.NoError(t, d.BranchAsks(ctx, marta, ponds, nil))
	require.Equal(t, 1, d.unapproved())
	d.act("marta", appsitemap.PlanAct{Do: "move", ID: ponds, Parent: d.id("/visitors")})
	require.Equal(t, 1, d.unapproved(), "moving it away does not help")

	t.Log("who retitled a page first may not approve what somebody else retitled after")
	compost := d.id("/grounds/compost")
	d.act("anselm", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Heaps"})
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Compost heaps"})
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{compost}}))
	require.ErrorContains(t, d.judge("anselm", workflow.Approve, "", compost), "someone else must approve")
	require.NoError(t, d.judge("marta", workflow.Approve, "", compost))
	require.ErrorContains(t, d.BranchAsks(ctx, marta, "nowhere", &four), "Choose a page")
	odd := workflow.ApprovalPolicy("ten eyes")
	require.ErrorContains(t, d.BranchAsks(ctx, marta, ponds, &odd), "Choose which")
}

// A reviewer who leaves gives the request to another, and remarks are answered and settled.
func TestPassingOnAndRemarks(t *testing.T) {
	d := newDesk(t)
	ctx, ines, anselm, marta := t.Context(), d.people["ines"], d.people["anselm"], d.people["marta"]
	ponds := d.id("/grounds/ponds")
	d.write("ines", ponds, "Deep.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: anselm.ID}))
	item, _ := d.queue("ines").Find(ponds, workflow.InReview)
	require.ErrorIs(t, d.PassOn(ctx, d.people["noor"], item.Review, marta.ID), plan.ErrForbidden)
	require.ErrorContains(t, d.PassOn(ctx, anselm, item.Review, ines.ID), "can publish")
	require.ErrorIs(t, d.PassOn(ctx, anselm, uuid.NewString(), marta.ID), plan.ErrNotFound)
	require.NoError(t, d.PassOn(ctx, anselm, item.Review, marta.ID))
	require.Len(t, d.inbox("marta"), 1)
	require.Equal(t, marta.ID, d.queue("ines").Request(item).To)

	require.NoError(t, d.Remark(ctx, marta, ponds, editions.Remark{Words: "How deep?", Place: "block"}))
	require.Contains(t, d.inbox("ines")[0], "“How deep?”")
	all, err := d.Remarks(ctx, ines, ponds)
	require.NoError(t, err)
	require.NoError(t, d.Remark(ctx, ines, ponds, editions.Remark{Words: "Two metres", Answers: all[0].ID}))
	require.NoError(t, d.SettleRemark(ctx, marta, ponds, all[0].ID, true))
	require.ErrorIs(t, d.SettleRemark(ctx, marta, d.id("/grounds"), all[0].ID, true), plan.ErrNotFound)
	require.ErrorContains(t, d.Remark(ctx, ines, ponds, editions.Remark{Words: " "}), "Enter a comment")
	require.ErrorIs(t, d.Remark(ctx, ines, d.id("/visitors"), editions.Remark{Words: "Nothing is planned here"}), plan.ErrNotFound)
	all, err = d.Remarks(ctx, ines, ponds)
	require.NoError(t, err)
	require.Len(t, all, 2)
	require.True(t, all[0].Settled)
	require.Equal(t, all[0].ID, all[1].Answers)
	d.publish("marta", "Deep", change.Key{})
	all, err = d.Remarks(ctx, ines, ponds)
	require.NoError(t, err)
	require.Empty(t, all, "they went out with it")
}

// What is planned in a branch is found, also of a page that leaves it.
func TestWhatIsPlannedInABranch(t *testing.T) {
	d := newDesk(t)
	grounds, ponds := d.id("/grounds"), d.id("/grounds/ponds")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/compost"), Value: "Heaps"})
	d.act("ines", appsitemap.PlanAct{Do: "move", ID: ponds, Parent: d.id("/visitors")})
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/visitors/opening-hours"), Value: "Hours"})
	q, found := d.queue("ines"), map[string]bool{}
	for _, i := range q.Items {
		found[q.Trees.Title(i.ID)] = q.AtOrBelow(i, grounds)
	}
	require.Equal(t, map[string]bool{"Heaps": true, "Ponds": true, "Hours": false}, found)
	require.Len(t, q.Mine(d.people["ines"]).Drafts, 3)
	require.Empty(t, q.Mine(d.people["anselm"]))
}

// Once the day of a request is past, who is asked and who sent it are told once, and the frame of
// every screen says so.
func TestOverdueReviews(t *testing.T) {
	d := newDesk(t)
	d.write("ines", d.id("/grounds/ponds"), "Deep.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{d.id("/grounds/ponds")}, To: d.people["anselm"].ID, Due: "2026-11-26"}))
	asked := func(login string) [2]int {
		waiting, overdue := d.queue(login).AskedOf(d.people[login])
		return [2]int{waiting, overdue}
	}
	require.Equal(t, [2]int{1, 0}, asked("anselm"))
	require.Equal(t, [2]int{}, asked("marta"), "another one is asked")
	d.now = time.Date(2026, 11, 27, 6, 0, 0, 0, time.UTC)
	require.Equal(t, [2]int{1, 1}, asked("anselm"))
	for range 3 {
		require.NoError(t, d.TellOverdue(t.Context()))
	}
	require.Contains(t, d.inbox("anselm"), `The review of "Ponds" was due on 2026-11-26.`)
	require.Equal(t, []string{`The review of "Ponds" was due on 2026-11-26.`}, d.inbox("ines"))
	require.Empty(t, d.inbox("marta"))
	require.NoError(t, d.MarkRead(t.Context(), d.people["ines"], 1<<60, true))
	require.NoError(t, d.TellOverdue(t.Context()))
	require.Len(t, d.inbox("ines"), 1, "it is told once")
}

// A role is asked as a group: anybody of it takes the review, nobody else is told. Where a reviewer
// left, whoever may publish takes it. What happened is told in the history of the page.
func TestGroupsHistoryAndReviewersWhoLeft(t *testing.T) {
	d := newDesk(t)
	ctx, ines, anselm, marta := t.Context(), d.people["ines"], d.people["anselm"], d.people["marta"]
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.write("ines", ponds, "Frogs.")
	d.write("ines", compost, "Heaps.")
	require.ErrorContains(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: editions.GroupOfRole(workflow.Editor)}), "can publish")
	require.ErrorContains(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: editions.GroupOfRole("gardener")}), "can publish")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: editions.GroupOfRole(workflow.Approver), Days: 3}))
	require.ErrorContains(t, d.send("marta", editions.SendAsk{IDs: []string{compost}, To: editions.GroupOfRole(workflow.Manager)}), "Nobody else has that role")
	require.Len(t, d.inbox("anselm"), 1)
	require.Empty(t, d.inbox("marta"))
	item, _ := d.queue("ines").Find(ponds, workflow.InReview)
	require.Equal(t, d.now.AddDate(0, 0, 3).Format(time.DateOnly), d.queue("ines").Request(item).Due)
	require.NoError(t, d.judge("anselm", workflow.SendBack, "Which frogs?", ponds))
	d.write("ines", ponds, "Common frogs.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds, compost}, To: marta.ID}))
	d.now = d.now.Add(time.Minute)
	require.NoError(t, d.Remark(ctx, marta, ponds, editions.Remark{Words: "Anselm knows frogs."}))
	d.now = d.now.Add(time.Minute)
	item, _ = d.queue("marta").Find(ponds, workflow.InReview)
	require.NoError(t, d.PassOn(ctx, marta, item.Review, ""))
	require.NoError(t, d.PassOn(ctx, marta, item.Review, anselm.ID))

	_, err := d.pool.Exec(ctx, `UPDATE people SET active = false WHERE id = $1`, anselm.ID)
	require.NoError(t, err)
	item, _ = d.queue("marta").Find(ponds, workflow.InReview)
	require.Empty(t, d.queue("marta").Request(item).To, "its reviewer left")
	n := d.look("marta")
	waiting, _ := n.AskedOf(marta)
	require.Equal(t, 2, waiting)
	require.NoError(t, d.judge("marta", workflow.Approve, "", ponds, compost))
	e := d.publish("marta", "Frogs")

	list, title, err := d.History(ctx, ines, ponds)
	require.NoError(t, err)
	require.Equal(t, "Ponds", title)
	var told []string
	for _, h := range list {
		if h.Edition != nil {
			told = append(told, fmt.Sprint("edition ", h.Edition.Number))
			continue
		}
		if h.Remark != nil {
			told = append(told, "remark: "+h.Remark.Words)
			continue
		}
		told = append(told, strings.TrimSpace(string(h.Step.State)+" "+h.Step.Word+strings.Replace(h.Step.PassedTo, anselm.ID, "passed to Anselm", 1)))
	}
	require.Equal(t, []string{fmt.Sprint("edition ", e.Number), "ready", "in review passed to Anselm", "in review anybody", "remark: Anselm knows frogs.", "in review", "draft Which frogs?", "in review", "edition 1"}, told)
	_, _, err = d.History(ctx, ines, "nothing")
	require.ErrorIs(t, err, plan.ErrNotFound)
	_, _, err = d.History(ctx, d.people["noor"], ponds)
	require.ErrorIs(t, err, plan.ErrForbidden)
}

// Who looks after a branch and may publish is suggested as its reviewer, unless they made it.
func TestReviewersAreSuggested(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: d.id("/grounds"), Field: "owner", Value: d.people["anselm"].Name})
	d.publish("marta", "An owner")
	people, err := d.Everyone(t.Context())
	require.NoError(t, err)
	suggested := func() string {
		q := d.queue("ines")
		item, _ := q.Find(ponds, workflow.Draft)
		return q.Suggested(item, people)
	}
	d.write("ines", ponds, "Frogs.")
	require.Equal(t, d.people["anselm"].ID, suggested())
	d.write("anselm", ponds, "Toads.")
	require.Empty(t, suggested())
}

// A review shows menus and trails as readers get them, pictures before and after, and keeps the words
// that a remark is about.
func TestWhatAReviewShows(t *testing.T) {
	d := newDesk(t)
	ctx, ines, anselm := t.Context(), d.people["ines"], d.people["anselm"]
	ponds := d.id("/grounds/ponds")
	picture := func(at string) content.Page {
		return content.Page{Slots: map[string][]content.Block{"main": {{ID: "pic", Type: content.Picture, Set: content.Values{"picture": at, "decorative": content.Yes}}}}}
	}
	d.writePage("ines", ponds, picture("/files/0123456789abcdef0123456789abcdef/frog.png"))
	d.publish("marta", "A picture")
	d.writePage("ines", ponds, picture("/files/fedcba9876543210fedcba9876543210/newt.png"))
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: ponds}})
	thing := func(id string) editions.Thing {
		q := d.queue("anselm")
		item, there := q.Find(id, workflow.Draft)
		require.True(t, there)
		got, err := d.Thing(ctx, anselm, q, item)
		require.NoError(t, err)
		return got
	}
	got := thing(ponds)
	require.Len(t, got.Shown, 1)
	for _, s := range got.Shown {
		require.Equal(t, editions.ShownPictures{Before: []string{"/files/0123456789abcdef0123456789abcdef/frog.png"}, After: []string{"/files/fedcba9876543210fedcba9876543210/newt.png"}}, s)
	}
	var came string
	for _, r := range thing(shape.MenuID(menu.Top)).Shape {
		if r.Kind == textdiff.Come {
			came += r.Text
		}
	}
	require.Contains(t, came, "Ponds")

	require.Empty(t, d.draftTemplate("marta", "procedure", func(p *content.Template) {
		p.Name, p.Parts[0] = "Way of working", fixed("Wear gloves before you start.")
	}))
	_, err := d.planTemplate("marta", "procedure")
	require.NoError(t, err)
	template := thing(shape.TemplateID("procedure"))
	require.Equal(t, "Name", template.Fields[0].Label)
	require.NotEmpty(t, template.Blocks)
	tree, _, err := d.Export(ctx, anselm, false)
	require.NoError(t, err)
	follow := 0
	for i := range tree.Len() {
		if tree.At(i).Template == "procedure" {
			follow++
		}
	}
	require.Positive(t, follow)
	require.Equal(t, follow, template.Follow)
	came = ""
	for _, r := range template.Blocks[0].Runs {
		if r.Kind == textdiff.Come {
			came += r.Text
		}
	}
	require.Contains(t, came, "Wear gloves")

	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: anselm.ID}))
	require.NoError(t, d.Remark(ctx, anselm, ponds, editions.Remark{Place: "pic", Quote: " frog ", Words: "Which one?"}))
	require.ErrorContains(t, d.Remark(ctx, anselm, ponds, editions.Remark{Quote: strings.Repeat("x", 401), Words: "Long"}), "Quote up to")
	remarks, err := d.Remarks(ctx, ines, ponds)
	require.NoError(t, err)
	require.Equal(t, "frog", remarks[0].Quote)

	// The longest remark, of signs that no index makes smaller.
	r, long := rand.New(rand.NewPCG(1, 2)), make([]rune, 2000)
	for i := range long {
		long[i] = rune(0x4E00 + r.IntN(0x5000))
	}
	require.NoError(t, d.Remark(ctx, anselm, ponds, editions.Remark{Words: string(long)}))
	require.Contains(t, strings.Join(d.inbox("ines"), ""), string(long))
}

// What was taken back or dropped while a reviewer looked at it is not approved, and they are told; a
// thing has five hundred remarks at most.
func TestReviewsOfWhatIsGone(t *testing.T) {
	d := newDesk(t)
	ctx, anselm := t.Context(), d.people["anselm"]
	ponds := d.id("/grounds/ponds")
	d.write("ines", ponds, "Frogs.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}}))
	item, _ := d.queue("anselm").Find(ponds, workflow.InReview)
	looked := []editions.Judged{{ID: ponds, Stamp: item.Stamp}}
	require.NoError(t, d.judge("ines", workflow.Recall, "", ponds))
	_, err := d.Judge(ctx, anselm, workflow.Approve, looked, "")
	require.ErrorContains(t, err, "Ponds")
	require.Equal(t, workflow.Draft, d.states()["Ponds"])

	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}}))
	_, err = d.pool.Exec(ctx, `INSERT INTO remarks (site_id, change_id, place, person_id, words, at) SELECT p.site_id, $1, '', p.id, 'Again ' || i, now() FROM people p, generate_series(1, 1000) i WHERE p.id = $2`, ponds, anselm.ID)
	require.NoError(t, err)
	require.ErrorContains(t, d.Remark(ctx, anselm, ponds, editions.Remark{Words: "One more"}), "500 comments")
	remarks, err := d.Remarks(ctx, anselm, ponds)
	require.NoError(t, err)
	require.Len(t, remarks, editions.MostRemarks)

	_, err = d.pool.Exec(ctx, `DELETE FROM page_spans WHERE entry_id = $1 AND from_edition IS NULL`, ponds) // its draft is discarded
	require.NoError(t, err)
	_, err = d.Judge(ctx, anselm, workflow.Approve, looked, "")
	require.Error(t, err)
	require.ErrorIs(t, d.Remark(ctx, anselm, ponds, editions.Remark{Words: "Where is it?"}), plan.ErrNotFound)
}

// All that a filter leaves is dealt with at once, also what is not listed, as it was looked at.
func TestAllThatMatch(t *testing.T) {
	d := newDesk(t)
	ctx, anselm := t.Context(), d.people["anselm"]
	var csv strings.Builder
	csv.WriteString("level,title\n1,Beds\n")
	for i := range 600 {
		fmt.Fprintf(&csv, "2,Bed %d\n", i)
	}
	d.bring("ines", sheet.Update, csv.String())
	drafts := func() []review.Item { return d.queue("ines").Matching("mine", d.people["ines"]) }
	all := drafts()
	require.Greater(t, len(all), 600)
	list, err := d.AllMatching(ctx, d.people["ines"], "mine", editions.AllOf(all))
	require.NoError(t, err)
	ids := make([]string, len(list))
	for i, j := range list {
		ids[i] = j.ID
	}
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: ids, To: anselm.ID}))
	waiting := d.queue("anselm").Matching("", anselm)
	require.Len(t, waiting, len(all))
	looked := editions.AllOf(waiting)
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: waiting[3].ID, Value: "Another bed"})
	_, err = d.AllMatching(ctx, anselm, "", looked)
	require.ErrorContains(t, err, "list has changed")
	waiting = d.queue("anselm").Matching("", anselm)
	list, err = d.AllMatching(ctx, anselm, "", editions.AllOf(waiting))
	require.NoError(t, err)
	done, err := d.Judge(ctx, anselm, workflow.Approve, list, "")
	require.NoError(t, err)
	require.Len(t, done, len(waiting))
}

// A history says whom a change was sent to and until when, also after it was sent back.
func TestHistorySaysToWhom(t *testing.T) {
	d := newDesk(t)
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.write("ines", ponds, "Two metres deep.")
	d.write("ines", compost, "Turned on Mondays.")
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: d.people["anselm"].ID, Due: "2026-11-30"}))
	require.NoError(t, d.judge("anselm", workflow.SendBack, "How deep?", ponds))
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{ponds}, To: editions.GroupOfRole(workflow.Approver)}))
	require.NoError(t, d.send("ines", editions.SendAsk{IDs: []string{compost}}))
	sent := func(id string) (out [][2]string) {
		list, _, err := d.History(t.Context(), d.people["ines"], id)
		require.NoError(t, err)
		for _, h := range list {
			if h.Step != nil && h.Step.State == workflow.InReview {
				out = append(out, [2]string{h.Step.SentTo, h.Step.Due})
			}
		}
		return out
	}
	require.ElementsMatch(t, [][2]string{{"group:approver", ""}, {d.people["anselm"].ID, "2026-11-30"}}, sent(ponds))
	require.Equal(t, [][2]string{{editions.Anybody, ""}}, sent(compost))
}
