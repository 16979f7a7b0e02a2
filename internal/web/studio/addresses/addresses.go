package addresses

import (
	"bytes"
	"errors"
	"net/http"
	"strconv"
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type movesView struct {
	shell.Frame
	Groups                  []moveGroupView
	Total, ToDecide, Export string
	Edit, Keep, Undo        string
	Said, Problem           string
	Fixed                   []fixedRow
}

// fixedRow is a page that keeps an address on purpose.
type fixedRow struct{ ID, Title, Address, Would, Key, URL string }

// moveGroupView is what takes some addresses along.
type moveGroupView struct {
	Title, Words, URL, Count, Visits, Undecided, More string
	Open                                              bool
	Branches                                          []moveBranch
}

// moveBranch is a part of a group that is folded.
type moveBranch struct {
	At, Count, Visits string
	Open              bool
	Rows              []moveRow
}

type moveRow struct {
	Title, From, To, Code, Status, Words, URL, Visits, TestURL string
	Bad                                                        bool
	Keeps                                                      string // the page that may keep the address on purpose
	Key                                                        string
}

// foldMoves is from how many addresses on a group is folded by branch.
const foldMoves = 12

// mostMoves is how many addresses of a group are listed; all are exported.
const mostMoves = 1000

// moves lists the addresses that change with what is planned, by what takes them along.
func (s *Screens) moves(r *shell.Request) error { return s.movesPage(r, http.StatusOK, "") }

func (s *Screens) movesPage(r *shell.Request, status int, problem string) error {
	o, visits, err := s.movesOf(r)
	if err != nil {
		return err
	}
	n := *o.Next
	v := movesView{Frame: r.Frame(o, "Moves"), Edit: urls.WhereTo, Export: urls.MovesExport, Keep: urls.MovesKeep, Undo: urls.MovesUndo, Said: r.Query("said"), Problem: problem}
	total, open := 0, 0
	groups := edition.Moves(n.Trees.Live, n.Draft, n.All)
	for _, g := range groups {
		total, open = total+len(g.Moves), open+g.Undecided()
		v.Groups = append(v.Groups, newMoveGroup(g, n.Trees.Next, n.Draft.Tree, visits, len(groups) == 1))
	}
	v.Total = part.Count(total, "address changes", "addresses change")
	if open > 0 {
		v.ToDecide = part.Count(open, "address needs", "addresses need") + " a decision"
	}
	v.Fixed = fixedPages(n.Trees)
	return s.Show(r, status, "moves", v)
}

// movesOf gives what is planned, and the visits at stake.
func (s *Screens) movesOf(r *shell.Request) (o editions.Overview, visits map[string]int, err error) {
	if o, err = s.App.Summary(r.Ctx(), r.Who); err != nil {
		return o, nil, err
	}
	visits, err = s.App.VisitsOfMoves(r.Ctx(), r.Who)
	return o, visits, err
}

// fixedPages lists the pages that keep an address on purpose which does not follow from their
// place.
func fixedPages(trees plan.Trees) (out []fixedRow) {
	next := trees.Next
	for i := range next.Len() {
		e := next.Ref(i)
		if e.Fixed == "" || e.IsHome() || len(out) == mostMoves {
			continue
		}
		would := address.Join(strings.TrimSuffix(next.Prefix(next.Parent(i)), "/"), "/"+e.Slug)
		out = append(out, fixedRow{e.ID, e.Title, address.Written(e.Fixed), address.Written(would), part.NewKey(), urls.At(e.ID)})
	}
	return out
}

// keepMoved keeps the address of a page that moves on purpose, or gives one up.
func (s *Screens) keepMoved(r *shell.Request) error {
	res, err := s.App.Plan(r.Ctx(), r.Who, appsitemap.PlanAct{Key: r.PostForm("key"), Do: "keep", ID: r.PostForm("id"), Value: r.PostForm("address")})
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.movesPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	return s.movesDone(r, res, err)
}

func (s *Screens) undoMove(r *shell.Request) error {
	res, err := s.App.Undo(r.Ctx(), r.Who)
	return s.movesDone(r, res, err)
}

func (s *Screens) movesDone(r *shell.Request, res plan.PlanResult, err error) error {
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.MovesSaid(part.UpperFirst(res.Label)+"."))
	return nil
}

func newMoveGroup(g edition.MoveGroup, next, draft *sitemap.Tree, visits map[string]int, alone bool) moveGroupView {
	v := moveGroupView{Title: g.Title, Words: g.Words, Count: part.Count(len(g.Moves), "address", "addresses"), Open: alone || g.Undecided() > 0}
	if next.Find(g.ID) != sitemap.None {
		v.URL = urls.At(g.ID)
	}
	if n := g.Undecided(); n > 0 {
		v.Undecided = part.Count(n, "needs", "need") + " a decision"
	}
	all, listed := 0, 0
	for _, b := range g.Branches(foldMoves) {
		bv := moveBranch{At: b.At, Count: part.Count(len(b.Moves), "address", "addresses")}
		here := 0
		for _, m := range b.Moves {
			here += visits[m.Entry]
			if listed++; listed <= mostMoves {
				bv.Rows = append(bv.Rows, newMove(m, draft, visits[m.Entry]))
			}
		}
		if all += here; here > 0 {
			bv.Visits = part.Count(here, "visit", "visits")
		}
		v.Branches = append(v.Branches, bv)
	}
	if all > 0 {
		v.Visits = part.Count(all, "visit", "visits") + " in 30 days"
	}
	if n := len(g.Moves) - mostMoves; n > 0 {
		v.More = part.Count(n, "more address is", "more addresses are") + " in the export."
	}
	return v
}

func newMove(m edition.Move, draft *sitemap.Tree, visits int) moveRow {
	rv := part.NewRedirect(m.Row, draft)
	row := moveRow{
		Title: m.Title, From: rv.From, To: rv.To, Code: rv.Code, Status: rv.Status, Words: part.StatusWords[m.Status],
		Bad: m.Status == redirect.Undecided || m.Status == redirect.Dangling, TestURL: urls.TestOf(rv.From),
	}
	if visits > 0 {
		row.Visits = part.Thousands(visits)
	}
	if row.Bad {
		row.URL, row.Title = urls.WhereTo, part.OrElse(row.Title, "Decide")
	} else if draft.Find(m.Entry) != sitemap.None {
		row.URL = urls.At(m.Entry)
		if m.Match == redirect.Exact && m.Status != redirect.Blocked && draft.Served(draft.Find(m.Entry)) != "" {
			row.Keeps, row.Key = m.Entry, part.NewKey()
		}
	}
	return row
}

// exportMoves gives all addresses that change as .csv.
func (s *Screens) exportMoves(r *shell.Request) error {
	o, visits, err := s.movesOf(r)
	if err != nil {
		return err
	}
	n := *o.Next
	var rows [][]string
	for _, g := range edition.Moves(n.Trees.Live, n.Draft, n.All) {
		for _, m := range g.Moves {
			rv := part.NewRedirect(m.Row, n.Draft.Tree)
			rows = append(rows, []string{g.Title, g.Words, m.Title, address.Written(m.From), rv.To, rv.Code, rv.Match, rv.Status, m.Note, strconv.Itoa(visits[m.Entry])})
		}
	}
	var b bytes.Buffer
	if err := files.WriteCSV(&b, []string{"because of", "what happens", "page", "from", "to", "code", "match", "status", "note", "visits in 30 days"}, rows); err != nil {
		return err
	}
	r.Header("Content-Disposition", `attachment; filename="moves.csv"`)
	r.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
	return nil
}
