package sitemap

import (
	"bytes"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strconv"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type compareView struct {
	shell.Frame
	Self, File       string
	From, To         []part.Option
	FromName, ToName string
	All              bool
	AllURL           string // shows what does not change, too, or leaves it out
	Total, More      string
	Sides            bool // the trees stand side by side, not one over the other
	SidesURL, OneURL string
	Rows             []compareRow
	Lines            []compareLine
	Ways             []wayLine // menus, trails and templates that differ
}

type wayLine struct{ Title, Words, URL string }

// compareLine is one line of the trees side by side.
type compareLine struct{ From, To compareSide }

// compareSide is an entry in one of the trees; without a title there is none.
type compareSide struct {
	Level                     int
	Title, Address, URL, Mark string
	Words                     []string
}

// compareRow is one entry; Before and After are its titles and addresses, empty
// where it is not there.
type compareRow struct {
	Level           int
	Title, Was, URL string
	Before, After   string
	Mark            string // new, gone or changed; empty
	Words           []string
}

const compareShown = 1500

func (s *Screens) compare(r *shell.Request) error {
	from, to := part.OrElse(r.Query("from"), appsitemap.StateLive), part.OrElse(r.Query("to"), appsitemap.StateNext)
	f, _, err := s.FrameFor(r, "Compare")
	if err != nil {
		return err
	}
	c, err := s.App.Compare(r.Ctx(), r.Who, from, to)
	if err != nil {
		return err
	}
	if r.Query("as") == "csv" {
		return comparisonFile(r, c)
	}
	v := compareView{Frame: f, Self: urls.Compare, File: urls.Comparison(from, to, false, "csv"), All: r.Query("all") != "", Sides: r.Query("as") == "sides"}
	as := ""
	if v.Sides {
		as = "sides"
	}
	v.AllURL, v.SidesURL, v.OneURL = urls.Comparison(from, to, !v.All, as), urls.Comparison(from, to, v.All, "sides"), urls.Comparison(from, to, v.All, "")
	v.From, v.To = states(c, from), states(c, to)
	v.FromName, v.ToName = stateName(from), stateName(to)
	v.fill(c)
	return s.Show(r, http.StatusOK, "compare", v)
}

func stateName(state string) string {
	switch state {
	case appsitemap.StateLive:
		return "Live"
	case appsitemap.StateNext:
		return "Next"
	}
	return "Edition " + state
}

func states(c appsitemap.Comparison, chosen string) []part.Option {
	out := []part.Option{{Value: appsitemap.StateNext, Label: "Next", Chosen: chosen == appsitemap.StateNext}, {Value: appsitemap.StateLive, Label: "Live", Chosen: chosen == appsitemap.StateLive}}
	for n := c.Editions; n > 0; n-- {
		value := strconv.Itoa(n)
		out = append(out, part.Option{Value: value, Label: stateName(value), Chosen: chosen == value})
	}
	return out
}

func (v *compareView) fill(c appsitemap.Comparison) {
	shown := 0
	fits := func(touched bool) bool {
		if v.All || touched {
			shown++
		}
		return (v.All || touched) && shown <= compareShown
	}
	if v.Sides {
		v.sides(c, fits)
	} else {
		for _, row := range c.Rows {
			if fits(row.Touched) {
				v.Rows = append(v.Rows, newCompareRow(row, c))
			}
		}
	}
	for _, ch := range c.Shapes {
		line := wayLine{Title: c.States.Title(ch.ID), Words: part.UpperFirst(change.Words(ch, c.FromTree, c.ToTree))}
		if c.To == appsitemap.StateNext {
			line.URL = part.WhereIs(ch.ID, c.States)
		}
		v.Ways = append(v.Ways, line)
	}
	v.Total = part.Count(len(c.Changes)+len(c.Shapes), "difference", "differences")
	if shown > compareShown {
		v.More = part.Thousands(shown-compareShown) + " more; take the file."
	}
}

// sides lays the trees side by side. What changed is told on the right, and on
// the left where the entry is not there on the right.
func (v *compareView) sides(c appsitemap.Comparison, fits func(bool) bool) {
	rows := make(map[string]change.Row, len(c.Rows))
	for _, row := range c.Rows {
		rows[row.ID] = row
	}
	side := func(t *sitemap.Tree, i int, tells bool) compareSide {
		if i == sitemap.None {
			return compareSide{}
		}
		s := compareSide{Level: min(t.Level(i), 12), Title: t.Ref(i).Title, Address: address.Written(t.Claim(i))}
		row := newCompareRow(rows[t.Ref(i).ID], c)
		if s.URL = row.URL; tells {
			s.Mark, s.Words = row.Mark, row.Words
		}
		return s
	}
	for _, l := range c.Lines {
		at := l.From
		t := c.FromTree
		if at == sitemap.None {
			at, t = l.To, c.ToTree
		}
		if !fits(rows[t.Ref(at).ID].Touched) {
			continue
		}
		line := compareLine{side(c.FromTree, l.From, l.To == sitemap.None), side(c.ToTree, l.To, true)}
		if line.From.Mark == "changed" { // it stands elsewhere on the right, and is told there
			line.From.Mark, line.From.Words = "moved away", nil
		}
		v.Lines = append(v.Lines, line)
	}
}

func newCompareRow(row change.Row, c appsitemap.Comparison) compareRow {
	out := compareRow{Level: min(row.Level, 12)} // the style sheet indents no deeper
	if row.Live != sitemap.None {
		out.Title, out.Before = c.FromTree.Ref(row.Live).Title, address.Written(c.FromTree.Claim(row.Live))
	}
	if row.Next != sitemap.None {
		if was := out.Title; was != "" && was != c.ToTree.Ref(row.Next).Title {
			out.Was = was
		}
		out.Title, out.After = c.ToTree.Ref(row.Next).Title, address.Written(c.ToTree.Claim(row.Next))
	}
	switch {
	case row.Live == sitemap.None:
		out.Mark = "new"
	case row.Next == sitemap.None:
		out.Mark = "gone"
	case len(row.Changes) > 0:
		out.Mark = "changed"
	}
	if c.To == appsitemap.StateNext && row.Next != sitemap.None {
		out.URL = urls.At(row.ID)
	}
	for _, ch := range row.Changes {
		out.Words = append(out.Words, part.UpperFirst(change.Words(ch, c.FromTree, c.ToTree)))
	}
	return out
}

// comparisonFile gives the differences as the command line does.
func comparisonFile(r *shell.Request, c appsitemap.Comparison) error {
	var rows [][]string
	for _, ch := range slices.Concat(c.Changes, c.Shapes) {
		rows = append(rows, []string{ch.ID, string(ch.Aspect), ch.Before, ch.After, ch.Because})
	}
	var b bytes.Buffer
	if err := files.WriteCSV(&b, files.DiffColumns, rows); err != nil {
		return err
	}
	name := fmt.Sprintf("sitemap-%s-to-%s.csv", c.From, c.To)
	r.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	r.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
	return nil
}
