package navigation

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/reach"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type reachView struct {
	shell.Frame
	Self, TileURL, ItemURL, VisitsURL string
	Live                              bool
	NextURL, LiveURL                  string
	Chips                             []part.CountView
	Heads                             []part.CountView // of columns, to sort by
	Rows                              []reachRow
	More, Problem, Said               string
	Mean, Weighted, Most              string
	Spread                            []spreadView
	Savings                           []savingView
	Today                             string
}

type reachRow struct {
	Title, URL, Address, Clicks, Visits, Linked string
	Way                                         []part.WayStep
	Never, Far                                  bool
}

type spreadView struct {
	Words, N string
	Share    int // of the most, in twentieths
}

type savingView struct{ ID, Title, URL, Words, Key string }

// reach shows how far every page is from home, and by which way.
func (s *Screens) reach(r *shell.Request) error { return s.reachPage(r, http.StatusOK, "", "") }

func (s *Screens) reachPage(r *shell.Request, status int, said, problem string) error {
	f, _, err := s.FrameFor(r, "Reach")
	if err != nil {
		return err
	}
	v := reachView{Frame: f, Self: urls.Reach, TileURL: urls.Reach + "/tile", ItemURL: urls.Reach + "/item", VisitsURL: urls.Reach + "/visits", Live: r.Query("of") == "live", Said: said, Problem: problem, Today: s.App.Today()}
	got, err := s.App.Reach(r.Ctx(), r.Who, v.Live)
	if err != nil {
		return err
	}
	v.fill(got, r.Query("show"), r.Query("sort"))
	return s.Show(r, status, "reach", v)
}

// reachShow is what the table can be narrowed to.
var reachShow = []struct{ name, words string }{
	{"", "All"}, {"far", "Too far"}, {"never", "Unreachable"}, {"busy", "Busy and far"}, {"quiet", "Prominent but quiet"},
}

func (v *reachView) url(show, sort string) string {
	q := url.Values{}
	for name, value := range map[string]string{"show": show, "sort": sort, "of": map[bool]string{true: "live"}[v.Live]} {
		if value != "" {
			q.Set(name, value)
		}
	}
	return strings.TrimSuffix(v.Self+"?"+q.Encode(), "?")
}

func (v *reachView) fill(got appnavigation.Reached, show, sort string) {
	t, s := got.Tree, got.Summary
	visits := func(i int) int { return got.Visits[t.Ref(i).ID] }
	var all []int
	for i := range t.Len() {
		if t.Served(i) != "" {
			all = append(all, i)
		}
	}
	lists := map[string][]int{"": all, "far": s.TooFar, "never": s.Unreachable, "busy": s.BusyFar, "quiet": s.QuietFront}
	for _, c := range reachShow {
		v.Chips = append(v.Chips, part.CountView{Words: c.words, N: part.Thousands(len(lists[c.name])), URL: v.url(c.name, sort), Here: c.name == show})
	}
	list := slices.Clone(lists[show])
	switch sort {
	case "clicks":
		slices.SortStableFunc(list, got.ByClicks)
	case "visits":
		slices.SortStableFunc(list, func(a, b int) int { return cmp.Compare(visits(b), visits(a)) })
	}
	for _, c := range [][2]string{{"", "Page"}, {"clicks", "Clicks"}, {"visits", "Visits"}} {
		v.Heads = append(v.Heads, part.CountView{Words: c[1], URL: v.url(show, c[0]), Here: c[0] == sort})
	}
	leads := got.LeadsTo()
	for _, i := range list[:min(len(list), part.EntriesShown)] {
		row := reachRow{Title: t.Ref(i).Title, URL: urls.At(t.Ref(i).ID), Address: address.Written(t.Served(i)), Visits: part.Thousands(visits(i)), Never: got.Clicks[i] == reach.Never, Far: got.Clicks[i] > got.Most}
		row.Linked = leadingWords(leads(i))
		row.Clicks = part.Thousands(got.Clicks[i])
		row.Way = part.WayOf(t, got.Way(i))
		v.Rows = append(v.Rows, row)
	}
	if n := len(list) - part.EntriesShown; n > 0 {
		v.More = part.Thousands(n) + " more."
	}
	v.summary(got)
	v.NextURL, v.LiveURL = urls.Reach, urls.Reach+"?of=live"
}

// leadingWords says what leads to a page.
func leadingWords(l appnavigation.Leading) string {
	var parts []string
	for _, m := range l.Menus {
		parts = append(parts, part.LowerFirst(m))
	}
	if l.Links > 0 {
		parts = append(parts, part.Count(l.Links, "link", "links"))
	}
	if l.Tiles > 0 {
		parts = append(parts, part.Count(l.Tiles, "tile", "tiles"))
	}
	if l.Lists > 0 {
		parts = append(parts, part.Count(l.Lists, "list", "lists"))
	}
	for _, tr := range l.Trails {
		parts = append(parts, "trail "+tr)
	}
	if len(parts) == 0 {
		return "nothing leads here"
	}
	return "led to by: " + strings.Join(parts, ", ")
}

func (v *reachView) summary(got appnavigation.Reached) {
	s, t := got.Summary, got.Tree
	v.Most = part.Count(got.Most, "click is", "clicks are")
	v.Mean = fmt.Sprintf("%.1f", s.Mean)
	if s.Weighted > 0 {
		v.Weighted = fmt.Sprintf("%.1f", s.Weighted)
	}
	most := 1
	for _, n := range s.Spread {
		most = max(most, n)
	}
	for c, n := range s.Spread {
		if c > 0 {
			v.Spread = append(v.Spread, spreadView{part.Count(c, "click", "clicks"), part.Thousands(n), (n*20 + most - 1) / most})
		}
	}
	for _, saving := range got.Savings {
		e := t.Ref(saving.Entry)
		v.Savings = append(v.Savings, savingView{e.ID, e.Title, urls.At(e.ID), fmt.Sprintf("saves %s in 30 days; %s nearer", part.Count(saving.Clicks, "click", "clicks"), part.Count(saving.Nearer, "page comes", "pages come")), part.NewKey()})
	}
}

// planTile puts a tile on the home page's draft.
func (s *Screens) planTile(r *shell.Request) error {
	_, err := s.App.PlanTile(r.Ctx(), r.Who, r.PostForm("key"), r.PostForm("id"))
	return s.planned(r, err)
}

// planItem puts an item into the top menu.
func (s *Screens) planItem(r *shell.Request) error {
	_, err := s.App.PlanMenuItem(r.Ctx(), r.Who, r.PostForm("key"), r.PostForm("id"))
	return s.planned(r, err)
}

// planned goes back to how far pages are then.
func (s *Screens) planned(r *shell.Request, err error) error {
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.reachPage(r, http.StatusUnprocessableEntity, "", invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Reach)
	return nil
}

// bringVisits counts the visits of a file.
func (s *Screens) bringVisits(r *shell.Request) error {
	file, head, err := r.Request.FormFile("file")
	if err != nil {
		return s.reachPage(r, http.StatusUnprocessableEntity, "", "Choose a file first.")
	}
	defer file.Close()
	day, err := time.Parse(time.DateOnly, r.PostForm("day"))
	if err != nil {
		return s.reachPage(r, http.StatusUnprocessableEntity, "", "Say for which day or from when the visits are.")
	}
	counts, err := files.ReadVisits(head.Filename, file)
	pages, unknown := 0, []string(nil)
	if err == nil {
		pages, unknown, err = s.App.BringVisits(r.Ctx(), r.Who, day, counts)
	}
	if err != nil {
		status, words := s.Word(err)
		return s.reachPage(r, status, "", words)
	}
	said := "Visits of " + part.Count(pages, "page", "pages") + " were counted."
	if len(unknown) > 0 {
		said += " " + part.Count(len(unknown), "address is", "addresses are") + " no live page and were left out: " + strings.Join(unknown[:min(3, len(unknown))], ", ") + "."
	}
	return s.reachPage(r, http.StatusOK, said, "")
}
