package consequence_test

import (
	"testing"

	"candlepath/internal/core/consequence"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/menu"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

func garden(t *testing.T) *sitemap.Tree {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"},
		{ID: "v", Title: "Seed vault", Slug: "seed-vault", Kind: sitemap.Page, Owner: "Ines", Rank: "b"},
		{ID: "d", Parent: "v", Title: "Drying room", Slug: "drying-room", Kind: sitemap.Page, Rank: "a"},
		{ID: "g", Parent: "v", Title: "Germination", Slug: "germination", Kind: sitemap.Page, Owner: "Kofi", Rank: "b"},
		{ID: "s", Title: "Science", Slug: "science", Kind: sitemap.Page, Owner: "Tessa", Rank: "c"},
		{ID: "w", Title: "Weather", Kind: sitemap.Outside, Target: "https://weather.quillmere.example", Rank: "d"},
	})
	require.NoError(t, err)
	return tree
}

// What acts do, told from Live and Next before and after.
func TestConsequences(t *testing.T) {
	live := garden(t)
	plan := func(edit func(*sitemap.Tree) (*sitemap.Tree, error)) *sitemap.Tree {
		next, err := edit(live)
		require.NoError(t, err)
		return next
	}
	below := func(id string) func(*sitemap.Tree) (*sitemap.Tree, error) {
		return func(t *sitemap.Tree) (*sitemap.Tree, error) { return t.Move("v", sitemap.Spot{Parent: id}) }
	}
	moved := plan(below("s"))
	for name, c := range map[string]struct {
		before, after *sitemap.Tree
		id            string
		want          consequence.Of
		asks          bool
	}{
		"a branch moves": {live, moved, "v", consequence.Of{
			Readdressed: []string{"v", "d", "g"}, FromLive: 3, Staying: 3, Redirects: 3, NoOwner: 1, SideMenus: 2,
			TopBefore: []string{"Home", "Seed vault", "Science", "Weather"}, TopAfter: []string{"Home", "Science", "Weather"},
			OldLive: "/seed-vault", NewAddress: "/science/seed-vault",
		}, true},
		"it moves back before it went out": {moved, live, "v", consequence.Of{
			Readdressed: []string{"v", "d", "g"}, Staying: 3, NoOwner: 1, SideMenus: 2,
			TopBefore: []string{"Home", "Science", "Weather"}, TopAfter: []string{"Home", "Seed vault", "Science", "Weather"},
			OldLive: "/seed-vault", NewAddress: "/seed-vault",
		}, false},
		"a page goes": {live, plan(func(t *sitemap.Tree) (*sitemap.Tree, error) { return t.Remove("d") }), "d", consequence.Of{
			Readdressed: []string{"d"}, FromLive: 1, Redirects: 1, Undecided: []string{"d"}, SideMenus: 1, OldLive: "/seed-vault/drying-room",
		}, true},
		"a page is withdrawn": {live, plan(func(t *sitemap.Tree) (*sitemap.Tree, error) {
			return t.Change("g", func(e *sitemap.Entry) { e.Withdrawn = true })
		}), "g", consequence.Of{
			Readdressed: []string{"g"}, FromLive: 1, Redirects: 1, Undecided: []string{"g"}, SideMenus: 1, OldLive: "/seed-vault/germination",
		}, true},
		"a title changes": {live, plan(func(t *sitemap.Tree) (*sitemap.Tree, error) {
			return t.Change("s", func(e *sitemap.Entry) { e.Title = "Research" })
		}), "s", consequence.Of{
			SideMenus: 1, TopBefore: []string{"Home", "Seed vault", "Science", "Weather"}, TopAfter: []string{"Home", "Seed vault", "Research", "Weather"},
			OldLive: "/science", NewAddress: "/science",
		}, false},
	} {
		got, err := consequence.Move(live, c.before, c.after, nil, nil, nil, nil, c.id)
		require.NoError(t, err, name)
		require.Equal(t, c.want, got, name)
		require.Equal(t, c.asks, got.AsksFirst(), name)
	}
}

func TestConsequencesForSeveral(t *testing.T) {
	live := garden(t)
	next, err := live.MoveAll([]string{"d", "g"}, sitemap.Spot{Parent: "s"})
	require.NoError(t, err)
	got, err := consequence.Move(live, live, next, nil, nil, nil, nil, "d", "g")
	require.NoError(t, err)
	require.Equal(t, consequence.Of{Readdressed: []string{"d", "g"}, FromLive: 2, Staying: 2, Redirects: 2, NoOwner: 1, SideMenus: 2}, got)
	require.False(t, got.Leaves())
	next, err = live.RemoveAll([]string{"v", "s"})
	require.NoError(t, err)
	got, err = consequence.Move(live, live, next, nil, nil, nil, nil, "v", "s")
	require.NoError(t, err)
	require.Equal(t, 4, got.FromLive)
	require.True(t, got.Leaves())
}

func TestADecisionMadeBeforeIsNoQuestion(t *testing.T) {
	live := garden(t)
	next, err := live.Remove("d")
	require.NoError(t, err)
	got, err := consequence.Move(live, live, next, nil, nil, map[string]redirect.Decision{"d": {Code: redirect.Gone}}, nil, "d")
	require.NoError(t, err)
	require.Empty(t, got.Undecided)
	_, err = consequence.Move(live, live, next, nil, []redirect.Row{{From: "/a", To: redirect.Target{Address: "/a"}, Code: 301, Match: redirect.Exact}}, nil, nil, "d")
	require.ErrorIs(t, err, redirect.ErrTable)
}

// Menus that editors took over count as they are: an item in the foot shows the
// change too, and what is left out of the top does not.
func TestConsequencesForMenusTakenOver(t *testing.T) {
	live := garden(t)
	owns := menu.Owns{
		menu.Top:  {Items: map[string]menu.ItemOverride{"s": {Out: true}}},
		menu.Foot: {Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "d"}}},
	}
	next, err := live.Move("d", sitemap.Spot{Parent: "s"})
	require.NoError(t, err)
	got, err := consequence.Move(live, live, next, owns, nil, nil, nil, "d")
	require.NoError(t, err)
	require.Equal(t, 3, got.SideMenus, "two branches and the foot")
	renamed, err := live.Retitle("s", "Research")
	require.NoError(t, err)
	got, err = consequence.Move(live, live, renamed, owns, nil, nil, nil, "s")
	require.NoError(t, err)
	require.Empty(t, got.TopBefore)
}
