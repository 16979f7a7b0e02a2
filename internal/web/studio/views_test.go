package studio

import (
	"bytes"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"candlepath/internal/app/account"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/change"
	"candlepath/internal/core/consequence"
	"candlepath/internal/core/content"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

// Every block of every screen is executed with the view that its handler
// builds, empty: a field that is missing, and an escaping error, show here.
func TestEveryBlockExecutes(t *testing.T) {
	s, err := New(Config{})
	require.NoError(t, err)
	views := map[string]any{
		"bring-in": bringInView{}, "checks": checksView{Rule: "r", Mends: []string{"x", "y"}, Pager: pager{Prev: "p", Next: "n"}, Rows: []checkRow{{Mend: "m", ID: "x"}}, Mending: &mendingView{}}, "alike": alikeView{Rows: []alikeRow{{}}}, "merge": mergeView{Facts: []mergeFactView{{}}, Kept: mergeSideView{Blocks: []mergeBlockView{{ID: "k"}}}}, "split": splitView{Pieces: []pieceView{{}, {Index: 1}}}, "compare": compareView{Ways: []wayLine{{URL: "x"}}, Lines: []compareLine{{}}, Rows: []compareRow{{}}}, "bring-in-file": bringFileView{}, "edition": editionView{Beneath: []beneathView{{}}, Opened: []string{"x"}, Entries: []changedEntry{{ID: "e", Branch: "b", Changes: []changeView{{ID: "c"}}}}, Errors: []findingView{{Links: &brokenLinks{To: "t", Pages: []linkView{{}}}}}, Decisions: []decisionView{{ID: "d"}}, Rest: "r", More: "m"}, "people": peopleView{Rows: []personView{{Roles: []option{{}}}}, Link: &linkForView{}}, "begin": beginView{}, "password": passwordView{}, "inventory": inventoryView{}, "look": lookView{},
		"map": mapView{Overlays: []option{{}}}, "menus": menusView{Lines: []menuLine{{Tags: []string{"x"}}, {Twist: "open", DOM: "mi-1", Why: "x"}}, Item: &itemView{IsLink: true, Levels: []option{{}}, Symbols: []option{{}}}, Menus: []menuChoice{{}}}, "trails": trailsView{List: []trailLine{{Way: []string{"x"}}}, Gone: []trailLine{{}}}, "trail": trailView{Pages: []stepView{{}, {Why: "x"}}, Error: "x"}, "moves": movesView{}, "outline": outlineView{}, "page": pageView{Parts: []partView{{Kind: "lead"}}}, "past": pastView{},
		"problem": problemView{}, "findability": findabilityView{Asks: true, Rows: []studyRow{{}}, Tasks: []taskField{{N: 1}}}, "study": studyView{Others: []option{{}}, Results: []taskResult{{Than: "x", Tree: []astrayLine{{Level: 1}}}}}, "reach": reachView{Rows: []reachRow{{Way: []wayStep{{}}}}, Savings: []savingView{{}}, Spread: []spreadView{{}}}, "redirects": redirectsView{}, "settings": settingsView{Marks: []option{{}}}, "removed": removedView{Any: true, Rows: []removedRow{{}}}, "sign-in": signInView{},
	}
	require.Len(t, views, len(s.Screens().Names()), "a screen without a view here")
	for screen, view := range views {
		block := "layout"
		if screen == "sign-in" || screen == "problem" || screen == "begin" || screen == "password" {
			block = "plain"
		}
		if screen != "look" {
			body, err := s.set.Bytes(screen, block, view)
			require.NoError(t, err, screen)
			wellFormed(t, screen, body)
		}
		_, err = s.set.Bytes(screen, "screen", view)
		require.NoError(t, err, screen)
	}
	for block, view := range map[string]any{"beside": besideView{Kinds: []option{{}}, Found: []lookAtView{{Mend: "m"}}}, "beside-many": besideView{Pair: []pair{{}}}, "confirm": confirmView{Points: []point{{}}}, "shelf-update": frame{Shelf: shelfView{Lines: []shelfLine{{}}}}} {
		body, err := s.set.Bytes("outline", block, view)
		require.NoError(t, err, block)
		wellFormed(t, block, body)
	}
}

// wellFormed looks for ids given twice and for inline script or style.
func wellFormed(t *testing.T, name string, body []byte) {
	doc, err := html.Parse(bytes.NewReader(body))
	require.NoError(t, err)
	ids := map[string]bool{}
	for n := range doc.Descendants() {
		for _, a := range n.Attr {
			require.False(t, a.Key == "style" || len(a.Key) > 2 && a.Key[:2] == "on", "%s: inline %s", name, a.Key)
			if a.Key == "id" && a.Val != "" {
				require.False(t, ids[a.Val], "%s: the id %s is there twice", name, a.Val)
				ids[a.Val] = true
			}
		}
	}
}

func trees(t *testing.T) plan.Trees {
	live, err := sitemap.New([]sitemap.Entry{
		{ID: "h", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "a"},
		{ID: "g", Title: "Grounds", Slug: "grounds", Kind: sitemap.Page, Owner: "Gwen", Rank: "b"},
		{ID: "p", Parent: "g", Title: "Ponds", Slug: "ponds", Kind: sitemap.Page, Rank: "a"},
		{ID: "c", Parent: "g", Title: "Compost", Slug: "compost", Kind: sitemap.Page, Rank: "b"},
		{ID: "r", Title: "See ponds", Kind: sitemap.Reference, Target: "p", Rank: "c"},
	})
	require.NoError(t, err)
	next, err := live.Retitle("g", "Outdoors")
	require.NoError(t, err)
	next, err = next.Change("g", func(e *sitemap.Entry) { e.Slug = "outdoors" })
	require.NoError(t, err)
	next, err = next.Remove("c")
	require.NoError(t, err)
	next, err = next.Add(sitemap.Entry{ID: "n", Title: "Bog garden", Kind: sitemap.Carried, Source: "https://old.quillmere.example/bog"}, sitemap.Spot{Parent: "g", After: "p"})
	require.NoError(t, err)
	return plan.Trees{Live: live, Next: next, Planned: map[string]plan.Planned{}}
}

func TestRowsOfTheOutline(t *testing.T) {
	tr := trees(t)
	m := newRowMaker(plan.Outline{Trees: tr, Heads: []plan.PageHead{{EntryID: "p"}, {EntryID: "p", Draft: true}}})
	row := func(id string) rowView { return m.row(tr.Next.Find(id)) }
	require.Equal(t, rowView{ID: "g", Title: "Outdoors", Kind: "page", Address: "/outdoors", Slug: "outdoors", Owner: "Gwen", Wick: "half", State: "live, planned", Marks: []string{"renamed address", "retitled"}}, row("g"))
	require.Equal(t, rowView{ID: "p", Parent: "g", Title: "Ponds", Kind: "page", Address: "/outdoors/ponds", Slug: "ponds", Wick: "half", State: "live, edited", Marks: []string{"new address", "edited"}}, row("p"))
	require.Equal(t, rowView{ID: "n", Parent: "g", Title: "Bog garden", Kind: "carried", Address: "/outdoors/bog-garden", Slug: "bog-garden", Source: "https://old.quillmere.example/bog", Wick: "never", State: "to be carried", Marks: []string{"new"}, Bare: true}, row("n"))
	require.Equal(t, rowView{ID: "r", Title: "See ponds", Kind: "reference", Address: "reference", Target: "p", Wick: "live", State: "live", See: "Outdoors › Ponds"}, row("r"))
	require.True(t, row("h").Home)
}

func next(t *testing.T) editions.NextEdition {
	tr := trees(t)
	all := append(change.Diff(tr.Live, tr.Next), change.Change{Key: change.Key{ID: "p", Aspect: change.Content}})
	n := editions.NextEdition{Site: plan.Site{Name: "Quillmere Inside", Edition: 11}, Trees: tr, All: all, Chosen: change.All(all)}
	delete(n.Chosen, change.Key{ID: "p", Aspect: change.Content})
	n.Findings = []preflight.Finding{
		{Rule: preflight.UndecidedPage, Severity: sitemap.Error, ID: "c"}, {Rule: preflight.SameTitle, Severity: sitemap.Warning, ID: "p"},
	}
	return n
}

func overview(n editions.NextEdition) editions.Overview {
	return editions.Overview{Site: n.Site, Trees: n.Trees, Next: &n}
}

func TestAFrameDoesNotWaitForTheNextEdition(t *testing.T) {
	o := overview(next(t))
	o.Next = nil
	f := newFrame(plan.Person{Name: "Marta Oduya"}, o, "Menus & tiles", "Reach", "Reach")
	require.True(t, f.Shelf.Later)
	require.Equal(t, "/studio/shelf?stop=Menus+%26+tiles", f.Shelf.Again)
	for _, s := range f.Stops {
		require.Zero(t, s.Waiting)
	}
}

func TestTheShelfAndThePathSayWhatWaits(t *testing.T) {
	f := newFrame(plan.Person{Name: "Marta Oduya van Loon", Role: workflow.Manager}, overview(next(t)), "Pages", "Inventory", "Pages")
	require.Equal(t, "MO", f.Initials)
	require.Equal(t, 12, f.Shelf.Number)
	require.Equal(t, "5 changes: 1 new, 1 renamed address, 1 removed, 1 retitled, 1 edited; 1 more page gets a new address", f.Shelf.Words)
	require.Equal(t, []int{1, 1}, []int{f.Shelf.Errors, f.Shelf.Warnings})
	require.Len(t, f.Shelf.Lines, 5)
	for _, l := range f.Shelf.Lines {
		require.Equal(t, l.Mark == "edited", l.Left, l.Title)
		require.Equal(t, l.Mark == "removed", l.URL == "", "what is removed is nowhere to be shown")
	}
	waiting := map[string]int{}
	for _, s := range f.Stops {
		waiting[s.Name] = s.Waiting
		require.Equal(t, s.Name == "Pages", s.Here)
	}
	require.Equal(t, map[string]int{"Sitemap": 4, "Menus & tiles": 0, "Pages": 1, "Addresses": 1, "Edition": 1}, waiting)
	empty := newShelf(editions.NextEdition{})
	require.True(t, empty.Empty)
	require.Empty(t, empty.Lines)
}

func TestALongShelfSaysHowManyMore(t *testing.T) {
	n := next(t)
	for i := range 1500 {
		n.All = append(n.All, change.Change{Key: change.Key{ID: fmt.Sprint("x", i), Aspect: change.Added}})
	}
	v := newShelf(n)
	require.Len(t, v.Lines, shelfLines)
	require.Equal(t, "1,445 more.", v.More)
	require.Contains(t, v.Words, "1,505 changes: 1,501 new")
}

func TestConfirmNamesWhatAnActDoes(t *testing.T) {
	tr := trees(t)
	texts := func(do string, of consequence.Of, links int) (v confirmView, out string) {
		v = newConfirm(actForm{Do: do}, plan.PlanResult{ID: "g", Trees: tr, Confirm: &of, Links: links, LinkPages: 1})
		for _, p := range v.Points {
			out += fmt.Sprintf("%s: %s %s\n", p.Mark, p.Strong, p.Text)
		}
		return v, out
	}
	v, moves := texts("move", consequence.Of{FromLive: 6, Staying: 6, Redirects: 6, NewAddress: "/x", SideMenus: 1}, 14)
	require.Equal(t, "Move it", v.Confirm)
	require.Equal(t, "planned: 6 addresses change and 6 redirects are added\nfine: 14 links on 1 page follow by themselves\nfine: Top menu stays as it is\nplanned: 1 menu shows the change of place\n",
		moves)
	_, removes := texts("remove", consequence.Of{FromLive: 1, Redirects: 1, Undecided: []string{"c"}, TopAfter: []string{"Home", "Grounds"}}, 1)
	require.Equal(t, "planned: 1 page leaves the site with the next edition\nwrong: 1 address then needs a decision: where do the visitors belong?\nwrong: 1 link on 1 page leads there and has to go\nplanned: Top menu shows Home, Grounds\n", removes)
	for act := range confirmWords {
		v, _ := texts(act, consequence.Of{FromLive: 1}, 0)
		require.NotEmpty(t, v.Verb, act)
	}
}

func TestInventoryFilters(t *testing.T) {
	tr := trees(t)
	o := plan.Outline{Trees: tr, Heads: []plan.PageHead{{EntryID: "p", Draft: true, PersonID: "1", At: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)}, {EntryID: "h"}}}
	for show, want := range map[string][]string{
		"": {"Home", "Outdoors", "Ponds", "Bog garden"}, "edited": {"Ponds"}, "unwritten": {"Outdoors", "Bog garden"}, "unpublished": {"Bog garden"}, "withdrawn": nil, "no-owner": {"Home", "Ponds", "Bog garden"},
	} {
		v := inventoryView{Show: show}
		v.fill(o, []content.Template{{Key: "topic", Name: "Topic"}}, []plan.Person{{ID: "1", Name: "Ines"}}, 1)
		var got []string
		for _, r := range v.Rows {
			got = append(got, r.Title)
		}
		require.Equal(t, want, got, show)
	}
}

func TestProblemsBecomeStatuses(t *testing.T) {
	s := &Studio{}
	for want, errs := range map[int][]error{
		403: {plan.ErrForbidden, editions.ErrOwnWork, fmt.Errorf("wrapped: %w", plan.ErrForbidden)},
		404: {plan.ErrNotFound},
		409: {&editions.Moved{What: "x"}, plan.ErrNothing, plan.ErrDone, sitemap.ErrNoEntry, &plan.Meanwhile{Who: "Kofi", Label: "moved it"}, &editions.NotReady{}, &sitemap.ConflictError{Title: "Ponds"}, &redirect.TableError{From: "the row at /a", Problem: "leads back", Advice: "point it to a page"}},
		422: {plan.Refuse("", "no"), sitemap.ErrUnderSelf, sitemap.ErrLongTitle, sitemap.ErrSlug, sitemap.ErrPastedTooMuch, &sitemap.LongTitleError{Line: 3}, &sitemap.Refused{Problem: "a", Advice: "b"}},
		401: {account.ErrSignIn, errSignedOut},
		429: {&account.TooSoon{Wait: 90}},
		500: {fmt.Errorf("disk")},
	} {
		for _, err := range errs {
			status, words := s.word(err)
			require.Equal(t, want, status, "%v", err)
			if want != 500 {
				require.Regexp(t, `^["A-Z].*[.?!)]$`, words, "a sentence")
			}
		}
	}
}

func TestChecksAreGroupedByRule(t *testing.T) {
	tr := trees(t)
	found := []sitemap.Finding{{Rule: "same-title", Severity: sitemap.Warning, ID: "p", Message: "one"}, {Rule: "same-title", Severity: sitemap.Warning, ID: "n", Message: "two"}, {Rule: "no-source", Severity: sitemap.Error, ID: "n", Message: "three"}}
	var v checksView
	v.fill(appsitemap.Checked{Tree: tr.Next, Found: found}, "", 1)
	require.Equal(t, "3 things to look at", v.Total)
	require.Len(t, v.Rows, 3)
	require.True(t, v.Rows[2].Bad)
	var chips []string
	for _, c := range v.Chips {
		chips = append(chips, c.Words+" "+c.N)
	}
	require.Equal(t, []string{"All 3", "Carried pages without a source 1", "Same title 2"}, chips)
	v = checksView{}
	v.fill(appsitemap.Checked{Tree: tr.Next, Found: found}, "no-source", 1)
	require.Len(t, v.Rows, 1)
	require.Equal(t, []countView{{Words: "pages", N: "3"}, {Words: "carried page", N: "1"}, {Words: "reference", N: "1"}}, v.Kinds)
	v = checksView{}
	v.fill(appsitemap.Checked{Tree: tr.Next, Found: nil}, "", 1)
	require.Empty(t, v.Rows)
}

func TestCompareShowsWhatDiffers(t *testing.T) {
	tr := trees(t)
	changes := change.Diff(tr.Live, tr.Next)
	c := appsitemap.Comparison{From: appsitemap.StateLive, To: appsitemap.StateNext, FromTree: tr.Live, ToTree: tr.Next, Changes: changes, Rows: change.Merged(tr.Live, tr.Next, changes), Editions: 2}
	var v compareView
	v.fill(c)
	var got []string
	for _, r := range v.Rows {
		got = append(got, fmt.Sprint(r.Level, " ", r.Title, " ", r.Mark, " ", r.Before, " ", r.After))
	}
	require.Equal(t, []string{"0 Home  / /", "1 Outdoors changed /grounds /outdoors", "2 Ponds changed /grounds/ponds /outdoors/ponds", "2 Compost gone /grounds/compost ", "2 Bog garden new  /outdoors/bog-garden"}, got)
	require.Equal(t, "Grounds", v.Rows[1].Was)
	require.Empty(t, v.Rows[3].URL)
	v = compareView{All: true}
	v.fill(c)
	require.Len(t, v.Rows, 6, "the reference, too")
	names := []string{}
	for _, o := range states(c, "2") {
		names = append(names, o.Label)
	}
	require.Equal(t, []string{"Next", "Live", "Edition 2", "Edition 1"}, names)
}

func TestTreesSideBySide(t *testing.T) {
	tr := trees(t)
	moved, err := tr.Next.Move("p", sitemap.Spot{})
	require.NoError(t, err)
	changes := change.Diff(tr.Live, moved)
	c := appsitemap.Comparison{From: appsitemap.StateLive, To: appsitemap.StateNext, FromTree: tr.Live, ToTree: moved, Changes: changes, Rows: change.Merged(tr.Live, moved, changes), Lines: change.Aligned(tr.Live, moved)}
	var v compareView
	v.Sides = true
	v.fill(c)
	var got []string
	for _, l := range v.Lines {
		got = append(got, l.From.Title+" "+l.From.Mark+" | "+l.To.Title+" "+l.To.Mark)
	}
	require.Equal(t, []string{
		"Home  | Home ", "  | Ponds changed", "Grounds  | Outdoors changed", "Ponds moved away |  ", "Compost gone |  ", "  | Bog garden new",
	}, got)
	require.Equal(t, "5 differences", v.Total)
}

// A plan with more entries than are listed is told in branches, what is not new
// first, and the rest has one tick.
func TestALargePlanIsToldInBranches(t *testing.T) {
	n := next(t)
	for i := range 2 * entriesShown {
		var err error
		id := fmt.Sprintf("x%d", i)
		n.Trees.Next, err = n.Trees.Next.Add(sitemap.Entry{ID: id, Title: id, Kind: sitemap.Page}, sitemap.Spot{})
		require.NoError(t, err)
		n.Trees.Next, err = n.Trees.Next.Add(sitemap.Entry{ID: id + "b", Title: id, Kind: sitemap.Page}, sitemap.Spot{Parent: id})
		require.NoError(t, err)
	}
	n.All = change.Diff(n.Trees.Live, n.Trees.Next)
	n.Chosen = change.All(n.All)
	v := editionView{Shown: entriesShown}
	v.changes(n, nil)
	require.Len(t, v.Entries, entriesShown)
	require.False(t, v.Entries[0].New)
	last := v.Entries[entriesShown-1]
	require.True(t, last.New)
	require.Equal(t, "1 new entry below it goes or stays with it", last.Branch)
	require.True(t, v.RestIn)
	require.Regexp(t, "^30[0-9] more entries change", v.Rest)
}

func TestPlacesAreAsManyLevelsAsFit(t *testing.T) {
	grown := func(tops, below int) *sitemap.Tree {
		entries := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page, Rank: "0"}}
		for i := range tops {
			top := fmt.Sprint("t", i)
			entries = append(entries, sitemap.Entry{ID: top, Title: top, Slug: top, Kind: sitemap.Page, Rank: fmt.Sprintf("%05d", i+1)})
			for j := range below {
				id := fmt.Sprint(top, ".", j)
				entries = append(entries, sitemap.Entry{ID: id, Parent: top, Title: id, Slug: id, Kind: sitemap.Page, Rank: fmt.Sprintf("%05d", j+1)})
			}
		}
		out, err := sitemap.New(entries)
		require.NoError(t, err)
		return out
	}
	for name, c := range map[string]struct {
		tops, below, want int
		chosen            string
	}{
		"all of a small site":         {tops: 3, below: 4, want: 1 + 3 + 12},
		"the tops of a wide one":      {tops: 100, below: 20, want: 1 + 100},
		"and the one chosen":          {tops: 100, below: 20, want: 1 + 100 + 1, chosen: "t7.3"},
		"the top alone when too many": {tops: placesShown + 1, want: 1},
	} {
		t.Run(name, func(t *testing.T) {
			got := places(grown(c.tops, c.below), c.chosen)
			require.Len(t, got, c.want)
			require.True(t, slices.ContainsFunc(got, func(o option) bool { return o.Chosen && o.Value == c.chosen }))
		})
	}
}

func TestPagesOfAList(t *testing.T) {
	url := func(page int) string { return urls.ChecksPage("too-deep", page) }
	for _, c := range []struct {
		page, total int
		want        pager
	}{
		{1, 0, pager{first: 1}},
		{1, 100, pager{Range: "1–100 of 100", first: 1, last: 100}},
		{0, 101, pager{Range: "1–100 of 101", Next: "/studio/sitemap/checks?page=2&rule=too-deep", first: 1, last: 100}},
		{2, 1234, pager{Range: "101–200 of 1,234", Prev: "/studio/sitemap/checks?rule=too-deep", Next: "/studio/sitemap/checks?page=3&rule=too-deep", first: 101, last: 200}},
		{99, 101, pager{Range: "101–101 of 101", Prev: "/studio/sitemap/checks?rule=too-deep", first: 101, last: 101}},
	} {
		require.Equal(t, c.want, newPager(c.page, c.total, url))
	}
}
