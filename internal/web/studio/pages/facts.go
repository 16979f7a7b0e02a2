package pages

import (
	"bytes"
	"errors"
	"mime"
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// factsView is the pages of a template as a table of their facts.
type factsView struct {
	shell.Frame
	Name, Back, Self, Export, Q, Problem string
	Head                                 []string
	Rows                                 []factRowView
	part.Pager
}

type factRowView struct {
	Title, URL, Address string
	Cells               []cellView
}

// cellView is one fact that is edited in place.
type cellView struct {
	ID, Self, Key, Entry, Field, Of string
	Label, Value                    string
	Kind                            string // select, long, or a type of input
	Choices                         []part.Option
	Said, Problem                   string
}

const ofEntry = "sitemap"

func (s *Screens) facts(r *shell.Request) error { return s.showFacts(r, http.StatusOK, "") }

func (s *Screens) showFacts(r *shell.Request, status int, problem string) error {
	key, q := r.Param("key"), strings.TrimSpace(r.Query("q"))
	table, err := s.App.Facts(r.Ctx(), r.Who, key, pages.FactFilter{Words: q})
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Facts")
	if err != nil {
		return err
	}
	self := urls.OfTemplate(key, "facts")
	v := factsView{Frame: f, Name: table.Template.Name, Back: urls.Templates, Self: self, Export: urls.FactsExport(key, q), Q: q, Problem: problem}
	v.Head = headOf(table)
	v.Pager = part.NewPager(r.Page(), len(table.Rows), func(n int) string { return urls.Facts(key, q, n) })
	for _, row := range table.Rows[max(v.First-1, 0):min(v.Last, len(table.Rows))] {
		rv := factRowView{Title: row.Title, URL: urls.Page(row.ID), Address: address.Written(row.Address)}
		for i, f := range table.Entry {
			rv.Cells = append(rv.Cells, entryCell(self, row, f, row.Entry[i]))
		}
		for i, f := range table.Template.Fields() {
			rv.Cells = append(rv.Cells, factCell(self, row.ID, row.Title, f, row.Facts[i], table.People))
		}
		v.Rows = append(v.Rows, rv)
	}
	return s.Show(r, status, "facts", v)
}

func headOf(t pages.FactTable) (out []string) {
	for _, f := range t.Entry {
		out = append(out, f.Label)
	}
	for _, f := range t.Template.Fields() {
		out = append(out, f.Label)
	}
	return out
}

func entryCell(self string, row pages.FactRow, f sitemap.Field, value string) cellView {
	c := cellView{ID: row.ID + "-" + f.Key, Self: self, Key: part.NewKey(), Entry: row.ID, Field: f.Key, Of: ofEntry, Label: f.Label + " of " + row.Title, Value: value, Kind: "text"}
	if f.Input == sitemap.Day {
		c.Kind = "date"
	}
	return c
}

func factCell(self, entry, title string, f content.Field, value string, people []plan.Person) cellView {
	c := cellView{ID: entry + "-" + f.Key, Self: self, Key: part.NewKey(), Entry: entry, Field: f.Key, Label: f.Label + " of " + title, Value: value, Kind: "text"}
	choose := func(options []part.Option) {
		c.Kind, c.Choices = "select", part.Choose(append([]part.Option{{Value: "", Label: "—"}}, options...), value)
	}
	var options []part.Option
	switch f.Type {
	case content.FieldDate:
		c.Kind = "date"
	case content.FieldText, content.FieldLong, content.FieldSeveral:
		c.Kind = "long"
	case content.FieldChoice:
		for _, choice := range f.Choices {
			options = append(options, part.Option{Value: choice, Label: choice})
		}
		choose(options)
	case content.FieldYes:
		choose([]part.Option{{Value: content.Yes, Label: "yes"}})
	case content.FieldPerson:
		for _, p := range people {
			options = append(options, part.Option{Value: p.ID, Label: p.Name})
		}
		choose(options)
	}
	return c
}

// setFact saves one fact, and answers with its cell.
func (s *Screens) setFact(r *shell.Request) error {
	ask := pages.FactAsk{Key: r.PostForm("key"), Entry: r.PostForm("entry"), Field: r.PostForm("field"), Value: r.PostForm("value"), OfEntry: r.PostForm("of") == ofEntry}
	_, err := s.App.SetFact(r.Ctx(), r.Who, ask)
	invalid := (*plan.Invalid)(nil)
	if err != nil && !errors.As(err, &invalid) {
		return err
	}
	if !render.Fragment(r.Request) {
		if invalid != nil {
			return s.showFacts(r, http.StatusUnprocessableEntity, invalid.Error())
		}
		r.Redirect(http.StatusSeeOther, urls.OfTemplate(r.Param("key"), "facts"))
		return nil
	}
	c, err := s.cellOf(r, ask)
	if err != nil {
		return err
	}
	status := http.StatusOK
	if c.Value, c.Said = ask.Value, "Saved"; invalid != nil {
		status, c.Said, c.Problem = http.StatusUnprocessableEntity, "", part.Sentence(invalid)
	}
	return s.Set.Write(r.Writer, status, "facts", "fact-cell", c)
}

// cellOf gives the cell of a fact as it is now.
func (s *Screens) cellOf(r *shell.Request, ask pages.FactAsk) (cellView, error) {
	table, err := s.App.Facts(r.Ctx(), r.Who, r.Param("key"), pages.FactFilter{Entry: ask.Entry})
	if err != nil {
		return cellView{}, err
	}
	self := urls.OfTemplate(r.Param("key"), "facts")
	if len(table.Rows) == 0 {
		return cellView{}, plan.ErrNotFound
	}
	row := table.Rows[0]
	for i, f := range table.Entry {
		if ask.OfEntry && f.Key == ask.Field {
			return entryCell(self, row, f, row.Entry[i]), nil
		}
	}
	for i, f := range table.Template.Fields() {
		if !ask.OfEntry && f.Key == ask.Field {
			return factCell(self, row.ID, row.Title, f, row.Facts[i], table.People), nil
		}
	}
	return cellView{}, plan.ErrNotFound
}

// exportFacts gives the table as .csv.
func (s *Screens) exportFacts(r *shell.Request) error {
	table, err := s.App.Facts(r.Ctx(), r.Who, r.Param("key"), pages.FactFilter{Words: strings.TrimSpace(r.Query("q"))})
	if err != nil {
		return err
	}
	var rows [][]string
	for _, row := range table.Rows {
		cells := slices.Concat([]string{row.Title, address.Written(row.Address)}, row.Entry)
		for i, f := range table.Template.Fields() {
			v := row.Facts[i]
			if f.Type == content.FieldPerson {
				v = part.PersonName(table.People, v)
			}
			cells = append(cells, v)
		}
		rows = append(rows, cells)
	}
	var b bytes.Buffer
	if err := files.WriteCSV(&b, append([]string{"Title", "Address"}, headOf(table)...), rows); err != nil {
		return err
	}
	r.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": "pages-" + r.Param("key") + ".csv"}))
	r.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
	return nil
}
