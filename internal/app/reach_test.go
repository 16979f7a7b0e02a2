package app_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/content"
	"candlepath/internal/core/reach"
)

// How far pages are, what a tile would save, and a tile planned and taken back.
func TestReachOfTheSite(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	d.act("ines", appsitemap.PlanAct{Do: "paste", Parent: d.id("/grounds/compost"), Value: "Heaps\n\tForks"})
	heaps, forks := d.id("/grounds/compost/heaps"), d.id("/grounds/compost/heaps/forks")
	require.NoError(t, d.CountVisits(ctx, map[string]int{forks: 30, heaps: 10}))
	r, err := d.Reach(ctx, ines, false)
	require.NoError(t, err)
	require.Equal(t, []int{3, 4}, []int{r.Clicks[r.Tree.Find(heaps)], r.Clicks[r.Tree.Find(forks)]})
	require.Equal(t, forks, r.Tree.Ref(r.Savings[0].Entry).ID)
	require.Equal(t, 100, r.Savings[0].Clicks, "three clicks of 30 visits, and one of the 10 to what is above it")

	_, err = d.PlanTile(ctx, ines, uuid.NewString(), forks)
	require.NoError(t, err)
	d.now = d.now.Add(time.Minute)
	r, err = d.Reach(ctx, ines, false)
	require.NoError(t, err)
	way := r.Way(r.Tree.Find(forks))
	require.Equal(t, []any{2, reach.Tile, "Forks"}, []any{len(way), way[1].Via, way[1].Words})
	live, err := d.Reach(ctx, ines, true)
	require.NoError(t, err)
	require.Equal(t, -1, live.Tree.Find(forks), "it is not live yet")
	_, err = d.Undo(ctx, ines)
	require.NoError(t, err)
	r, err = d.Reach(ctx, ines, false)
	require.NoError(t, err)
	require.Equal(t, 4, r.Clicks[r.Tree.Find(forks)])
	_, err = d.PlanTile(ctx, ines, uuid.NewString(), "nothing")
	require.ErrorIs(t, err, plan.ErrNotFound)
	_, err = d.Reach(ctx, d.people["noor"], false)
	require.ErrorIs(t, err, plan.ErrForbidden)

	t.Log("a list in a page is a way in, too, one of the newest pages is none")
	list := func(kind content.BlockType, set content.Values) []int {
		d.now = d.now.Add(time.Minute)
		d.writePage("marta", d.id("/"), content.Page{Slots: map[string][]content.Block{"main": {{Type: kind, Set: set}}}})
		r, err = d.Reach(ctx, ines, false)
		require.NoError(t, err)
		i := r.Tree.Find(forks)
		return []int{r.Clicks[i], r.LeadsTo()(i).Lists}
	}
	require.Equal(t, []int{1, 1}, list(content.Below, content.Values{"of": "page:" + heaps}))
	require.Equal(t, []int{1, 1}, list(content.Tiles, content.Values{"from": content.FromBelow, "of": "page:" + heaps}))
	require.Equal(t, []int{4, 0}, list(content.Newest, nil))

	t.Log("a move tells what it does to reach before it is done")
	a := appsitemap.PlanAct{Key: uuid.NewString(), Do: "move", ID: d.id("/grounds/compost"), Parent: ""}
	res, err := d.Plan(ctx, ines, a)
	require.NoError(t, err)
	require.NotNil(t, res.Confirm)
	require.Equal(t, reach.Moved{Nearer: 3}, res.Reach)
}

func TestVisitsAreBroughtIn(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	pages, unknown, err := d.BringVisits(ctx, ines, d.now, map[string]int{"/grounds/": 3, "/GROUNDS/ponds": 4, "/nowhere": 9})
	require.NoError(t, err)
	require.Equal(t, 2, pages)
	require.Equal(t, []string{"/nowhere"}, unknown)
	o, err := d.Outline(ctx)
	require.NoError(t, err)
	require.Equal(t, []int{3, 4}, []int{o.Visits[d.id("/grounds")], o.Visits[d.id("/grounds/ponds")]})
	_, _, err = d.BringVisits(ctx, ines, d.now, map[string]int{"/nowhere": 9})
	require.ErrorContains(t, err, "Nothing was counted")
}
