package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/menu"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/review"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

func (d *desk) tryMenu(login string, a appnavigation.MenuAct) (plan.PlanResult, error) {
	a.Key = uuid.NewString()
	d.now = d.now.Add(time.Second)
	return d.PlanMenu(d.t.Context(), d.people[login], a)
}

func (d *desk) menu(login string, a appnavigation.MenuAct) plan.PlanResult {
	d.t.Helper()
	r, err := d.tryMenu(login, a)
	require.NoError(d.t, err)
	return r
}

func (d *desk) trail(login string, a appnavigation.TrailAct) plan.PlanResult {
	d.t.Helper()
	a.Key, a.Confirmed = uuid.NewString(), true
	d.now = d.now.Add(time.Second)
	r, err := d.PlanTrail(d.t.Context(), d.people[login], a)
	require.NoError(d.t, err)
	return r
}

// top is the top menu that readers of a state get.
func (d *desk) top(t *sitemap.Tree, set shape.Set) string {
	var out []string
	for _, it := range menu.For(t, set.Menus()).Top(sitemap.None) {
		out = append(out, it.Title)
	}
	return strings.Join(out, " ")
}

func (d *desk) liveTop() string { return d.top(d.live().Tree, d.live().Shapes) }

func (d *desk) nextTop() string {
	n := d.look("marta")
	return d.top(n.Trees.Next, n.Trees.Shapes.Next)
}

var topMenu = change.Key{ID: shape.MenuID(menu.Top), Aspect: change.Menu}

// A menu change waits, is told, can be left out, goes out, is rolled back, and
// then waits again, left out until somebody ticks it.
func TestMenusAreChangesOfTheNextEdition(t *testing.T) {
	d := newDesk(t)
	grounds, visitors := d.id("/grounds"), d.id("/visitors")
	require.Equal(t, "Home Grounds Visitors", d.liveTop())
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "out", Item: grounds})
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "say", Item: visitors, Override: menu.ItemOverride{Title: "For visitors"}})
	d.act("ines", appsitemap.PlanAct{Do: "retitle", ID: d.id("/grounds/ponds"), Value: "Ponds and streams"})
	require.Equal(t, "Home For visitors", d.nextTop())
	require.Equal(t, "Home Grounds Visitors", d.liveTop(), "nothing is out yet")
	require.NotEqual(t, sitemap.None, d.next().Find(grounds), "the page stays")
	n := d.look("marta")
	require.Equal(t, d.people["ines"].ID, n.Makers[topMenu].PersonID)

	d.publish("anselm", "Ponds have a better name", topMenu)
	require.Equal(t, "Home Grounds Visitors", d.liveTop(), "the menu was left out")
	e := d.publish("anselm", "A shorter menu")
	require.Equal(t, []plan.ChangeSummary{{EntryID: shape.MenuID(menu.Top), Title: "Top menu", Aspect: "menu", Words: "one left out, one says something else"}}, e.Changes)
	require.Equal(t, "Home For visitors", d.liveTop())
	d.restart()
	require.Equal(t, "Home For visitors", d.liveTop())
	c, err := d.Compare(t.Context(), d.people["ines"], "1", appsitemap.StateLive)
	require.NoError(t, err)
	require.Len(t, c.Shapes, 1)
	require.Equal(t, "Top menu", c.States.Title(c.Shapes[0].ID))

	_, err = d.Rollback(t.Context(), d.people["anselm"], uuid.NewString(), 2, "People miss the grounds")
	require.NoError(t, err)
	require.Equal(t, "Home Grounds Visitors", d.liveTop())
	require.Equal(t, "Home For visitors", d.nextTop(), "what was taken back is planned again")
	n = d.look("marta")
	require.False(t, n.Chosen[topMenu], "and left out")
	d.menu("marta", appnavigation.MenuAct{Menu: menu.Top, Do: "reset"})
	require.Empty(t, d.look("marta").All)
}

func TestMenuActsAreUndone(t *testing.T) {
	d := newDesk(t)
	grounds := d.id("/grounds")
	key := uuid.NewString()
	for range 2 { // sent twice, done once
		_, err := d.PlanMenu(t.Context(), d.people["ines"], appnavigation.MenuAct{Key: key, Menu: menu.Foot, Do: "add", Override: menu.ItemOverride{Kind: menu.Label, Title: "In a hurry"}})
		require.NoError(t, err)
	}
	foot := func() int { return len(d.look("ines").Trees.Shapes.Next.Menus()[menu.Foot].Items) }
	require.Equal(t, 1, foot())
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Foot, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: grounds}})
	require.Equal(t, 2, foot())
	d.restart()
	for want := range 2 {
		_, err := d.Undo(t.Context(), d.people["ines"])
		require.NoError(t, err)
		require.Equal(t, 1-want, foot())
	}
	require.Empty(t, d.look("ines").All, "nothing is planned any more")
	_, err := d.Redo(t.Context(), d.people["ines"])
	require.NoError(t, err)
	require.Equal(t, 1, foot())
	d.menu("marta", appnavigation.MenuAct{Menu: menu.Foot, Do: "add", Override: menu.ItemOverride{Kind: menu.Divider}})
	_, err = d.Undo(t.Context(), d.people["ines"])
	require.ErrorContains(t, err, "Foot menu", "somebody else worked on it since")
	require.Equal(t, 2, foot())
}

func TestMenusRefuseWhatCannotBe(t *testing.T) {
	d := newDesk(t)
	grounds := d.id("/grounds")
	for _, c := range []struct {
		act  appnavigation.MenuAct
		want any
	}{
		{appnavigation.MenuAct{Menu: "side:nowhere", Do: "out", Item: grounds}, plan.ErrNotFound},
		{appnavigation.MenuAct{Menu: menu.Top, Do: "say", Item: grounds, Override: menu.ItemOverride{Title: strings.Repeat("x", 300)}}, "title"},
		{appnavigation.MenuAct{Menu: menu.Top, Do: "add", Override: menu.ItemOverride{Kind: menu.Link, Title: "x", URL: "ftp://x"}}, "url"},
		{appnavigation.MenuAct{Menu: menu.Top, Do: "add", Override: menu.ItemOverride{Kind: menu.Label}}, "title"},
		{appnavigation.MenuAct{Menu: menu.Top, Do: "move", Item: "gone"}, ""},
		{appnavigation.MenuAct{Menu: menu.Top, Do: "set", Settings: menu.Settings{Levels: 99}}, "levels"},
		{appnavigation.MenuAct{Menu: menu.Top, Do: "dance"}, ""},
	} {
		_, err := d.tryMenu("ines", c.act)
		if field, ok := c.want.(string); ok {
			invalid := (*plan.Invalid)(nil)
			require.ErrorAs(t, err, &invalid)
			require.Equal(t, field, invalid.Field)
			continue
		}
		require.ErrorIs(t, err, c.want.(error))
	}
	_, err := d.tryMenu("noor", appnavigation.MenuAct{Menu: menu.Top, Do: "out", Item: grounds})
	require.ErrorIs(t, err, plan.ErrForbidden)
	require.Empty(t, d.look("marta").All)
}

// An item that somebody put into a menu holds the edition up when its page goes;
// a computed one goes by itself, and a trail gets shorter.
func TestAnItemToAPageThatGoes(t *testing.T) {
	d := newDesk(t)
	compost := d.id("/grounds/compost")
	res := d.menu("ines", appnavigation.MenuAct{Menu: menu.Foot, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: compost}})
	d.trail("ines", appnavigation.TrailAct{Trail: shape.Trail{Title: "Rounds", Pages: []string{d.id("/grounds"), compost}}})
	asked, err := d.Plan(t.Context(), d.people["ines"], appsitemap.PlanAct{Key: uuid.NewString(), Do: "remove", ID: compost})
	require.NoError(t, err)
	require.NotNil(t, asked.Confirm)
	require.Equal(t, []string{"Foot menu", "Trail Rounds"}, asked.Losing, "told before it is done")
	d.act("ines", appsitemap.PlanAct{Do: "remove", ID: compost})
	require.NoError(t, d.Decide(t.Context(), d.people["ines"], compost, "gone", false, ""))
	found := map[check.Rule]string{}
	for _, f := range d.look("marta").Findings {
		found[f.Rule] = f.Message
	}
	require.Equal(t, `Foot menu has an item to "Compost", which is removed. Take the item out, or keep the page.`, found[preflight.ItemToNothing])
	require.Contains(t, found[preflight.StepToNothing], "one step less")
	_, err = d.tryPublish("anselm", "Compost goes")
	require.True(t, errors.As(err, new(*editions.NotReady)))
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Foot, Do: "out", Item: res.ID})
	d.publish("anselm", "Compost goes")
	require.Len(t, shape.On(d.live().Shapes.Trails(), d.live().Tree, d.live().Tree.Find(d.id("/grounds")))[0].Steps, 1)
}

// An item to a page that is planned and stays behind is told with what to do.
func TestAnItemToAPageThatIsNotChosen(t *testing.T) {
	d := newDesk(t)
	bog := d.act("ines", appsitemap.PlanAct{Do: "add", Value: "Bog garden"}).ID
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Foot, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: bog}})
	d.write("ines", d.id("/grounds/ponds"), "See [the bog](page:"+bog+")")
	found := map[check.Rule]string{}
	for _, f := range d.look("marta", change.Key{ID: bog, Aspect: change.Added}).Findings {
		found[f.Rule] = f.Message
	}
	require.Equal(t, `Foot menu has an item to "Bog garden", which is not part of this edition. Choose that page too, or leave the menu out.`, found[preflight.ItemToNothing])
	require.Contains(t, found[preflight.LinkToNothing], `"Bog garden", which is not part of this edition`)
	for _, f := range d.look("marta").Findings {
		require.NotEqual(t, preflight.ItemToNothing, f.Rule)
	}
}

// Two who change the same of a menu are told, the later one with both values; what they change beside each other both stays,
// and who meets what they wrote themselves in another window is not asked.
func TestTwoInOneMenu(t *testing.T) {
	d := newDesk(t)
	grounds, visitors := d.id("/grounds"), d.id("/visitors")
	say := func(seen int64, was, wanted menu.ItemOverride) appnavigation.MenuAct {
		return appnavigation.MenuAct{Menu: menu.Top, Do: "say", Item: visitors, Seen: seen, Was: &was, Override: wanted}
	}
	both := func(err error) plan.BothValues {
		t.Helper()
		var met *plan.EditConflict
		require.ErrorAs(t, err, &met)
		require.Equal(t, d.people["ines"].Name, met.Who)
		return *met.Both
	}
	seen := d.look("ines").Site.PlanVersion
	d.menu("ines", say(seen, menu.ItemOverride{}, menu.ItemOverride{Title: "For visitors"}))
	_, err := d.tryMenu("anselm", say(seen, menu.ItemOverride{}, menu.ItemOverride{Title: "Guests"}))
	require.Equal(t, plan.BothValues{Field: "label", Theirs: "For visitors", Mine: "Guests"}, both(err))
	require.Equal(t, "Home Grounds For visitors", d.nextTop())
	d.menu("anselm", say(seen, menu.ItemOverride{}, menu.ItemOverride{Symbol: "leaf"}))
	require.Equal(t, "Home Grounds For visitors", d.nextTop(), "a form that did not know of the new label leaves it alone")
	d.menu("ines", say(seen, menu.ItemOverride{}, menu.ItemOverride{Symbol: "leaf"}))
	d.menu("anselm", say(d.look("anselm").Site.PlanVersion, menu.ItemOverride{Title: "For visitors", Symbol: "leaf"}, menu.ItemOverride{Title: "Guests", Symbol: "leaf"}))
	require.Equal(t, "Home Grounds Guests", d.nextTop(), "who saw it may change it")

	seen = d.look("ines").Site.PlanVersion
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "set", Seen: seen, WasSettings: &menu.Settings{}, Settings: menu.Settings{Of: grounds}})
	_, err = d.tryMenu("anselm", appnavigation.MenuAct{Menu: menu.Top, Do: "set", Seen: seen, WasSettings: &menu.Settings{}, Settings: menu.Settings{Of: visitors}})
	require.Equal(t, plan.BothValues{Field: menu.TheSource, Theirs: "Grounds", Mine: "Visitors"}, both(err))
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Top, Do: "set", Seen: seen, WasSettings: &menu.Settings{}, Settings: menu.Settings{Of: visitors, AZ: true}})
}

func TestTrailsAreChangesOfTheNextEdition(t *testing.T) {
	d := newDesk(t)
	ponds, hours := d.id("/grounds/ponds"), d.id("/visitors/opening-hours")
	ask := appnavigation.TrailAct{Key: uuid.NewString(), Trail: shape.Trail{Title: "Closing", Readership: "editor; approver", Pages: []string{hours, ponds}}}
	res, err := d.PlanTrail(t.Context(), d.people["ines"], ask)
	require.NoError(t, err)
	require.Equal(t, &readership.Loss{Pages: 2, Anyone: 2, People: []string{d.people["noor"].Name}}, res.Loss, "said before anything is planned")
	require.Empty(t, d.planned())
	id := d.trail("ines", appnavigation.TrailAct{Trail: shape.Trail{Title: "Closing", Readership: "editor; approver", Pages: []string{hours, ponds}}}).ID
	q := d.queue("marta")
	i := slices.IndexFunc(q.Items, func(i review.Item) bool { return i.ID == shape.TrailID(id) })
	thing, err := d.Thing(t.Context(), d.people["marta"], q, q.Items[i])
	require.NoError(t, err)
	require.Equal(t, *res.Loss, thing.Loss, "and to who reviews it")
	d.publish("anselm", "A trail for closing time")
	also := d.live().Shapes.Readerships()
	require.Equal(t, sitemap.None, readership.Visible(d.live().Tree, readership.Reader{}, also).Find(ponds), "who is not named may not read its pages")
	require.NotEqual(t, sitemap.None, readership.Visible(d.live().Tree, readership.Reader{Role: "editor"}, also).Find(ponds))
	seen := d.look("anselm").Site.PlanVersion
	d.trail("anselm", appnavigation.TrailAct{ID: id, Seen: seen, Trail: shape.Trail{Title: "Closing time", Pages: []string{ponds}}})
	_, err = d.PlanTrail(t.Context(), d.people["ines"], appnavigation.TrailAct{Key: uuid.NewString(), ID: id, Seen: seen, Trail: shape.Trail{Title: "Mine"}})
	require.True(t, errors.As(err, new(*plan.EditConflict)), "somebody was quicker")
	d.trail("ines", appnavigation.TrailAct{ID: id, Remove: true})
	_, err = d.tryPublish("anselm", "The trail goes")
	require.ErrorIs(t, err, editions.ErrOwnWork, "anselm made part of this")
	e := d.publish("marta", "The trail goes")
	require.Equal(t, "taken away; its pages stay", e.Changes[0].Words)
	require.Equal(t, "Trail Closing", e.Changes[0].Title)
	require.NotEqual(t, sitemap.None, d.live().Tree.Find(ponds))
	_, err = d.PlanTrail(t.Context(), d.people["ines"], appnavigation.TrailAct{Key: uuid.NewString(), ID: id, Trail: shape.Trail{Title: "x"}})
	require.ErrorIs(t, err, plan.ErrNotFound)
	_, err = d.Rollback(t.Context(), d.people["anselm"], uuid.NewString(), 1, "As it began")
	require.ErrorContains(t, err, "nothing to restore", "it is as it began")
	require.Empty(t, d.live().Shapes.Trails())
}

// A page is previewed as somebody gets it, drafts in Next, and as it is in Live.
func TestPreview(t *testing.T) {
	d := newDesk(t)
	ponds := d.id("/grounds/ponds")
	d.write("ines", ponds, "Ducks are new")
	d.act("ines", appsitemap.PlanAct{Do: "fact", ID: d.id("/grounds"), Field: "readership", Value: "editor"})
	look := func(live bool, at, as string) reading.Previewed {
		p, err := d.Preview(t.Context(), d.people["ines"], reading.PreviewAsk{Live: live, At: at, As: as})
		require.NoError(t, err)
		return p
	}
	require.Equal(t, ponds, look(false, "/grounds/ponds", "").Entry)
	require.NotEqual(t, look(true, "/grounds/ponds", "").Body.VersionID, look(false, "/grounds/ponds", "").Body.VersionID)
	require.Equal(t, readership.Reader{Name: "noor of Quillmere", Login: "noor", Role: "reader"}, look(false, "/", "noor").Reader)
	require.Empty(t, look(false, "/nowhere", "").Entry)
	_, err := d.Preview(t.Context(), d.people["noor"], reading.PreviewAsk{At: "/"})
	require.ErrorIs(t, err, plan.ErrForbidden)
	_, err = d.Preview(t.Context(), d.people["ines"], reading.PreviewAsk{At: "/", As: "nobody"})
	require.ErrorIs(t, err, plan.ErrNotFound)
}

func TestFindingWhatCouldGoIntoAMenu(t *testing.T) {
	d := newDesk(t)
	d.act("ines", appsitemap.PlanAct{Do: "add", Parent: d.id("/grounds"), Value: "Ice house"})
	d.act("ines", appsitemap.PlanAct{Do: "fact", ID: d.id("/grounds/ponds"), Field: "listed", Value: "no"})
	titles := func(ask appnavigation.MenuFind) (out []string) {
		ask.Most = 3
		f, err := d.FindForMenu(t.Context(), d.people["ines"], ask)
		require.NoError(t, err)
		for _, i := range f.Entries {
			out = append(out, f.Trees.Next.Ref(i).Title)
		}
		return out
	}
	require.Equal(t, []string{"Ponds", "Ice house"}, titles(appnavigation.MenuFind{})[:2], "the latest first")
	require.Equal(t, []string{"Ponds"}, titles(appnavigation.MenuFind{Bare: true}))
	require.Equal(t, []string{"Opening hours"}, titles(appnavigation.MenuFind{Words: "opening", Pages: true}))
}

func TestMergingTakesItemsAndStepsAlong(t *testing.T) {
	d := newDesk(t)
	kept, gone := d.id("/grounds/compost"), d.id("/grounds/ponds")
	d.menu("ines", appnavigation.MenuAct{Menu: menu.Foot, Do: "add", Override: menu.ItemOverride{Kind: menu.AnEntry, Entry: gone}})
	d.trail("ines", appnavigation.TrailAct{Trail: shape.Trail{Title: "Rounds", Pages: []string{gone}}})
	look, err := d.LookAtMerge(t.Context(), d.people["marta"], kept, gone)
	require.NoError(t, err)
	require.Equal(t, []string{"Foot menu", "Trail Rounds"}, look.Shapes)
	_, err = d.merge("marta", kept, gone, nil)
	require.NoError(t, err)
	next := d.look("marta").Trees
	require.Empty(t, next.Shapes.Next.Lost(next.Next))
	require.Equal(t, []string{kept}, next.Shapes.Next.Trails()[0].Pages)
	_, err = d.Undo(t.Context(), d.people["marta"])
	require.NoError(t, err)
	require.Equal(t, []string{gone}, d.look("marta").Trees.Shapes.Next.Trails()[0].Pages)
}

// A menu item shortens the way, and a saving can be had as one.
func TestMenuItemsCountForReach(t *testing.T) {
	d := newDesk(t)
	hours := d.id("/visitors/opening-hours")
	clicks := func() int {
		r, err := d.Reach(t.Context(), d.people["ines"], false)
		require.NoError(t, err)
		return r.Clicks[r.Tree.Find(hours)]
	}
	require.Equal(t, 2, clicks())
	_, err := d.PlanMenuItem(t.Context(), d.people["ines"], uuid.NewString(), hours)
	require.NoError(t, err)
	require.Equal(t, 1, clicks())
	require.Equal(t, "Home Grounds Visitors Opening hours", d.nextTop())
	way, err := d.WayTo(t.Context(), d.people["ines"], hours)
	require.NoError(t, err)
	require.Len(t, way, 2)
}
