package app_test

import (
	"context"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/workflow"
)

// shown gives the text of a page in a state of the site, and the titles of pages that differ.
func (d *desk) shown(st plan.SiteState, entry string) (text string, differ []string) {
	d.t.Helper()
	b, err := d.ShownBody(d.t.Context(), st, entry, st.Tree)
	require.NoError(d.t, err)
	for _, c := range st.Changed {
		differ = append(differ, st.Tree.Ref(st.Tree.Find(c.EntryID)).Title+" "+string(c.Kind))
	}
	return b.HTML, differ
}

// A state of the site shows the texts, pages and differences of it: everything planned, what was
// chosen, what is live, and what was.
func TestStatesOfTheSite(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	ponds, compost := d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.write("ines", ponds, "Frogs are counted in March.")
	first := d.publish("marta", "Frogs")
	d.write("ines", ponds, "Newts are counted, too.")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: compost, Value: "Heaps"})

	next, err := d.StateOf(ctx, marta, editions.ShowNext)
	require.NoError(t, err)
	text, differ := d.shown(next, ponds)
	require.Contains(t, text, "Newts")
	require.Equal(t, []string{"Heaps changed", "Ponds changed"}, differ)
	require.Equal(t, "Edition "+strconv.Itoa(first.Number+1)+" as planned", next.Called())

	d.choose("marta", func(f *editions.ChoiceForm) { f.Off = []change.Key{{ID: ponds, Aspect: change.Content}} })
	chosen, err := d.StateOf(ctx, marta, editions.ShowChosen)
	require.NoError(t, err)
	text, differ = d.shown(chosen, ponds)
	require.Contains(t, text, "Frogs", "its draft was not chosen")
	require.Equal(t, []string{"Heaps changed"}, differ)

	live, err := d.StateOf(ctx, marta, strconv.Itoa(first.Number))
	require.NoError(t, err)
	text, differ = d.shown(live, ponds)
	require.Contains(t, text, "Frogs")
	require.Equal(t, []string{"Ponds changed"}, differ)

	was, err := d.StateOf(ctx, marta, strconv.Itoa(first.Number-1))
	require.NoError(t, err)
	text, _ = d.shown(was, ponds)
	require.NotContains(t, text, "Frogs")
	for _, none := range []string{"0", strconv.Itoa(first.Number + 1), "draft", ""} {
		_, err = d.StateOf(ctx, marta, none)
		require.ErrorIs(t, err, plan.ErrNotFound, none)
	}
	_, err = d.StateOf(ctx, d.people["noor"], editions.ShowNext)
	require.ErrorIs(t, err, plan.ErrForbidden, "readers see what is live")
}

// What was closed to some since an edition does not open where one looks at that edition.
func TestAPastEditionStaysAsNarrowAsNow(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	before, _ := d.edition()
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: d.id("/grounds"), Field: "readership", Value: "approver"})
	d.publish("marta", "Closed")
	st, err := d.StateOf(t.Context(), d.people["marta"], strconv.Itoa(before))
	require.NoError(t, err)
	for as, sees := range map[string]bool{"": false, "editor": false, "ines": false, "approver": true, "site manager": true} {
		who, err := d.ReaderCalled(t.Context(), as)
		require.NoError(t, err)
		require.Equal(t, sees, st.Visible(who).Find(ponds) >= 0, as)
	}
}

// A link with a secret shows what is planned to somebody without an account until its time; their
// remarks arrive where the work is.
func TestSharedLinks(t *testing.T) {
	d := newDesk(t)
	ctx, ines, anselm := t.Context(), d.people["ines"], d.people["anselm"]
	ponds := d.id("/grounds/ponds")
	d.write("ines", ponds, "Newts.")
	ends := d.now.AddDate(0, 0, 7)
	for _, wrong := range []editions.ShownLink{
		{Of: "3", Ends: ends},
		{Of: editions.ShowNext, Ends: d.now},
		{Of: editions.ShowNext, Ends: d.now.AddDate(1, 0, 0)},
		{Of: editions.ShowNext, As: "nobody-here", Ends: ends},
		{Of: editions.ShowNext, As: "site manager", Ends: ends},
	} {
		_, err := d.ShareState(ctx, ines, wrong)
		var invalid *plan.Invalid
		require.ErrorAs(t, err, &invalid, "%+v", wrong)
	}
	_, err := d.ShareState(ctx, d.people["noor"], editions.ShownLink{Of: editions.ShowNext, Ends: ends})
	require.ErrorIs(t, err, plan.ErrForbidden)
	secret, err := d.ShareState(ctx, ines, editions.ShownLink{Of: editions.ShowNext, Ends: ends})
	require.NoError(t, err)
	var row string
	require.NoError(t, d.pool.QueryRow(ctx, `SELECT row_to_json(l)::text FROM shown_links l`).Scan(&row))
	require.NotContains(t, row, secret)
	_, st, err := d.OpenLink(ctx, secret)
	require.NoError(t, err)
	text, _ := d.shown(st, ponds)
	require.Contains(t, text, "Newts")
	for _, guess := range []string{"", "x", secret[1:], strings.ToUpper(secret)} {
		_, _, err = d.OpenLink(ctx, guess)
		require.ErrorIs(t, err, plan.ErrNotFound, guess)
	}

	require.ErrorContains(t, d.OutsideRemark(ctx, secret, ponds, " ", "Toads?"), "your name")
	require.ErrorContains(t, d.OutsideRemark(ctx, secret, ponds, "Lena", ""), "Enter a comment")
	require.NoError(t, d.OutsideRemark(ctx, secret, ponds, "Lena Voss", "And toads?"))
	require.Contains(t, d.inbox("ines")[0], "Lena Voss, by a link that you shared")
	remarks, err := d.Remarks(ctx, anselm, ponds)
	require.NoError(t, err)
	require.Equal(t, "Lena Voss", remarks[0].Name)
	require.NoError(t, d.OutsideRemark(ctx, secret, d.id("/visitors"), "Lena Voss", "Not planned, but said."))
	remarks, err = d.Remarks(ctx, anselm, d.id("/visitors"))
	require.NoError(t, err)
	require.Empty(t, remarks, "nothing of it is reviewed")
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: d.id("/grounds"), Field: "readership", Value: "approver"})
	require.NoError(t, d.OutsideRemark(ctx, secret, ponds, "Lena Voss", "Guessed."))
	require.Contains(t, d.inbox("ines")[0], "commented on the planned site")
	remarks, err = d.Remarks(ctx, anselm, ponds)
	require.NoError(t, err)
	require.Len(t, remarks, 1, "the link does not show that page any more")
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: d.id("/grounds"), Field: "readership", Value: ""})
	own, err := d.ShareState(ctx, ines, editions.ShownLink{Of: editions.ShowChosen, Ends: ends})
	require.NoError(t, err)
	d.choose("ines", func(f *editions.ChoiceForm) { f.Every = "out" })
	require.NoError(t, d.OutsideRemark(ctx, own, ponds, "Lena Voss", "Of what is live."))
	remarks, err = d.Remarks(ctx, anselm, ponds)
	require.NoError(t, err)
	require.Len(t, remarks, 1, "what that link shows of the page is not planned")
	_, err = d.pool.Exec(ctx, `DELETE FROM shown_links WHERE state = 'chosen'`)
	require.NoError(t, err)
	_, err = d.pool.Exec(ctx, `UPDATE shown_links SET remarks = 200`)
	require.NoError(t, err)
	require.ErrorContains(t, d.OutsideRemark(ctx, secret, ponds, "Lena", "Again"), "no more comments")

	list, _, err := d.ShownLinks(ctx, anselm)
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.ErrorIs(t, d.EndLink(ctx, anselm, list[0].ID), plan.ErrForbidden)
	d.now = ends.Add(time.Second)
	_, _, err = d.OpenLink(ctx, secret)
	require.ErrorIs(t, err, plan.ErrNotFound, "its time is past")
	d.now = ends.AddDate(0, 0, -1)
	require.NoError(t, d.EndLink(ctx, ines, list[0].ID))
	_, _, err = d.OpenLink(ctx, secret)
	require.ErrorIs(t, err, plan.ErrNotFound, "it was ended")

	_, err = d.ShareState(ctx, ines, editions.ShownLink{Of: editions.ShowNext, Ends: d.now.AddDate(0, 0, 1)})
	require.NoError(t, err)
	kept := func() (n int) {
		require.NoError(t, d.CleanUp(ctx))
		require.NoError(t, d.pool.QueryRow(ctx, `SELECT count(*) FROM shown_links`).Scan(&n))
		return n
	}
	d.now = d.now.AddDate(0, 0, 30)
	require.Equal(t, 1, kept())
	d.now = d.now.AddDate(0, 0, 2)
	require.Zero(t, kept(), "long past its end")
}

// Many drafts that were just written are published at once; what the search needs of them is found
// right after it, whatever time has passed.
func TestTheWordsOfManyDraftsFollowTheirEdition(t *testing.T) {
	d := newDesk(t)
	var csv strings.Builder
	csv.WriteString("level,title\n1,Many\n")
	for i := range 60 {
		csv.WriteString("2,Bed " + strconv.Itoa(i) + "\n")
	}
	d.bring("marta", sheet.Update, csv.String())
	next := d.next()
	for i := range next.Len() {
		if e := next.Ref(i); strings.HasPrefix(e.Title, "Bed ") {
			d.write("ines", e.ID, "Rhubarb grows here.")
		}
	}
	d.publish("marta", "Many beds")
	missing := func() (n int) {
		require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(*) FROM page_words WHERE words IS NULL`).Scan(&n))
		return n
	}
	require.Equal(t, 60, missing())
	var jobs int
	require.NoError(t, d.pool.QueryRow(t.Context(), `SELECT count(*) FROM river_job WHERE kind = 'finish_drafts'`).Scan(&jobs))
	require.Equal(t, 1, jobs)
	require.NoError(t, d.FinishDrafts(t.Context()))
	require.Zero(t, missing())
	hits, err := d.search(d.live().Tree, "rhubarb", 100)
	require.NoError(t, err)
	require.Len(t, hits, 60)
}

// Lists on a page of a past edition go by its own texts, and by the visits until its end.
func TestListsOfAPastEdition(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	grounds, ponds, compost := d.id("/grounds"), d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.writePage("ines", grounds, content.Page{Slots: map[string][]content.Block{"main": {
		{ID: "asked", Type: content.Asked}, {ID: "newest", Type: content.Newest}, {ID: "news", Type: content.NewsList},
	}}})
	d.write("ines", ponds, "Frogs are counted in March.")
	d.publish("marta", "Ponds first")
	d.write("ines", compost, "Heaps are turned in May.")
	news := page("Heaps are turned in May.")
	news.Fields = map[string]string{content.NewsField: d.now.UTC().Format(time.DateOnly)}
	d.writePage("ines", compost, news)
	require.NoError(t, d.CountVisits(ctx, map[string]int{ponds: 9, compost: 2}))
	was := d.publish("marta", "Then compost")

	d.now = d.now.AddDate(0, 0, 3)
	d.write("ines", ponds, "Newts are counted, too.")
	d.publish("marta", "Ponds again")
	d.now = d.now.AddDate(0, 0, 2)
	require.NoError(t, d.CountVisits(ctx, map[string]int{compost: 90}))
	d.now = d.now.AddDate(0, 0, 1) // visits count by whole days
	d.act("ines", appsitemap.PlanAct{Do: "fact", ID: d.id("/visitors"), Field: "notes", Value: "ask Noor"})
	now := d.publish("marta", "As it is")

	order := func(number int) (out []string) {
		t.Helper()
		st, err := d.StateOf(ctx, marta, strconv.Itoa(number))
		require.NoError(t, err)
		text, _ := d.shown(st, grounds)
		for _, list := range regexp.MustCompile(`(?s)<ul.*?</ul>|<ol.*?</ol>`).FindAllString(text, -1) {
			out = append(out, strings.Join(regexp.MustCompile(`Ponds|Compost`).FindAllString(list, -1), " "))
		}
		return out
	}
	require.Equal(t, []string{"Ponds Compost", "Compost Ponds", "Compost"}, order(was.Number))
	require.Equal(t, []string{"Compost Ponds", "Ponds Compost", "Compost"}, order(now.Number))
}

// Nobody shares or exports more than they may read, and what they shared never grows.
func TestALinkShowsNoMoreThanItsMakerMayRead(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	grounds, ponds := d.id("/grounds"), d.id("/grounds/ponds")
	restrict := func(names string) {
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: grounds, Field: "readership", Value: names})
	}
	restrict("approver")
	d.publish("marta", "The grounds are for approvers")
	share := func(login, as string) (secret string) {
		secret, err := d.ShareState(ctx, d.people[login], editions.ShownLink{Of: editions.ShowNext, As: as, Ends: d.now.AddDate(0, 0, 7)})
		require.NoError(t, err)
		return secret
	}
	shows := func(secret string) bool {
		l, st, err := d.OpenLink(ctx, secret)
		require.NoError(t, err)
		as, err := d.ReaderCalled(ctx, l.As)
		require.NoError(t, err)
		return st.Visible(as).Find(ponds) >= 0
	}
	role := func(login string, role workflow.Role) {
		require.NoError(t, d.ChangePerson(ctx, marta, d.people[login].ID, role, false))
	}
	byEditor, byApprover, asNoor := share("ines", "approver"), share("anselm", "approver"), share("marta", "noor")
	require.Equal(t, []bool{false, true, false}, []bool{shows(byEditor), shows(byApprover), shows(asNoor)})
	role("ines", workflow.Approver)
	role("noor", workflow.Approver)
	role("anselm", workflow.Editor)
	require.Equal(t, []bool{false, false, false}, []bool{shows(byEditor), shows(byApprover), shows(asNoor)}, "others may read more now, one less")
	role("anselm", workflow.Approver)
	role("ines", workflow.Editor)
	everybody := share("anselm", "")
	restrict("")
	require.False(t, shows(everybody), "widened, but not yet live")
	d.publish("marta", "Open again")
	require.True(t, shows(everybody))

	restrict("approver")
	d.publish("marta", "For approvers again")
	exported := func(login string) (sees bool) {
		number, _ := d.edition()
		id, err := d.BeginExport(ctx, d.people[login], strconv.Itoa(number), "approver")
		require.NoError(t, err)
		require.NoError(t, d.WriteOut(ctx, id, func(_ context.Context, st plan.SiteState, as string, _ editions.ExportOutput) error {
			r, err := d.ReaderCalled(ctx, as)
			sees = st.Visible(r).Find(ponds) >= 0
			return err
		}))
		return sees
	}
	require.Equal(t, []bool{false, true}, []bool{exported("ines"), exported("anselm")})
}

// Comments over a link are bounded by the hour, and make one notice for a page, with all of them.
func TestCommentsOverALinkAreBounded(t *testing.T) {
	d := newDesk(t)
	ctx, ines, ponds := t.Context(), d.people["ines"], d.id("/grounds/ponds")
	d.write("ines", ponds, "Newts.")
	secret, err := d.ShareState(ctx, ines, editions.ShownLink{Of: editions.ShowNext, Ends: d.now.AddDate(0, 0, 7)})
	require.NoError(t, err)
	send := func(n int) (taken int) {
		for i := range n {
			if d.OutsideRemark(ctx, secret, ponds, "Lena Voss", "Toads "+strconv.Itoa(i)+"?") == nil {
				taken++
			}
		}
		return taken
	}
	require.Equal(t, 20, send(30))
	require.Len(t, d.inbox("ines"), 1)
	require.Contains(t, d.inbox("ines")[0], "Toads 0?")
	require.Contains(t, d.inbox("ines")[0], "Toads 19?")
	d.now = d.now.Add(time.Hour)
	require.Equal(t, 20, send(25))
	require.Len(t, d.inbox("ines"), 1)
}
