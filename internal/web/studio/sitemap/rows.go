package sitemap

import (
	"net/http"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
)

func (s *Screens) rows(r *shell.Request) error {
	o, err := s.App.Outline(r.Ctx())
	if err != nil {
		return err
	}
	m := part.NewRowMaker(o)
	rows := make([]part.RowView, o.Trees.Next.Len())
	for i := range rows {
		rows[i] = m.Row(i)
	}
	names, err := s.namesFor(r)
	if err != nil {
		return err
	}
	views, err := s.App.SavedViews(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, rowsAnswer{o.Site.PlanVersion, o.Site.Edition, rows, names, views})
	return nil
}

// rowsAnswer is the whole outline as its script keeps it.
type rowsAnswer struct {
	Version int64                  `json:"version"`
	Edition int                    `json:"edition"`
	Rows    []part.RowView         `json:"rows"`
	Names   names                  `json:"names"`
	Views   []appsitemap.SavedView `json:"views"`
}

// names is what cells are chosen from.
type names struct {
	Kinds     [][2]string `json:"kinds"`
	Templates [][2]string `json:"templates"`
	Owners    []string    `json:"owners"`
}

func (s *Screens) namesFor(r *shell.Request) (n names, err error) {
	for _, k := range sitemap.Kinds() {
		n.Kinds = append(n.Kinds, [2]string{string(k), k.Label()})
	}
	templates, err := s.App.Templates(r.Ctx())
	if err != nil {
		return n, err
	}
	for _, t := range templates {
		n.Templates = append(n.Templates, [2]string{t.Key, t.Name})
	}
	people, err := s.App.Everyone(r.Ctx())
	for _, p := range people {
		n.Owners = append(n.Owners, p.Name)
	}
	return n, err
}
