package pages

import (
	"net/http"
	"net/url"

	"candlepath/internal/core/address"
	"candlepath/internal/markup"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// lookView is a page of Next in its frame, as somebody gets it.
type lookView struct {
	Heading, Back, Self, Frame string
	People                     []part.Option
	As                         string
	Widths                     []lookWidth
	Width                      string
}

type lookWidth struct {
	Name, URL string
	Here      bool
}

// widths at which a page is looked at, by their names in addresses.
var widths = [][2]string{{"wide", "Desk"}, {"medium", "Tablet"}, {"small", "Phone"}}

// lookPage shows a page of Next with its menus, as any person.
func (s *Screens) lookPage(r *shell.Request) error {
	id := r.Param("id")
	pv, err := s.App.Page(r.Ctx(), r.Who, id)
	if err != nil {
		return err
	}
	v := lookView{Heading: pv.Entry.Title, Back: urls.Page(id), Self: urls.OfPage(id, "look"), As: r.Query("as"), Width: "wide"}
	v.Frame = urls.Preview + "?" + url.Values{"of": {"next"}, "at": {address.Written(pv.Address)}, "as": {v.As}}.Encode()
	v.People = append(v.People, part.Option{Value: "", Label: "somebody who has not signed in", Chosen: v.As == ""})
	for _, p := range pv.People {
		v.People = append(v.People, part.Option{Value: p.Login, Label: p.Name + ", " + string(p.Role), Chosen: p.Login == v.As})
	}
	for _, w := range widths {
		if w[0] == r.Query("width") {
			v.Width = w[0]
		}
	}
	for _, w := range widths {
		v.Widths = append(v.Widths, lookWidth{w[1], v.Self + "?" + url.Values{"as": {v.As}, "width": {w[0]}}.Encode(), w[0] == v.Width})
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
