package pages

import (
	"errors"
	"net/http"
	"strconv"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// templatesView is the list of templates.
type templatesView struct {
	shell.Frame
	Begin, Problem, Said string
	May                  bool // change templates, not only make drafts
	Rows                 []templateRow
	Fresh                []templateDraft
}

type templateRow struct {
	Name, For, URL, Pages, PagesURL, VersionsURL string
	Planned, By                                  string
	Gone                                         bool // with the next edition
	Drafts                                       []templateDraft
	Copy                                         string // key, to begin another one from
	RemoveURL, Key                               string // empty: it stays
}

type templateDraft struct {
	Name, By, URL string
	At            part.Moment
}

// templates lists the templates.
func (s *Screens) templates(r *shell.Request) error { return s.showTemplates(r, http.StatusOK, "") }

func (s *Screens) showTemplates(r *shell.Request, status int, problem string) error {
	list, fresh, err := s.App.TemplateList(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Templates")
	if err != nil {
		return err
	}
	v := templatesView{Frame: f, Begin: urls.Templates, Problem: problem, Said: r.Query("said"), May: r.Site.Rights().May(r.Who.Role, workflow.Shape)}
	for _, t := range list {
		v.Rows = append(v.Rows, newTemplateRow(t, v.May))
	}
	for _, d := range fresh {
		v.Fresh = append(v.Fresh, newTemplateDraft(d))
	}
	return s.Show(r, status, "templates", v)
}

func newTemplateRow(t pages.TemplateLine, may bool) templateRow {
	row := templateRow{
		Name: t.Name, For: t.For, URL: urls.Template(t.Key), Pages: part.Count(t.Pages, "page", "pages"), PagesURL: urls.OfTemplate(t.Key, "facts"),
		VersionsURL: urls.OfTemplate(t.Key, "versions"), Planned: t.Planned, By: t.By, Gone: t.Planned == "template removed", Copy: t.Key,
	}
	if may && t.Pages == 0 && !row.Gone {
		row.RemoveURL, row.Key = urls.OfTemplate(t.Key, "remove"), part.NewKey()
	}
	for _, d := range t.Drafts {
		row.Drafts = append(row.Drafts, newTemplateDraft(d))
	}
	return row
}

func newTemplateDraft(d pages.TemplateDraftLine) templateDraft {
	return templateDraft{part.OrElse(d.Name, "without a name"), d.By, urls.TemplateOf(d.Key, d.PersonID), part.At(d.At)}
}

// beginTemplate begins a new one as a draft.
func (s *Screens) beginTemplate(r *shell.Request) error {
	key, err := s.App.BeginTemplate(r.Ctx(), r.Who, part.OrElse(r.PostForm("page"), r.PostForm("from")))
	if err != nil {
		return s.onTemplates(r, err)
	}
	r.Redirect(http.StatusSeeOther, urls.Template(key))
	return nil
}

// onTemplates tells what was refused on the list; other faults are for the caller.
func (s *Screens) onTemplates(r *shell.Request, err error) error {
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.showTemplates(r, http.StatusUnprocessableEntity, invalid.Error())
	}
	return err
}

// removeTemplate plans that a template goes.
func (s *Screens) removeTemplate(r *shell.Request) error {
	res, err := s.App.RemoveTemplate(r.Ctx(), r.Who, r.PostForm("key"), r.Param("key"))
	if err != nil {
		return s.onTemplates(r, err)
	}
	r.Redirect(http.StatusSeeOther, urls.TemplatesSaid(part.UpperFirst(res.Label)+". It goes with the next edition."))
	return nil
}

// versionsView lists what a template was.
type versionsView struct {
	shell.Frame
	Name, Back, BackAct string
	May                 bool
	Rows                []versionRow
	Compared            *comparedView
}

type versionRow struct {
	Told, By, Words string
	At              part.Moment
	CompareURL      string // with the one before; empty: it is the first
	From            int
	Key             string // of the act that brings it back; empty: it is what stands in Next
}

type comparedView struct {
	Before, After string
	Changes       []changeView
}

type changeView struct {
	What string
	Runs []runView
}

type runView struct{ Kind, Text string }

// templateVersions lists what a template was, and compares two of them.
func (s *Screens) templateVersions(r *shell.Request) error {
	key := r.Param("key")
	list, err := s.App.TemplateVersions(r.Ctx(), r.Who, key)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Versions of a template")
	if err != nil {
		return err
	}
	v := versionsView{Frame: f, Name: list[0].Name, Back: urls.Templates, BackAct: urls.OfTemplate(key, "back"), May: r.Site.Rights().May(r.Who.Role, workflow.Shape)}
	for i, t := range list {
		row := versionRow{Told: versionTold(t), By: t.By, Words: t.Words, At: part.At(t.At), From: t.From}
		if i+1 < len(list) {
			row.CompareURL = urls.TemplateCompare(key, i)
		}
		if i > 0 && v.May {
			row.Key = part.NewKey()
		}
		v.Rows = append(v.Rows, row)
	}
	if at, err := strconv.Atoi(r.Query("compare")); err == nil && at >= 0 && at+1 < len(list) {
		v.Compared = newCompared(list[at+1], list[at])
	}
	return s.Show(r, http.StatusOK, "versions", v)
}

func versionTold(t pages.TemplateVersion) string {
	switch {
	case t.Next:
		return "Next edition"
	case t.From == 0:
		return "From the start"
	}
	return "From edition " + strconv.Itoa(t.From)
}

func newCompared(before, after pages.TemplateVersion) *comparedView {
	c := &comparedView{Before: versionTold(before), After: versionTold(after)}
	for _, ch := range content.Changes(before.AsPage(), after.AsPage()) {
		view := changeView{What: string(ch.What)}
		for _, run := range ch.Runs {
			view.Runs = append(view.Runs, runView{string(run.Kind), run.Text})
		}
		c.Changes = append(c.Changes, view)
	}
	return c
}

// bringTemplateBack plans a template as it was.
func (s *Screens) bringTemplateBack(r *shell.Request) error {
	from, _ := strconv.Atoi(r.PostForm("from")) // a number that is none finds nothing
	res, err := s.App.BringTemplateBack(r.Ctx(), r.Who, r.PostForm("key"), r.Param("key"), from)
	if err != nil {
		return s.onTemplates(r, err)
	}
	r.Redirect(http.StatusSeeOther, urls.TemplatesSaid(part.UpperFirst(res.Label)+", with the next edition."))
	return nil
}
