package pages

import (
	"errors"
	"net/http"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// newPageView is the small form of a new page.
type newPageView struct {
	shell.Frame
	Self, Cancel, Key, Problem, Field string
	Title, Parent, ParentIs, Topics   string
	Template, For                     string
	Templates                         []part.Option
	Facts                             []cellView
	Known                             []string // topics
}

func (s *Screens) newPage(r *shell.Request) error {
	ask := pages.NewPageAsk{Title: r.Query("title"), Parent: r.Query("parent"), Template: r.Query("template"), Topics: r.Query("topics")}
	return s.showNewPage(r, http.StatusOK, ask, nil)
}

func (s *Screens) showNewPage(r *shell.Request, status int, ask pages.NewPageAsk, problem *plan.Invalid) error {
	form, err := s.App.NewPageForm(r.Ctx(), r.Who, ask.Parent, ask.Template)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "New page")
	if err != nil {
		return err
	}
	v := newPageView{
		Frame: f, Self: urls.NewPage, Cancel: urls.Pages, Key: part.OrElse(ask.Key, part.NewKey()), Title: ask.Title, Parent: form.Parent, ParentIs: form.ParentIs, Topics: ask.Topics,
		Template: form.Template.Key, For: form.Template.For, Known: form.Topics,
	}
	if problem != nil {
		v.Problem, v.Field = problem.Error(), problem.Field
	}
	for _, t := range form.Templates {
		v.Templates = append(v.Templates, part.Option{Value: t.Key, Label: t.Name, Chosen: t.Key == form.Template.Key})
	}
	for _, fact := range form.RequiredFacts() {
		value := part.OrElse(ask.Facts[fact.Key], fact.Default)
		c := factCell("", "new", "", fact, value, form.People)
		c.Label, c.Said = fact.Label, fact.Help
		v.Facts = append(v.Facts, c)
	}
	return s.Show(r, status, "new-page", v)
}

// addPage plans a new page: from the form, which then opens it, or for the editor, which
// links to it.
func (s *Screens) addPage(r *shell.Request) error {
	if r.WantsJSON() {
		return s.addLinkedPage(r)
	}
	ask := pages.NewPageAsk{Key: r.PostForm("key"), Title: r.PostForm("title"), Parent: r.PostForm("parent"), Template: r.PostForm("template"), Topics: r.PostForm("topics"), Facts: map[string]string{}}
	fields, values := r.PostFormArray("fact"), r.PostFormArray("value")
	for i := range min(len(fields), len(values)) {
		ask.Facts[fields[i]] = values[i]
	}
	res, err := s.App.AddPage(r.Ctx(), r.Who, ask)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.showNewPage(r, http.StatusUnprocessableEntity, ask, invalid)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Page(res.ID))
	return nil
}

func (s *Screens) addLinkedPage(r *shell.Request) error {
	var f struct {
		Key    string `json:"key"`
		Title  string `json:"title"`
		Parent string `json:"parent"`
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	res, err := s.App.AddPage(r.Ctx(), r.Who, pages.NewPageAsk{Key: f.Key, Title: f.Title, Parent: f.Parent})
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]string{"id": res.ID, "title": res.Trees.Title(res.ID)})
	return nil
}
