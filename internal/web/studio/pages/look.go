package pages

import (
	"html/template"
	"net/http"

	"candlepath/internal/markup"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type lookView struct {
	Heading, Back string
	Crumbs        []string
	Body          template.HTML
}

// lookPage shows a draft as readers will see it.
func (s *Screens) lookPage(r *shell.Request) error {
	pv, html, err := s.App.PreviewPage(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	t := pv.Trees.Next
	v := lookView{Heading: pv.Entry.Title, Back: urls.Page(pv.Entry.ID), Body: part.DraftHTML(html, t)}
	if path := t.Path(t.Find(pv.Entry.ID)); len(path) > 0 {
		v.Crumbs = path[:len(path)-1]
	}
	return s.Set.Write(r.Writer, http.StatusOK, "look", "look", v)
}

// pageSource gives the HTML that a page's text was imported from, as text.
func (s *Screens) pageSource(r *shell.Request) error {
	src, err := s.App.PageSource(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	html, err := markup.Unzip(src.HTML)
	if err != nil {
		return err
	}
	r.Data(http.StatusOK, "text/plain; charset=utf-8", html)
	return nil
}
