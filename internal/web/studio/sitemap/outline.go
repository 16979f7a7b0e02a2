package sitemap

import (
	"net/http"
	"strconv"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type outlineView struct {
	shell.Frame
	planURLs
	At, ImportURL string
	NewPageURL    string
	Empty         bool
	Fields        string // as JSON
	Filters       string // as JSON: key and words
}

func (s *Screens) outline(r *shell.Request) error {
	f, next, err := s.FrameFor(r, "Outline")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "outline", outlineView{
		Frame: f, planURLs: newPlanURLs(), At: r.Query("at"),
		Empty: next.Trees.Next.Len() == 0, ImportURL: urls.Import, Fields: part.JSON(part.FieldViews()), Filters: part.JSON(filters()), NewPageURL: urls.NewPage,
	})
}

// filters are the key and the words of each filter.
func filters() [][2]string {
	var out [][2]string
	for _, f := range sitemap.Filters() {
		out = append(out, [2]string{f.Key, f.Words})
	}
	return out
}

// rowsPage is how many rows are sent at a time.
const rowsPage = 20_000

// rows sends the outline in pages, in document order. The first one tells what cells
// are chosen from, too.
func (s *Screens) rows(r *shell.Request) error {
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return err
	}
	from, _ := strconv.Atoi(r.Query("from"))
	m, total := part.NewRowMaker(o), o.Trees.Next.Len()
	from = min(max(from, 0), total)
	to := min(from+rowsPage, total)
	a := rowsAnswer{Version: o.Site.PlanVersion, Edition: o.Site.Edition, Total: total, Rows: make([]part.RowView, 0, to-from)}
	for i := from; i < to; i++ {
		a.Rows = append(a.Rows, m.Row(i))
	}
	if to < total {
		a.Next = to
	}
	if from == 0 {
		if a.Names, err = s.namesFor(r, o.Trees.Next); err != nil {
			return err
		}
		if a.Views, err = s.App.SavedViews(r.Ctx(), r.Who); err != nil {
			return err
		}
	}
	r.JSON(http.StatusOK, a)
	return nil
}

// rowsAnswer is a page of the outline as its script keeps it.
type rowsAnswer struct {
	Version int64                  `json:"version"`
	Edition int                    `json:"edition"`
	Total   int                    `json:"total"`
	Next    int                    `json:"next,omitempty"` // where the next page begins
	Rows    []part.RowView         `json:"rows"`
	Names   names                  `json:"names"`
	Views   []appsitemap.SavedView `json:"views"`
}

// names is what cells are chosen from.
type names struct {
	Kinds     [][2]string `json:"kinds"`
	Templates [][2]string `json:"templates"`
	Owners    []string    `json:"owners"`
	Topics    []string    `json:"topics"`
	Readers   []string    `json:"readers"`
}

func (s *Screens) namesFor(r *shell.Request, t *sitemap.Tree) (n names, err error) {
	_, by, err := s.choices(r, t)
	if err != nil {
		return n, err
	}
	pairs := func(options []part.Option) (out [][2]string) {
		for _, o := range options {
			out = append(out, [2]string{o.Value, o.Label})
		}
		return out
	}
	values := func(options []part.Option) []string {
		out := []string{}
		for _, o := range options {
			if o.Value != "" {
				out = append(out, o.Value)
			}
		}
		return out
	}
	return names{pairs(by["kind"]), pairs(by["template"]), values(by["owner"]), values(by["topics"]), values(by["readership"])}, nil
}
