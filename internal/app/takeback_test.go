package app_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/shape"
)

func (d *desk) takeBack(login string, edition int, keys ...change.Key) ([]string, error) {
	out, err := d.TakeBack(d.t.Context(), d.people[login], uuid.NewString(), edition, keys)
	return out.Along, err
}

// Single changes of an edition, and pages with all that became of them, are planned back; the next
// edition then shows them as they were.
func TestTakingBackChanges(t *testing.T) {
	d := newDesk(t)
	ponds, compost, grounds, hours := d.id("/grounds/ponds"), d.id("/grounds/compost"), d.id("/grounds"), d.id("/visitors/opening-hours")
	d.write("ines", ponds, "Frogs.")
	d.write("ines", hours, "Ten to six.")
	d.publish("marta", "Before")

	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Lakes"})
	d.write("ines", ponds, "Newts.")
	d.act("ines", appsitemap.PlanAct{Do: "move", ID: compost, Parent: d.id("/visitors"), Confirmed: true})
	shed := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: grounds, Value: "Shed"}).ID
	loft := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: shed, Value: "Loft"}).ID
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: hours, Confirmed: true})
	require.NoError(t, d.Decide(t.Context(), d.people["marta"], hours, "gone", false, ""))
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: ponds}})
	e := d.publish("marta", "Much at once")
	require.Equal(t, "gone", d.answers("/visitors/opening-hours")[0])

	_, err := d.takeBack("noor", e.Number, change.Key{ID: ponds, Aspect: change.Title})
	require.ErrorIs(t, err, plan.ErrForbidden)
	_, err = d.takeBack("ines", 1, change.Key{ID: ponds, Aspect: change.Title})
	require.ErrorContains(t, err, "no earlier edition")
	_, err = d.takeBack("ines", e.Number)
	require.ErrorContains(t, err, "Select the changes")

	// One change: the title, not the text.
	_, err = d.takeBack("ines", e.Number, change.Key{ID: ponds, Aspect: change.Title})
	require.NoError(t, err)
	require.Equal(t, "Ponds", d.next().Ref(d.next().Find(ponds)).Title)
	require.Empty(t, d.tryText(ponds), "no draft was made")

	// A page and what it needs: what is below a page that goes has to go, too.
	along, err := d.takeBack("ines", e.Number, change.Key{ID: shed, Aspect: change.Added})
	require.NoError(t, err)
	require.Len(t, along, 1)
	require.Contains(t, along[0], "Loft")
	require.Equal(t, -1, d.next().Find(loft))

	// A page that was removed returns with its text; one that moved goes back.
	_, err = d.takeBack("ines", e.Number, change.Key{ID: hours, Aspect: change.Removed}, change.Key{ID: compost, Aspect: change.Placement}, change.Key{ID: ponds, Aspect: change.Content})
	require.NoError(t, err)
	_, err = d.takeBack("ines", e.Number, change.Key{ID: shape.MenuID(menu.Top), Aspect: change.Menu})
	require.NoError(t, err)
	for _, id := range []string{shed, loft} { // which were live, so their visitors need an answer
		require.NoError(t, d.Decide(t.Context(), d.people["marta"], id, grounds, false, ""))
	}
	d.publish("marta", "As it was")
	require.Equal(t, [2]string{"page", "page"}, d.answers("/visitors/opening-hours"))
	require.Contains(t, d.body(hours), "Ten to six.")
	require.Contains(t, d.body(ponds), "Frogs.")
	require.Equal(t, "/grounds/compost", d.answers("/visitors/compost")[0], "the address that it had meanwhile leads on")
	require.NotContains(t, d.liveTop(), "Ponds")

	// What was changed again since is told, and nothing is planned.
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Pools"})
	again := d.publish("marta", "Again")
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: ponds, Value: "Basins"})
	_, err = d.takeBack("ines", again.Number, change.Key{ID: ponds, Aspect: change.Title})
	require.ErrorContains(t, err, "changed again since")
	d.write("ines", ponds, "Toads.")
	d.publish("marta", "Toads")
	_, err = d.takeBack("ines", e.Number, change.Key{ID: ponds, Aspect: change.Content})
	require.ErrorContains(t, err, "changed again since")

	// A redirect that answered goes on answering.
	_, err = d.redirects("ines", "/pond-life /grounds")
	require.NoError(t, err)
	r := d.publish("marta", "A redirect")
	_, err = d.takeBack("ines", r.Number, change.Key{ID: r.Changes[0].EntryID, Aspect: change.Redirect})
	require.ErrorContains(t, err, "keep working")
	_, err = d.redirects("ines", "/pond-life /visitors")
	require.NoError(t, err)
	r = d.publish("marta", "Led elsewhere")
	_, err = d.takeBack("ines", r.Number, change.Key{ID: r.Changes[0].EntryID, Aspect: change.Redirect})
	require.NoError(t, err)
	require.Equal(t, [2]string{"/visitors", "/grounds"}, d.answers("/pond-life"))
}

// tryText gives the draft of a page, or nothing.
func (d *desk) tryText(entry string) string {
	s, err := d.Summary(d.t.Context(), d.people["marta"])
	require.NoError(d.t, err)
	for _, c := range s.Next.All {
		if c.ID == entry && c.Aspect == change.Content {
			return c.Because + "a draft"
		}
	}
	return ""
}
