package addresses

import (
	"cmp"
	"errors"
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// decideView asks where the visitors of pages that are planned to go belong.
type decideView struct {
	shell.Frame
	Self, Back, Undo, Key, Said, Problem string
	Filters                              []part.CountView
	Rows                                 []removalRow
	part.Pager
	Any        bool
	All, Match string // the kind of all that match where they are on several pages, and how many
	decideForm
}

// decideForm is what was asked for when it was refused.
type decideForm struct {
	How                   string
	To, ToID, Note, Until string
	Says                  string
	Temporary             bool
}

// removalRow is one page that goes.
type removalRow struct {
	ID, Title, From, Visits string
	Open, Ticked            bool
	Now, Note               string // where its visitors go
	Above                   string
	Meant                   []olderGuess
}

// decide lists the pages that are planned to go.
func (s *Screens) decide(r *shell.Request) error {
	return s.decidePage(r, http.StatusOK, decideView{Said: r.Query("said")}, nil)
}

func (s *Screens) decidePage(r *shell.Request, status int, v decideView, ticked []string) error {
	f, _, err := s.FrameFor(r, "Where visitors go")
	if err != nil {
		return err
	}
	list, err := s.App.Removals(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v.Frame, v.Self, v.Back, v.Undo, v.Key = f, urls.WhereTo, urls.Moves, urls.WhereToUndo, part.NewKey()
	v.fill(list, r.Query("show"), r.Page(), ticked)
	return s.Show(r, status, "decide", v)
}

// removalFilters is the table of filters.
var removalFilters = []struct {
	key, words string
	kind       addresses.RemovalKind
}{{"", "All", addresses.EveryRemoval}, {"open", "Not decided", addresses.OpenRemoval}, {"decided", "Decided", addresses.DecidedRemoval}}

func (v *decideView) fill(list addresses.Removals, show string, page int, ticked []string) {
	v.Any = len(list.List) > 0
	order := make([]int, len(list.List))
	for i := range order {
		order[i] = i
	}
	visits := func(i int) int { return list.Visits[list.Trees.Live.Ref(list.List[i].Live).ID] }
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(part.Btoi(list.List[b].IsOpen()), part.Btoi(list.List[a].IsOpen())), cmp.Compare(visits(b), visits(a)))
	})
	var shown []int
	for _, f := range removalFilters {
		n := 0
		for _, i := range order {
			if f.kind.Has(list.List[i]) {
				if n++; f.key == show {
					shown = append(shown, i)
				}
			}
		}
		if f.key == show {
			v.All = string(f.kind)
		}
		v.Filters = append(v.Filters, part.CountView{Words: f.words, N: part.Thousands(n), Here: f.key == show, URL: urls.WhereToPage(f.key, 1)})
	}
	v.Pager = part.NewPager(page, len(shown), func(n int) string { return urls.WhereToPage(show, n) })
	if v.Match = part.Thousands(len(shown)); v.Last-v.First+1 == len(shown) {
		v.All = ""
	}
	for _, i := range shown[max(v.First-1, 0):max(v.Last, 0)] {
		v.Rows = append(v.Rows, newRemoval(list, i, ticked))
	}
}

func newRemoval(list addresses.Removals, i int, ticked []string) removalRow {
	one, next := list.List[i], list.Trees.Next
	e := list.Trees.Live.Ref(one.Live)
	row := removalRow{ID: e.ID, Title: e.Title, From: address.Written(list.Trees.Live.Served(one.Live)), Open: one.IsOpen(), Ticked: slices.Contains(ticked, e.ID)}
	if n := list.Visits[e.ID]; n > 0 {
		row.Visits = part.Thousands(n)
	}
	if one.Row.From != "" {
		row.Now = one.Row.Words(next)
	}
	if one.Decision != nil {
		row.Note = one.Decision.Note
		if one.Decision.Says != "" {
			row.Note += " Readers are told: " + one.Decision.Says
		}
		if one.Decision.Review != "" {
			row.Note += " To look at again on " + one.Decision.Review + "."
		}
	}
	if one.Above != sitemap.None {
		row.Above = next.Ref(one.Above).Title
	}
	if i < len(list.Meant) {
		for _, c := range list.Meant[i] {
			row.Meant = append(row.Meant, olderGuess{Title: next.Ref(c.Page).Title, Score: scoreWords(c.Score), Percent: int(c.Score * 100), Why: c.Why, To: next.Ref(c.Page).ID, At: address.Written(next.Served(c.Page))})
		}
	}
	return row
}

// decideMany decides for those that are ticked, or for one page.
func (s *Screens) decideMany(r *shell.Request) error {
	ask := addresses.DecideAsk{
		Entries: r.PostFormArray("id"), All: addresses.RemovalKind(r.PostForm("all")), How: r.PostForm("how"), To: part.OrElse(r.PostForm("to-id"), r.PostForm("to")), Temporary: r.PostForm("temporary") != "",
		Until: r.PostForm("until"), Note: r.PostForm("note"), Says: r.PostForm("says"),
	}
	if one := r.PostForm("one"); one != "" { // the button of a row: an entry and where it leads
		entry, to, _ := strings.Cut(one, " ")
		ask.Entries, ask.All, ask.How, ask.To = []string{entry}, "", "page", to
	}
	res, err := s.App.DecideMany(r.Ctx(), r.Who, r.PostForm("key"), ask)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		v := decideView{Problem: invalid.Message, decideForm: decideForm{How: ask.How, To: r.PostForm("to"), ToID: r.PostForm("to-id"), Note: ask.Note, Until: ask.Until, Says: ask.Says, Temporary: ask.Temporary}}
		return s.decidePage(r, http.StatusUnprocessableEntity, v, ask.Entries)
	}
	return s.decided(r, res, err)
}

func (s *Screens) undoDecide(r *shell.Request) error {
	res, err := s.App.Undo(r.Ctx(), r.Who)
	return s.decided(r, res, err)
}

func (s *Screens) decided(r *shell.Request, res plan.PlanResult, err error) error {
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.WhereToSaid(part.UpperFirst(res.Label)+"."))
	return nil
}
