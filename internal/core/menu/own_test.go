package menu_test

import (
	"fmt"
	"strings"
	"testing"

	"candlepath/internal/core/menu"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

// outline writes a menu one item a line, indented.
func outline(items []menu.Item) string {
	var b strings.Builder
	var put func(items []menu.Item, level int)
	put = func(items []menu.Item, level int) {
		for _, it := range items {
			words := it.Title
			if it.Divider {
				words = "--"
			}
			fmt.Fprintf(&b, "%s%s\n", strings.Repeat("  ", level), words)
			put(it.Below, level+1)
		}
	}
	put(items, 0)
	return b.String()
}

func garden(t *testing.T) *sitemap.Tree {
	page := func(id, parent, title string) sitemap.Entry {
		return sitemap.Entry{ID: id, Parent: parent, Title: title, Slug: id, Kind: sitemap.Page}
	}
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		page("v", "", "Visit"), page("t", "v", "Tickets"), page("g", "t", "Groups"), page("o", "v", "Opening hours"),
		page("s", "", "Science"), page("sv", "s", "Seed vault"), page("dr", "sv", "Drying room"), page("hb", "s", "Herbarium"),
		{ID: "w", Title: "Weather", Kind: sitemap.Outside, Target: "https://weather.quillmere.example/"},
	})
	require.NoError(t, err)
	return tree
}

// Each step is what an editor does with a menu; the menu is what readers get
// then.
func TestTakingAMenuOver(t *testing.T) {
	tree := garden(t)
	own := menu.Overrides{}
	layout := func() *menu.Layout { return menu.For(tree, menu.Owns{menu.Top: own}).Layout(menu.Top) }
	for _, step := range []struct {
		what string
		do   func() (menu.Overrides, error)
		want string
		err  error
	}{
		{"as computed", func() (menu.Overrides, error) { return own, nil }, "Home Visit Science Weather", nil},
		{"two levels", func() (menu.Overrides, error) { return layout().Set(menu.Settings{Levels: 2}) }, "Home Visit ( Tickets Opening-hours ) Science ( Seed-vault Herbarium ) Weather", nil},
		{"A to Z", func() (menu.Overrides, error) { return layout().Set(menu.Settings{Levels: 2, AZ: true}) }, "Home Science ( Herbarium Seed-vault ) Visit ( Opening-hours Tickets ) Weather", nil},
		{"as it was", func() (menu.Overrides, error) { return layout().Set(menu.Settings{Levels: 2}) }, "Home Visit ( Tickets Opening-hours ) Science ( Seed-vault Herbarium ) Weather", nil},
		{"science up", func() (menu.Overrides, error) { return layout().Step("s", sitemap.Up) }, "Home Science ( Seed-vault Herbarium ) Visit ( Tickets Opening-hours ) Weather", nil},
		{"home last", func() (menu.Overrides, error) { return layout().Move("h", "", "w") }, "Science ( Seed-vault Herbarium ) Visit ( Tickets Opening-hours ) Weather Home", nil},
		{"tickets out", func() (menu.Overrides, error) { return layout().Step("t", sitemap.Out) }, "Science ( Seed-vault Herbarium ) Visit ( Opening-hours ) Tickets Weather Home", nil},
		{"and back in", func() (menu.Overrides, error) { return layout().Step("t", sitemap.In) }, "Science ( Seed-vault Herbarium ) Visit ( Opening-hours Tickets ) Weather Home", nil},
		{"own words", func() (menu.Overrides, error) {
			return layout().Say("o", func(s *menu.ItemOverride) { s.Title, s.Symbol = "  When we are open ", "clock" })
		}, "Science ( Seed-vault Herbarium ) Visit ( When-we-are-open Tickets ) Weather Home", nil},
		{"left out", func() (menu.Overrides, error) { return layout().LeaveOut("s") }, "Visit ( When-we-are-open Tickets ) Weather Home", nil},
		{"a label", func() (menu.Overrides, error) {
			return layout().Add("+1", menu.ItemOverride{Kind: menu.Label, Title: "Elsewhere"}, "", "v")
		}, "Visit ( When-we-are-open Tickets ) Weather Home", nil}, // nothing is below it yet
		{"weather below it", func() (menu.Overrides, error) { return layout().Move("w", "+1", "") }, "Visit ( When-we-are-open Tickets ) Elsewhere ( Weather ) Home", nil},
		{"a divider last divides nothing", func() (menu.Overrides, error) {
			return layout().Add("+2", menu.ItemOverride{Kind: menu.Divider}, "+1", "w")
		}, "Visit ( When-we-are-open Tickets ) Elsewhere ( Weather ) Home", nil},
		{"and a link after it", func() (menu.Overrides, error) {
			return layout().Add("+3", menu.ItemOverride{Kind: menu.Link, Title: "Tides", URL: "https://tides.quillmere.example"}, "+1", "+2")
		}, "Visit ( When-we-are-open Tickets ) Elsewhere ( Weather -- Tides ) Home", nil},
		{"a page from anywhere, with what is below it", func() (menu.Overrides, error) {
			return layout().Add("+4", menu.ItemOverride{Kind: menu.AnEntry, Entry: "sv", Levels: 1}, "", "")
		}, "Seed-vault ( Drying-room ) Visit ( When-we-are-open Tickets ) Elsewhere ( Weather -- Tides ) Home", nil},
		{"what is below a page, without the page", func() (menu.Overrides, error) {
			return layout().Add("+5", menu.ItemOverride{Kind: menu.Children, Entry: "s"}, "", "h")
		}, "Seed-vault ( Drying-room ) Visit ( When-we-are-open Tickets ) Elsewhere ( Weather -- Tides ) Home Seed-vault Herbarium", nil},
		{"one of those left out", func() (menu.Overrides, error) { return layout().LeaveOut("+5/sv") }, "Seed-vault ( Drying-room ) Visit ( When-we-are-open Tickets ) Elsewhere ( Weather -- Tides ) Home Herbarium", nil},
		{"a label taken away leaves what was put below it", func() (menu.Overrides, error) { return layout().LeaveOut("+1") }, "Seed-vault ( Drying-room ) Visit ( When-we-are-open Tickets ) Weather -- Tides Home Herbarium", nil},
		{"science is let back in, where it stood", func() (menu.Overrides, error) { return layout().Back("s") }, "Seed-vault ( Drying-room ) Visit ( When-we-are-open Tickets ) Science ( Seed-vault Herbarium ) Weather -- Tides Home Herbarium", nil},
		{"below itself", func() (menu.Overrides, error) { return layout().Move("v", "t", "") }, "", menu.ErrInside},
		{"below a divider", func() (menu.Overrides, error) { return layout().Move("v", "+2", "") }, "", menu.ErrHolds},
		{"first up", func() (menu.Overrides, error) { return layout().Step("+4", sitemap.Up) }, "", menu.ErrNoPlace},
		{"no words", func() (menu.Overrides, error) {
			return layout().Add("+6", menu.ItemOverride{Kind: menu.Label, Title: " "}, "", "")
		}, "", menu.ErrWords},
		{"no address", func() (menu.Overrides, error) {
			return layout().Add("+6", menu.ItemOverride{Kind: menu.Link, Title: "Tides", URL: "javascript:alert(1)"}, "", "")
		}, "", menu.ErrURL},
		{"long", func() (menu.Overrides, error) {
			return layout().Say("v", func(s *menu.ItemOverride) { s.Title = strings.Repeat("é", 300) })
		}, "", &menu.LongLabelError{Has: 300}},
		{"gone", func() (menu.Overrides, error) { return layout().LeaveOut("nothing") }, "", menu.ErrNoItem},
	} {
		next, err := step.do()
		if step.err != nil {
			require.Equal(t, step.err, err, step.what)
			require.Equal(t, own, next, step.what+": nothing is lost")
			continue
		}
		require.NoError(t, err, step.what)
		own = next
		got := menu.For(tree, menu.Owns{menu.Top: own}).Top(sitemap.None)
		require.Equal(t, step.want, inline(got), step.what)
	}
}

// inline writes a menu in a line.
func inline(items []menu.Item) string {
	var words []string
	for _, it := range items {
		w := strings.ReplaceAll(it.Title, " ", "-")
		if it.Divider {
			w = "--"
		}
		if words = append(words, w); len(it.Below) > 0 {
			words = append(words, "( "+inline(it.Below)+" )")
		}
	}
	return strings.Join(words, " ")
}

func TestNewPagesAppearOrWait(t *testing.T) {
	tree := garden(t)
	layout := func(own menu.Overrides) *menu.Layout {
		return menu.For(tree, menu.Owns{menu.Top: own}).Layout(menu.Top)
	}
	arranged, err := layout(menu.Overrides{}).Step("s", sitemap.Up)
	require.NoError(t, err)
	waiting, err := layout(arranged).Set(menu.Settings{Wait: true})
	require.NoError(t, err)
	tree, err = tree.Add(sitemap.Entry{ID: "n", Title: "News"}, sitemap.Spot{After: "v"})
	require.NoError(t, err)
	top := func(own menu.Overrides) string {
		return inline(menu.For(tree, menu.Owns{menu.Top: own}).Top(sitemap.None))
	}
	require.Equal(t, "Home Science Visit News Weather", top(arranged), "after what precedes it in the sitemap")
	require.Equal(t, "Home Science Visit Weather", top(waiting))
	line, ok := layout(waiting).Find("n")
	require.True(t, ok)
	require.Equal(t, menu.Waits, line.Why)
	in, err := layout(waiting).Say("n", func(s *menu.ItemOverride) { s.In = true })
	require.NoError(t, err)
	require.Equal(t, "Home Science Visit News Weather", top(in))
	wider, err := layout(waiting).Set(menu.Settings{Wait: true, Levels: 2})
	require.NoError(t, err)
	require.Contains(t, top(wider), "Tickets", "what a wider choice brings is not new")
	require.NotContains(t, top(wider), "News")
}

// Why readers do not get an item is said, and no page is touched.
func TestWhyAnItemIsNotShown(t *testing.T) {
	tree, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page},
		{ID: "u", Title: "Unlisted", Slug: "u", Kind: sitemap.Page, Unlisted: true},
		{ID: "w", Title: "Withdrawn", Slug: "w", Kind: sitemap.Page, Withdrawn: true},
		{ID: "g", Title: "Empty group", Kind: sitemap.Group},
		{ID: "a", Title: "Round and round", Kind: sitemap.Reference, Target: "b"},
		{ID: "b", Title: "And round", Kind: sitemap.Reference, Target: "a"},
		{ID: "o", Title: "Left out", Slug: "o", Kind: sitemap.Page},
	})
	require.NoError(t, err)
	own := menu.Overrides{Items: map[string]menu.ItemOverride{
		"o": {Out: true}, "+1": {Kind: menu.AnEntry, Entry: "removed"}, "+2": {Kind: menu.Label, Title: "1"}, "+3": {Kind: menu.Label, Title: "2"},
		"+4": {Kind: menu.Label, Title: "3"}, "+5": {Kind: menu.AnEntry, Entry: "h"},
	}, Order: map[string][]string{"+2": {"+3"}, "+3": {"+4"}, "+4": {"+5"}}}
	l := menu.For(tree, menu.Owns{menu.Top: own}).Layout(menu.Top)
	got := map[string]menu.Why{}
	for _, line := range l.Lines() {
		got[line.Key] = line.Why
	}
	require.Equal(t, map[string]menu.Why{
		"h": menu.Shown, "u": menu.Unlisted, "w": menu.Withdrawn, "g": menu.NoneBelow, "a": menu.NoPage, "b": menu.NoPage, "o": menu.LeftOut,
		"+1": menu.Gone, "+2": menu.NoneBelow, "+3": menu.NoneBelow, "+4": menu.NoneBelow, "+5": menu.TooDeep,
	}, got)
}

// A menu that was taken over in name only is the menu as computed, on every page.
func TestNothingSaidChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, rapid.IntRange(0, 14).Draw(t, "entries"))
		for range 6 {
			tree = author.Edit(t, tree)
		}
		owns := menu.Owns{menu.Top: {}}
		for i := range tree.Len() {
			owns[menu.Side(tree.Ref(i).ID)] = menu.Overrides{}
		}
		plain, taken := menu.For(tree, nil), menu.For(tree, owns)
		for i := range tree.Len() {
			require.Equal(t, outline(plain.Top(i)), outline(taken.Top(i)))
			wantHead, want := plain.Side(i)
			head, got := taken.Side(i)
			require.Equal(t, wantHead, head)
			require.Equal(t, want, got)
		}
	})
}

// However a menu is rearranged and the sitemap edited meanwhile, every item is
// there exactly once, and going back on everything gives the computed menu.
func TestRearrangedMenusKeepEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, 10)
		id := menu.Top
		own := menu.Overrides{Levels: 3}
		added := 0
		for range rapid.IntRange(1, 25).Draw(t, "acts") {
			l := menu.For(tree, menu.Owns{id: own}).Layout(id)
			lines := l.Lines()
			pick := func(name string) string {
				if len(lines) == 0 {
					return ""
				}
				return lines[rapid.IntRange(0, len(lines)-1).Draw(t, name)].Key
			}
			next, err := own, error(nil)
			switch rapid.SampledFrom([]string{"move", "move", "step", "add", "out", "back", "edit"}).Draw(t, "act") {
			case "move":
				next, err = l.Move(pick("key"), pick("parent"), pick("after"))
			case "step":
				next, err = l.Step(pick("key"), rapid.SampledFrom([]sitemap.Step{sitemap.Up, sitemap.Down, sitemap.In, sitemap.Out}).Draw(t, "step"))
			case "add":
				added++
				next, err = l.Add(fmt.Sprintf("+%d", added), menu.ItemOverride{Kind: menu.AnEntry, Entry: tree.Ref(0).ID, Levels: 1}, "", "")
			case "out":
				next, err = l.LeaveOut(pick("key"))
			case "back":
				next, err = l.Back(pick("key"))
			case "edit":
				tree = author.Edit(t, tree)
			}
			if err == nil {
				own = next
			}
			after := menu.For(tree, menu.Owns{id: own}).Layout(id)
			seen := map[string]bool{}
			for _, line := range after.Lines() {
				require.False(t, seen[line.Key], "once")
				seen[line.Key] = true
				require.True(t, line.Parent == "" || seen[line.Parent])
			}
			for _, line := range menu.For(tree, menu.Owns{id: {Levels: 3}}).Layout(id).Lines() {
				require.True(t, seen[line.Key], "what is computed is there, shown or not")
			}
			for k, it := range own.Items {
				require.True(t, it.Kind == "" || seen[k], "and so is what was added")
			}
		}
		acted := false
		for range 100 {
			l := menu.For(tree, menu.Owns{id: own}).Layout(id)
			i := 0
			for ; i < len(l.Lines()) && !l.Lines()[i].Own() && !l.Lines()[i].Arranged && l.Lines()[i].Override == (menu.ItemOverride{}); i++ {
			}
			if i == len(l.Lines()) {
				break
			}
			var err error
			own, err = l.Back(l.Lines()[i].Key)
			require.NoError(t, err)
			acted = true
		}
		require.Equal(t, outline(menu.For(tree, menu.Owns{id: {Levels: 3}}).Top(0)), outline(menu.For(tree, menu.Owns{id: own}).Top(0)))
		for p := range own.Order {
			_, there := menu.For(tree, menu.Owns{id: own}).Layout(id).Find(p)
			// The sitemap may have changed since so that it says nothing; the next act tells.
			require.False(t, acted && (there || p == ""), "an order that says nothing is forgotten")
		}
	})
}

func TestMenusThatShowAPage(t *testing.T) {
	tree := garden(t)
	owns := menu.Owns{menu.Foot: {Items: map[string]menu.ItemOverride{"+1": {Kind: menu.AnEntry, Entry: "dr"}}}, menu.Side("v"): {Items: map[string]menu.ItemOverride{"o": {Out: true}}}}
	m := menu.For(tree, owns)
	require.Equal(t, []string{menu.Foot, menu.Side("s")}, m.Of(tree.Find("dr")))
	require.Equal(t, []string{menu.Top}, m.Of(tree.Find("v")))
	require.Empty(t, m.Of(tree.Find("o")), "left out of the one menu that had it")
	require.Equal(t, []string{menu.Top, menu.Foot, menu.Side("v"), menu.Side("s")}, m.IDs())
	require.Equal(t, []int{9, 9, 4, 0}, []int{m.On(menu.Top), m.On(menu.Foot), m.On(menu.Side("s")), m.On(menu.Side("sv"))}, "pages that they are on")
	require.Equal(t, []int{3, 2, 0}, []int{menu.Shows(menu.Top), menu.Shows(menu.Foot), menu.Shows(menu.Side("s"))})
	require.Equal(t, "Side menu of Science", menu.Title(menu.Side("s"), tree))
	own, did := owns[menu.Foot].Replaced("dr", "hb")
	require.True(t, did)
	require.Equal(t, "hb", own.Items["+1"].Entry)
}

func TestWhatIsTypedMakesAnItem(t *testing.T) {
	for typed, want := range map[string]menu.ItemOverride{
		" https://tides.quillmere.example/today?x=1 ": {Kind: menu.Link, Title: "tides.quillmere.example/today", URL: "https://tides.quillmere.example/today?x=1"},
		"In  a hurry": {Kind: menu.Label, Title: "In a hurry"}, "javascript:alert(1)": {Kind: menu.Label, Title: "javascript:alert(1)"},
	} {
		got, ok := menu.Typed(typed)
		require.True(t, ok)
		require.Equal(t, want, got)
	}
	_, ok := menu.Typed("  ")
	require.False(t, ok)
}

func TestAMenuIsFullAt500Items(t *testing.T) {
	tree := garden(t)
	own := menu.Overrides{}
	for i := range menu.MostItems {
		var err error
		own, err = menu.For(tree, menu.Owns{menu.Foot: own}).Layout(menu.Foot).Add(fmt.Sprintf("+%d", i), menu.ItemOverride{Kind: menu.AnEntry, Entry: "v"}, "", "")
		require.NoError(t, err)
	}
	m := menu.For(tree, menu.Owns{menu.Foot: own})
	require.Len(t, m.Foot(sitemap.None), menu.MostItems)
	_, err := m.Layout(menu.Foot).Add("more", menu.ItemOverride{Kind: menu.Divider}, "", "")
	require.ErrorIs(t, err, menu.ErrFull)
}

// Pages with the same marks show the same menu, which is why it is drawn once for
// all of them.
func TestSameMarksSameMenu(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var author sitemaptest.Author
		tree := author.Small(t, rapid.IntRange(1, 14).Draw(t, "entries"))
		own := menu.Overrides{Levels: rapid.IntRange(1, 3).Draw(t, "levels"), AZ: rapid.Bool().Draw(t, "az")}
		for n := range rapid.IntRange(0, 5).Draw(t, "acts") {
			l := menu.For(tree, menu.Owns{menu.Top: own}).Layout(menu.Top)
			entry := tree.Ref(rapid.IntRange(0, tree.Len()-1).Draw(t, "entry")).ID
			next, err := own, error(nil)
			switch rapid.IntRange(0, 2).Draw(t, "act") {
			case 0:
				next, err = l.Add(fmt.Sprint("+", n), menu.ItemOverride{Kind: menu.AnEntry, Entry: entry, Levels: rapid.IntRange(0, 2).Draw(t, "below")}, "", "")
			case 1:
				next, err = l.Step(entry, sitemap.Out)
			case 2:
				next, err = l.LeaveOut(entry)
			}
			if err == nil {
				own = next
			}
		}
		m := menu.For(tree, menu.Owns{menu.Top: own})
		seen := map[string][]menu.Item{m.Marks(menu.Top, sitemap.None): m.Top(sitemap.None)}
		for page := range tree.Len() {
			marks, items := m.Marks(menu.Top, page), m.Top(page)
			if before, ok := seen[marks]; ok {
				require.Equal(t, before, items)
			}
			seen[marks] = items
		}
	})
}

// Dividers stand only between items, however they were put.
func TestDividersDivide(t *testing.T) {
	tree := garden(t)
	divider := menu.ItemOverride{Kind: menu.Divider}
	own := menu.Overrides{
		Items: map[string]menu.ItemOverride{"+1": divider, "+2": divider, "+3": divider, "+4": divider, "w": {Out: true}},
		Order: map[string][]string{"": {"+1", "h", "v", "+2", "+3", "s", "+4", "w"}},
	}
	require.Equal(t, "Home Visit -- Science", inline(menu.For(tree, menu.Owns{menu.Top: own}).Top(sitemap.None)))
}

// The side menu that was taken over opens down to the page; where it leaves the
// page out, down to the nearest above that it has.
func TestASideMenuOpensDownToThePage(t *testing.T) {
	tree := garden(t)
	own := menu.Overrides{Items: map[string]menu.ItemOverride{"g": {Out: true}, "+1": {Kind: menu.Label, Title: "Elsewhere"}, "+2": {Kind: menu.AnEntry, Entry: "sv", Levels: 1}}, Order: map[string][]string{"+1": {"+2"}}}
	m := menu.For(tree, menu.Owns{menu.Side("v"): own})
	at := func(id string) string {
		_, items := m.Side(tree.Find(id))
		return inline(items)
	}
	require.Equal(t, "Tickets Opening-hours Elsewhere ( Seed-vault )", at("v"))
	require.Equal(t, "Tickets Opening-hours Elsewhere ( Seed-vault )", at("g"), "what is left out is nowhere, but its branch is open")
	_, items := m.Side(tree.Find("g"))
	require.True(t, items[0].Open)
	own.Items["+2"] = menu.ItemOverride{Kind: menu.AnEntry, Entry: "t", Levels: 1}
	m = menu.For(tree, menu.Owns{menu.Side("v"): own})
	require.Equal(t, "Tickets Opening-hours Elsewhere ( Tickets ( Groups ) )", at("t"), "and so is every item of the page")
}
