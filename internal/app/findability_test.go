package app_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/port"
	"candlepath/internal/core/findability"
)

// A study holds what everybody may read as it was, answers once a visitor, and
// ends.
func TestStudies(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds, compost := t.Context(), d.people["marta"], d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("marta", app.PlanAct{Do: "fact", Field: "readership", ID: compost, Value: "editor"})
	ask := app.StudyAsk{Title: " Where  would it be? ", Ends: d.now, Tasks: []port.StudyTask{{Question: "Where are frogs?", Right: []string{ponds}}}}
	for name, change := range map[string]func(*app.StudyAsk){
		"no title": func(a *app.StudyAsk) { a.Title = " " }, "over": func(a *app.StudyAsk) { a.Ends = d.now.AddDate(0, 0, -2) }, "no task": func(a *app.StudyAsk) { a.Tasks = nil },
		"no question": func(a *app.StudyAsk) { a.Tasks = []port.StudyTask{{Right: []string{ponds}}} }, "no page": func(a *app.StudyAsk) { a.Tasks = []port.StudyTask{{Question: "?"}} },
		"a page that not everybody may read": func(a *app.StudyAsk) { a.Tasks = []port.StudyTask{{Question: "?", Right: []string{compost}}} },
	} {
		bad := ask
		change(&bad)
		_, err := d.BeginStudy(ctx, marta, bad)
		require.ErrorAs(t, err, new(*app.Invalid), name)
	}
	_, err := d.BeginStudy(ctx, d.people["anselm"], ask)
	require.ErrorIs(t, err, app.ErrForbidden)
	st, err := d.BeginStudy(ctx, marta, ask)
	require.NoError(t, err)
	require.Equal(t, "Where would it be?", st.Title)
	for _, n := range st.Nodes {
		require.NotContains(t, []string{"Compost", "Home"}, n.Title)
	}
	require.GreaterOrEqual(t, len(st.Secret), 26, "nobody guesses it")

	visitor := uuid.NewString()
	try := findability.Try{Opened: []string{d.id("/grounds")}, Chosen: ponds, Took: 3 * time.Second}
	for range 2 {
		require.NoError(t, d.AnswerTask(ctx, st.Secret, 0, visitor, try))
	}
	d.act("marta", app.PlanAct{Do: "remove", ID: ponds})
	r, err := d.StudyResults(ctx, d.people["ines"], st.ID)
	require.NoError(t, err)
	require.Equal(t, []int{1, 1, 1}, []int{r.People, r.Results[0].Tries, r.Results[0].Direct.N}, "sent twice, counted once; the hierarchy is the one that was asked about")
	_, err = d.OpenStudy(ctx, st.Secret+"x")
	require.ErrorIs(t, err, port.ErrNotFound)
	d.now = d.now.AddDate(0, 0, 1)
	require.ErrorIs(t, d.AnswerTask(ctx, st.Secret, 0, uuid.NewString(), try), app.ErrEnded)
	require.NoError(t, d.DropStudy(ctx, marta, st.ID))
	_, err = d.StudyResults(ctx, marta, st.ID)
	require.ErrorIs(t, err, port.ErrNotFound)
}
