package app_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sheet"
)

// A large edition is published by a job, once however often that runs or the form is sent, and who
// wanted it is told; where something changed since they looked, it is not.
func TestLargeEditions(t *testing.T) {
	d := newDesk(t)
	ctx, marta := t.Context(), d.people["marta"]
	many := func(name string) {
		var csv strings.Builder
		fmt.Fprintf(&csv, "level,title\n1,%s\n", name)
		for i := range 2100 {
			fmt.Fprintf(&csv, "2,%s %d\n", name, i)
		}
		d.bring("marta", sheet.Update, csv.String())
	}
	publish := func(key string) (plan.Edition, string, error) {
		_, form := d.own("marta")
		return d.PublishChosen(ctx, marta, editions.PublishAsk{Key: key, Why: "Many beds", Form: &form})
	}
	d.write("ines", d.id("/grounds/ponds"), "Frogs.")
	e, later, err := publish(uuid.NewString())
	require.NoError(t, err)
	require.Empty(t, later, "a small one goes at once")
	before := e.Number

	many("Bed")
	key := uuid.NewString()
	_, later, err = publish(key)
	require.NoError(t, err)
	require.Equal(t, key, later)
	_, again, err := publish(key)
	require.NoError(t, err)
	require.Equal(t, key, again, "sent twice")
	l, err := d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, editions.LargeWaiting, l.State)
	require.Greater(t, l.Changes, 2000)
	_, err = d.LargeEdition(ctx, d.people["anselm"], key)
	require.ErrorIs(t, err, plan.ErrNotFound)
	for range 2 {
		require.NoError(t, d.PublishLarge(ctx, key))
	}
	require.NoError(t, d.PublishLarge(ctx, uuid.NewString()), "of nothing")
	after, why := d.edition()
	require.Equal(t, before+1, after)
	require.Equal(t, "Many beds", why)
	l, err = d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, editions.LargeOut, l.State)
	require.Equal(t, after, l.Edition)
	require.Contains(t, d.inbox("marta")[0], fmt.Sprintf("Edition %d is live", after))

	many("Pot")
	key = uuid.NewString()
	_, later, err = publish(key)
	require.NoError(t, err)
	require.Equal(t, key, later)
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.nextID("Pot 7"), Value: "Pot seven"})
	require.NoError(t, d.PublishLarge(ctx, key))
	still, _ := d.edition()
	require.Equal(t, after, still)
	l, err = d.LargeEdition(ctx, marta, key)
	require.NoError(t, err)
	require.Equal(t, editions.LargeStopped, l.State)
	require.Contains(t, l.Problem, "changed since you opened")
	require.Contains(t, strings.Join(d.inbox("marta"), " "), "was not published")
}

// nextID gives the entry of Next with a title.
func (d *desk) nextID(title string) string {
	next := d.next()
	for i := range next.Len() {
		if next.Ref(i).Title == title {
			return next.Ref(i).ID
		}
	}
	require.Fail(d.t, "no entry", title)
	return ""
}
