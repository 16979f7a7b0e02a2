package app_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
)

func TestRemovedPagesComeBack(t *testing.T) {
	d := newDesk(t)
	ctx, ines, grounds, ponds := t.Context(), d.people["ines"], d.id("/grounds"), d.id("/grounds/ponds")
	d.write("ines", ponds, "The text that was last")
	d.write("ines", d.id("/visitors"), "See the [ponds](page:"+ponds+"#frogs).")
	d.publish("marta", "A better text")
	d.write("ines", d.id("/visitors"), "Nothing to see.")
	removed := func(ask pages.RemovedAsk) pages.RemovedList {
		t.Helper()
		ask.Limit = 10
		list, err := d.Removed(ctx, ines, ask)
		require.NoError(t, err)
		return list
	}
	before := d.next()
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: grounds})
	require.Empty(t, removed(pages.RemovedAsk{}).Pages, "it is live still")
	for _, a := range []string{"/grounds", "/grounds/ponds", "/grounds/compost"} {
		l := d.live().Tree
		require.NoError(t, d.Decide(ctx, ines, l.At(l.PageAt(a)).ID, "/visitors", false, ""))
	}
	d.publish("marta", "The grounds are let")
	list := removed(pages.RemovedAsk{})
	require.Equal(t, []int{3, 3, 0, 60}, []int{list.All, list.Total, list.Over, list.KeepDays})
	byID := map[string]pages.RemovedPage{}
	for _, p := range list.Pages {
		byID[p.Entry.ID] = p
	}
	require.Equal(t, []string{"Compost", "Ponds"}, byID[grounds].Below)
	require.Equal(t, []string{"Visitors"}, byID[ponds].Linked)
	require.Empty(t, byID[grounds].Linked)
	require.Equal(t, []string{"Grounds"}, byID[ponds].Path)
	require.Equal(t, "/grounds/ponds", byID[ponds].Address)
	require.Equal(t, "The grounds are let", byID[ponds].Why)
	require.Equal(t, "marta of Quillmere", list.People[byID[ponds].PersonID].Name)
	require.Equal(t, "/ponds", byID[ponds].Back, "alone it has nothing to stand below")
	require.Equal(t, "/grounds", byID[grounds].Back)
	require.Len(t, removed(pages.RemovedAsk{Words: " POND"}).Pages, 1)
	require.Len(t, removed(pages.RemovedAsk{By: d.people["marta"].ID}).Pages, 3)
	require.Empty(t, removed(pages.RemovedAsk{By: ines.ID}).Pages)

	key := uuid.NewString()
	res, err := d.BringBack(ctx, ines, key, grounds, true)
	require.NoError(t, err)
	require.Equal(t, grounds, res.ID)
	for i := range before.Len() {
		require.Equal(t, before.Served(i), d.next().Served(d.next().Find(before.At(i).ID)))
	}
	_, err = d.BringBack(ctx, ines, uuid.NewString(), grounds, true)
	require.ErrorIs(t, err, plan.ErrNotFound, "it is back already")
	again, err := d.BringBack(ctx, ines, key, grounds, true)
	require.NoError(t, err, "the same form again")
	require.Equal(t, res.Label, again.Label)
	require.Equal(t, res.Version, again.Version)
	v, err := d.OpenPage(ctx, ines, ponds, uuid.NewString())
	require.NoError(t, err)
	require.Equal(t, "The text that was last", v.Content.Slots["main"][0].Text)
	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	require.Equal(t, sitemap.None, d.next().Find(grounds))
	_, err = d.Redo(ctx, ines)
	require.NoError(t, err)
	d.publish("marta", "The grounds are ours again")
	l := d.live()
	require.Equal(t, 200, l.Table.Resolve("/grounds/ponds").Code)
	require.Contains(t, d.body(ponds), "The text that was last")

	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: ponds})
	require.NoError(t, d.Decide(ctx, ines, ponds, "gone", false, ""))
	d.publish("marta", "Drained")
	d.act("ines", appsitemap.PlanAct{Do: "add", Parent: grounds, Value: "Ponds"})
	left := removed(pages.RemovedAsk{}).Pages
	require.Len(t, left, 1)
	require.Equal(t, "/grounds/ponds-2", left[0].Back, "somebody else has its address")
	_, err = d.BringBack(ctx, ines, uuid.NewString(), ponds, false)
	require.NoError(t, err)
	require.Equal(t, "/grounds/ponds-2", d.next().Served(d.next().Find(ponds)))
	_, err = d.Removed(ctx, d.people["noor"], pages.RemovedAsk{})
	require.ErrorIs(t, err, plan.ErrForbidden)
}

// Removed pages are kept for the time the site sets; then deleting them is an
// act of its own, and their addresses answer on.
func TestRemovedPagesAreDeletedForGood(t *testing.T) {
	d := newDesk(t)
	ctx, marta, ponds, compost := t.Context(), d.people["marta"], d.id("/grounds/ponds"), d.id("/grounds/compost")
	d.act("ines", appsitemap.PlanAct{Do: "remove", IDs: []string{ponds, compost}})
	require.NoError(t, d.Decide(ctx, marta, ponds, "/grounds", false, ""))
	require.NoError(t, d.Decide(ctx, marta, compost, "gone", false, ""))
	d.publish("marta", "Two pages less")
	keep := func(who plan.Person, days string) error {
		return d.SaveSettings(ctx, who, setting.Values{setting.KeepRemoved: days}, nil)
	}
	for _, days := range []string{"0", "-1", "5000"} {
		require.Error(t, keep(marta, days))
	}
	require.ErrorIs(t, keep(d.people["anselm"], "30"), plan.ErrForbidden)
	require.NoError(t, keep(marta, "30"))

	d.now = d.now.AddDate(0, 0, 29)
	_, err := d.DeleteRemoved(ctx, marta)
	require.ErrorIs(t, err, plan.ErrNotFound, "their time is not over")
	d.now = d.now.AddDate(0, 0, 2)
	_, err = d.DeleteRemoved(ctx, d.people["ines"])
	require.ErrorIs(t, err, plan.ErrForbidden)
	n, err := d.DeleteRemoved(ctx, marta, ponds)
	require.NoError(t, err)
	require.Equal(t, 1, n)
	list, err := d.Removed(ctx, marta, pages.RemovedAsk{Over: true, Limit: 10})
	require.NoError(t, err)
	require.Equal(t, []int{1, 1, 1}, []int{list.All, list.Total, list.Over})
	_, err = d.BringBack(ctx, marta, uuid.NewString(), ponds, false)
	require.ErrorIs(t, err, plan.ErrNotFound)
	n, err = d.DeleteRemoved(ctx, marta)
	require.NoError(t, err)
	require.Equal(t, 1, n)

	table := d.live().Table
	require.Equal(t, []int{301, 410}, []int{table.Resolve("/grounds/ponds").Code, table.Resolve("/grounds/compost").Code})
	_, err = d.Rollback(ctx, marta, uuid.NewString(), 1, "Back to the beginning")
	require.NoError(t, err)
	require.Equal(t, 200, d.live().Table.Resolve("/grounds/ponds").Code, "an older edition comes back without that text")
	b, err := d.LiveBody(ctx, d.live(), ponds, d.live().Tree)
	require.NoError(t, err)
	require.Empty(t, b.Body)
}
