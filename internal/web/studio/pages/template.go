package pages

import (
	"encoding/json"
	"errors"
	"html/template"
	"net/http"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// templateView is the editor of a template.
type templateView struct {
	shell.Frame
	Name, By, Pages, CheckURL, DropURL, ListURL string
	New, Mine, May, Drafted                     bool
	Data                                        template.JS
}

// template shows a template with what somebody is making of it.
func (s *Screens) template(r *shell.Request) error {
	key := r.Param("key")
	tv, err := s.App.OpenTemplate(r.Ctx(), r.Who, key, r.Query("of"))
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Template")
	if err != nil {
		return err
	}
	v := templateView{
		Frame: f, Name: part.OrElse(tv.Template.Name, "New template"), By: tv.By, Pages: part.Count(tv.Pages, "page", "pages"), New: tv.Template.Key == "",
		Mine: tv.Mine, May: tv.May, Drafted: tv.Draft.Version > 0, CheckURL: urls.TemplateCheck(key, r.Query("of"), ""), DropURL: urls.OfTemplate(key, "drop"), ListURL: urls.Templates,
	}
	b, err := json.Marshal(newTemplateData(f, tv, append([]string{}, r.Site.Answers()...))) // escapes <, > and &, so it cannot end the script element
	v.Data = template.JS(b)                                                                 //nolint:gosec // marshalled just above
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "template", v)
}

// newTemplateData is what the editor's script begins with: the template as a page, with its
// parts as blocks of one slot.
func newTemplateData(f shell.Frame, tv pages.TemplateView, hosts []string) pageData {
	t, key := tv.Trees.Next, tv.Draft.Key
	of := func(act string) string { return urls.OfTemplate(key, act) }
	data := pageData{
		Entry: "template:" + key, Person: f.PersonID, Base: tv.Draft.Version, Slots: tv.Draft.Page.Slots, Fields: tv.Draft.Page.Fields, Window: part.NewKey(),
		Kept: []keptView{}, Problems: newFaults(tv.Faults), Template: tv.Template.Name, About: part.Count(tv.Pages, "page follows it", "pages follow it"), Live: true,
		OfTemplate: true, Mine: tv.Mine,
		Kinds: append(content.Kinds(), content.PartKinds()...), Titles: map[string]string{}, Symbols: symbols(), Topics: append([]string{}, t.Topics()...),
		Groups: append([]string{}, readership.Kinds(t, nil)...), Hosts: hosts,
		SaveURL: of("save"), LockURL: of("lock"), Upload: urls.Files, Files: urls.FileFind, FindURL: urls.Find, Rows: urls.FileRows,
	}
	if home := t.Home(); home != sitemap.None {
		data.Draw = urls.OfPage(t.Ref(home).ID, "draw")
		data.Compare = urls.OfPage(t.Ref(home).ID, "compare")
	}
	for _, id := range content.Named(tv.Draft.Page) {
		data.Titles[id] = part.TitleIn(id, t)
	}
	for _, p := range tv.People {
		data.People = append(data.People, personView{p.ID, p.Name})
	}
	data.Parts = []partView{
		{Kind: content.Facts, Fields: content.TemplateFields()},
		{Kind: content.Slot, Key: content.PartsSlot, Name: "Parts of the template", Help: "What every page of it shows, and where editors write.", Takes: content.PartTypes()},
	}
	return data
}

// newFaults tells faults as the editor tells what is to be mended of a page.
func newFaults(found []content.Fault) []problemView {
	out := make([]problemView, len(found))
	for i, f := range found {
		out[i] = problemView{Part: content.PartsSlot, Block: f.Part, Text: f.Text}
	}
	return out
}

// saveTemplate saves what somebody makes of a template.
func (s *Screens) saveTemplate(r *shell.Request) error {
	var f saveForm
	if err := r.Json(&f); err != nil {
		return err
	}
	version, faults, err := s.App.SaveTemplateDraft(r.Ctx(), r.Who, r.Param("key"), f.Content, f.Base)
	if errors.Is(err, plan.ErrStale) {
		r.JSON(http.StatusConflict, map[string]any{})
		return nil
	}
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{"version": version, "problems": newFaults(faults)})
	return nil
}

// lockTemplate answers that everybody writes a draft of their own.
func (s *Screens) lockTemplate(r *shell.Request) error {
	r.JSON(http.StatusOK, map[string]any{"mine": true})
	return nil
}

// dropTemplate forgets what somebody made of a template.
func (s *Screens) dropTemplate(r *shell.Request) error {
	if err := s.App.DropTemplateDraft(r.Ctx(), r.Who, r.Param("key")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.TemplatesSaid("Your draft is discarded."))
	return nil
}

// checkView tells what a change of a template does, before it is saved.
type checkView struct {
	shell.Frame
	Name, Words, By, Problem     string
	Follow                       string // how many pages follow
	EditURL, PlanURL, Key, Of    string
	New, May, Stale, Same        bool
	Faults                       []string
	Lacking, Aside               string
	Told                         []effectView
	Few                          bool // of them, so that they are unfolded
	Others                       string
	Choose                       []part.Option // pages to look at
	Sample                       string
	Before, After                template.HTML
	SampleURL, TemplateKey, Self string
}

type effectView struct {
	Title, Address, URL, LookURL string
	Told                         []string
}

// effectsTold is how many pages are told one by one.
const effectsTold = 100

func (s *Screens) checkTemplate(r *shell.Request) error {
	return s.showCheck(r, http.StatusOK, "")
}

func (s *Screens) showCheck(r *shell.Request, status int, problem string) error {
	key, of := r.Param("key"), part.OrElse(r.Query("of"), r.PostForm("of"))
	c, err := s.App.CheckTemplate(r.Ctx(), r.Who, key, of, r.Query("page"))
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Check a template")
	if err != nil {
		return err
	}
	return s.Show(r, status, "template-check", newCheckView(f, c, key, of, problem))
}

func newCheckView(f shell.Frame, c pages.TemplateCheck, key, of, problem string) checkView {
	v := checkView{
		Frame: f, Name: part.OrElse(c.After.Name, "New template"), Words: part.UpperFirst(c.Words), By: c.By, Problem: problem, Follow: part.Count(c.Pages, "page follows", "pages follow"),
		EditURL: urls.TemplateOf(key, of), PlanURL: urls.OfTemplate(key, "plan"), Key: part.NewKey(), Of: of, New: c.Template.Key == "", May: c.May, Stale: c.Stale,
		Same: c.Draft.Version == 0, Self: urls.OfTemplate(key, "check"), Sample: c.Sample.Title,
		Before: part.DraftHTML(c.Sample.Before, c.Trees.Next), After: part.DraftHTML(c.Sample.After, c.Trees.Next),
	}
	for _, fault := range c.Faults {
		v.Faults = append(v.Faults, fault.Text)
	}
	if c.Lacking > 0 {
		v.Lacking = part.Count(c.Lacking, "page lacks", "pages lack")
	}
	if c.Aside > 0 {
		v.Aside = part.Count(c.Aside, "page has", "pages have")
	}
	for _, e := range c.Told {
		if len(v.Choose) < effectsTold {
			v.Choose = append(v.Choose, part.Option{Value: e.Entry, Label: e.Title, Chosen: e.Entry == c.Sample.Entry})
		}
		if e.Any() && len(v.Told) < effectsTold {
			v.Told = append(v.Told, newEffect(e, key, of))
		}
	}
	v.Few = len(v.Told) <= 10
	if others := len(c.Told) - len(v.Told); others > 0 && !v.New {
		v.Others = part.Count(others, "of them loses nothing", "of them lose nothing")
	}
	return v
}

func newEffect(e pages.PageEffect, key, of string) effectView {
	v := effectView{Title: e.Title, Address: e.Address, URL: urls.Page(e.Entry), LookURL: urls.TemplateCheck(key, of, e.Entry)}
	for _, name := range e.Aside {
		v.Told = append(v.Told, "What stands in “"+name+"” is kept aside, until somebody puts it into a slot.")
	}
	for _, label := range e.Unshown {
		v.Told = append(v.Told, "The fact “"+label+"” is not shown any more; its value is kept.")
	}
	for _, text := range e.Lacks {
		v.Told = append(v.Told, part.Sentence(errors.New(text)))
	}
	return v
}

// planTemplate makes the change one of the next edition.
func (s *Screens) planTemplate(r *shell.Request) error {
	res, err := s.App.PlanTemplate(r.Ctx(), r.Who, pages.TemplatePlan{Key: r.PostForm("key"), Template: r.Param("key"), Person: r.PostForm("of"), Over: r.PostForm("over") != ""})
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.showCheck(r, http.StatusUnprocessableEntity, invalid.Error())
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.TemplatesSaid(part.UpperFirst(res.Label)+". It goes out with the next edition."))
	return nil
}
