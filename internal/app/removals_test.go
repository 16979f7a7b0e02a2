package app_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/addresses"
	appsitemap "candlepath/internal/app/sitemap"
)

// All pages of a kind are decided about at once, without naming them.
func TestDecidingAboutAllOfAKind(t *testing.T) {
	d := newDesk(t)
	ctx, ines := t.Context(), d.people["ines"]
	hours := d.id("/visitors/opening-hours")
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: d.id("/grounds/compost")})
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: d.id("/visitors")})
	open := func() (n int) {
		r, err := d.Removals(ctx, ines)
		require.NoError(t, err)
		require.Len(t, r.List, 3)
		for _, one := range r.List {
			if one.IsOpen() {
				n++
			}
		}
		return n
	}
	decide := func(all addresses.RemovalKind, how string, entries ...string) error {
		_, err := d.DecideMany(ctx, ines, uuid.NewString(), addresses.DecideAsk{Entries: entries, All: all, How: how})
		return err
	}
	require.Equal(t, 3, open())
	require.ErrorContains(t, decide(addresses.DecidedRemoval, "gone"), "Tick the pages first")
	require.NoError(t, decide("", "gone", hours))
	require.Equal(t, 2, open())
	require.NoError(t, decide(addresses.OpenRemoval, "above"))
	require.Equal(t, 0, open())
	got, err := d.Removals(ctx, ines)
	require.NoError(t, err)
	for _, one := range got.List {
		require.Equal(t, one.Row.From == "/visitors/opening-hours", one.Row.Code == 410, "what was decided stays")
	}
	require.NoError(t, decide(addresses.EveryRemoval, ""))
	require.Equal(t, 3, open(), "all decisions are taken back")
}
