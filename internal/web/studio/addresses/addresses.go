package addresses

import (
	"bytes"
	"net/http"
	"strconv"

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
	Edit                    string
}

// moveGroupView is what takes some addresses along.
type moveGroupView struct {
	Title, Words, URL, Count, Visits, Undecided, More string
	Open                                              bool
	Rows                                              []moveRow
}

type moveRow struct {
	Title, From, To, Code, Status, Words, URL, Visits, TestURL string
	Bad                                                        bool
}

// mostMoves is how many addresses of a group are listed; all are exported.
const mostMoves = 200

// moves lists the addresses that change with what is planned, by what takes them along.
func (s *Screens) moves(r *shell.Request) error {
	o, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	visits, err := s.App.VisitsOfMoves(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	n := *o.Next
	v := movesView{Frame: r.Frame(o, "Moves"), Edit: urls.Edition + "#decisions", Export: urls.MovesExport}
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
	return s.Show(r, http.StatusOK, "moves", v)
}

func newMoveGroup(g edition.MoveGroup, next, draft *sitemap.Tree, visits map[string]int, alone bool) moveGroupView {
	v := moveGroupView{Title: g.Title, Words: g.Words, Count: part.Count(len(g.Moves), "address", "addresses"), Open: alone || g.Undecided() > 0}
	if next.Find(g.ID) != sitemap.None {
		v.URL = urls.At(g.ID)
	}
	if n := g.Undecided(); n > 0 {
		v.Undecided = part.Count(n, "needs", "need") + " a decision"
	}
	all := 0
	for i, m := range g.Moves {
		all += visits[m.Entry]
		if i < mostMoves {
			v.Rows = append(v.Rows, newMove(m, draft, visits[m.Entry]))
		}
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
		row.URL = urls.Edition + "#decisions"
	} else if draft.Find(m.Entry) != sitemap.None {
		row.URL = urls.At(m.Entry)
	}
	return row
}

// exportMoves gives all addresses that change as .csv.
func (s *Screens) exportMoves(r *shell.Request) error {
	o, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	visits, err := s.App.VisitsOfMoves(r.Ctx(), r.Who)
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
