package app_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/findability"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sheet"
)

// A study holds what everybody may read as it was, answers once a visitor, and
// ends.
func TestStudies(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds, compost := t.Context(), d.people["marta"], d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("marta", appsitemap.PlanAct{Do: "fact", Field: "readership", ID: compost, Value: "editor"})
	ask := appnavigation.StudyAsk{Title: " Where  would it be? ", Ends: d.now, Tasks: []appnavigation.StudyTask{{Question: "Where are frogs?", Right: []string{ponds}}}}
	for name, change := range map[string]func(*appnavigation.StudyAsk){
		"no title": func(a *appnavigation.StudyAsk) { a.Title = " " }, "over": func(a *appnavigation.StudyAsk) { a.Ends = d.now.AddDate(0, 0, -2) }, "no task": func(a *appnavigation.StudyAsk) { a.Tasks = nil },
		"no question": func(a *appnavigation.StudyAsk) { a.Tasks = []appnavigation.StudyTask{{Right: []string{ponds}}} }, "no page": func(a *appnavigation.StudyAsk) { a.Tasks = []appnavigation.StudyTask{{Question: "?"}} },
		"a page that not everybody may read": func(a *appnavigation.StudyAsk) {
			a.Tasks = []appnavigation.StudyTask{{Question: "?", Right: []string{compost}}}
		},
	} {
		bad := ask
		change(&bad)
		_, err := d.BeginStudy(ctx, marta, bad)
		require.ErrorAs(t, err, new(*plan.Invalid), name)
	}
	_, err := d.BeginStudy(ctx, d.people["anselm"], ask)
	require.ErrorIs(t, err, plan.ErrForbidden)
	st, err := d.BeginStudy(ctx, marta, ask)
	require.NoError(t, err)
	require.Equal(t, "Where would it be?", st.Title)
	for _, n := range st.Nodes {
		require.NotContains(t, []string{"Compost", "Home"}, n.Title)
	}
	require.GreaterOrEqual(t, len(st.Secret), 26, "nobody guesses it")

	visitor, err := d.BeginVisit(ctx, st, "10.0.0.1")
	require.NoError(t, err)
	try := findability.Try{Opened: []string{d.id("/grounds")}, Chosen: ponds, Took: 3 * time.Second}
	require.Error(t, d.AnswerTask(ctx, st.Secret, 0, uuid.NewString(), try), "nobody answers under a number of their own making")
	for range 2 {
		require.NoError(t, d.AnswerTask(ctx, st.Secret, 0, visitor, try))
	}
	d.act("marta", appsitemap.PlanAct{Do: "remove", ID: ponds})
	r, err := d.StudyResults(ctx, d.people["ines"], st.ID)
	require.NoError(t, err)
	require.Equal(t, []int{1, 1, 1}, []int{r.People, r.Results[0].Tries, r.Results[0].Direct.N}, "sent twice, counted once; the hierarchy is the one that was asked about")
	_, err = d.OpenStudy(ctx, st.Secret+"x")
	require.ErrorIs(t, err, plan.ErrNotFound)
	d.now = d.now.AddDate(0, 0, 1)
	require.ErrorIs(t, d.AnswerTask(ctx, st.Secret, 0, uuid.NewString(), try), appnavigation.ErrEnded)
	require.NoError(t, d.DropStudy(ctx, marta, st.ID))
	_, err = d.StudyResults(ctx, marta, st.ID)
	require.ErrorIs(t, err, plan.ErrNotFound)
}

// A study takes only so many answers, from one place and at all.
func TestAStudyTakesOnlySoManyAnswers(t *testing.T) {
	d := newDesk(t)
	ctx, ponds := t.Context(), d.id("/grounds/ponds")
	st, err := d.BeginStudy(ctx, d.people["marta"], appnavigation.StudyAsk{Title: "Where?", Ends: d.now.AddDate(0, 0, 7), Tasks: []appnavigation.StudyTask{{Question: "Newts?", Right: []string{ponds}}}})
	require.NoError(t, err)
	begun := 0
	for range 300 {
		if _, err := d.BeginVisit(ctx, st, "10.0.0.1"); err == nil {
			begun++
		} else {
			require.ErrorIs(t, err, appnavigation.ErrFull)
		}
	}
	require.Less(t, begun, 100)
	_, err = d.BeginVisit(ctx, st, "10.0.0.2")
	require.NoError(t, err, "others can still answer")
	for host := range 20 {
		for range 50 {
			_, _ = d.BeginVisit(ctx, st, fmt.Sprint("10.0.9.", host))
		}
	}
	_, err = d.BeginVisit(ctx, st, "10.0.0.3")
	require.ErrorIs(t, err, appnavigation.ErrFull)
	var most int
	require.NoError(t, d.pool.QueryRow(ctx, `SELECT count(*) FROM study_visits`).Scan(&most))
	require.Equal(t, appnavigation.MostVisitors, most)
}

// What is not for everybody any more is not told by a study that began before.
func TestAStudyHidesWhatWasRestrictedSince(t *testing.T) {
	for _, published := range []bool{false, true} {
		d := newDesk(t)
		ctx, ponds, grounds, hours := t.Context(), d.id("/grounds/ponds"), d.id("/grounds"), d.id("/visitors/opening-hours")
		st, err := d.BeginStudy(ctx, d.people["marta"], appnavigation.StudyAsk{Title: "Where?", Ends: d.now.AddDate(0, 0, 7), Tasks: []appnavigation.StudyTask{
			{Question: "Newts?", Right: []string{ponds}}, {Question: "When?", Right: []string{hours}},
		}})
		require.NoError(t, err)
		d.act("marta", appsitemap.PlanAct{Do: "fact", ID: grounds, Field: "readership", Value: "approver"})
		if published {
			d.publish("marta", "Not for everybody")
		}
		st, err = d.OpenStudy(ctx, st.Secret)
		require.NoError(t, err)
		for _, n := range st.Nodes {
			require.NotContains(t, []string{"Grounds", "Ponds", "Compost"}, n.Title)
		}
		require.Equal(t, []bool{true, false}, []bool{st.Tasks[0].Closed, st.Tasks[1].Closed})
	}
}

func TestReadershipsThatCannotBeUnderstoodAreRefused(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "readership", Value: "approver"})
	for _, bad := range []string{" ; ", ";", "Nobody Here", "approver; Nobody Here"} {
		_, err := d.try("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "readership", Value: bad})
		require.ErrorAs(t, err, new(*plan.Invalid), bad)
		_, err = d.try("marta", appsitemap.PlanAct{Do: "facts", Field: "readership", Values: map[string]string{ponds: bad}})
		require.ErrorAs(t, err, new(*plan.Invalid), bad)
		_, err = d.PlanTrail(t.Context(), d.people["marta"], appnavigation.TrailAct{Key: uuid.NewString(), Trail: shape.Trail{Title: "Round", Readership: bad, Pages: []string{ponds}}})
		require.ErrorAs(t, err, new(*plan.Invalid), bad)
	}
	require.Equal(t, "approver", d.next().Ref(d.next().Find(ponds)).Readership)
	d.act("marta", appsitemap.PlanAct{Do: "fact", ID: ponds, Field: "readership", Value: "ines of Quillmere, EDITOR ; approver"})
	require.Equal(t, "ines of Quillmere; EDITOR; approver", d.next().Ref(d.next().Find(ponds)).Readership)
	d.bring("marta", sheet.Update, "id,title,level,readership\n"+ponds+",Ponds,1,\" ; \"\n")
	require.False(t, readership.Reader{}.In(d.next().Ref(d.next().Find(ponds)).Readership), "a file that cannot be understood does not widen either")
}
