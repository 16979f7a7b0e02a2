package pages

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// NewPageAsk is the wish for a new page.
type NewPageAsk struct {
	Key      string
	Title    string
	Parent   string            // entry; empty: below home
	Template string            // key; empty: as pages there have
	Topics   string            // with semicolons between
	Facts    map[string]string // of the template, by their keys
}

// NewPageForm is what a new page is made of, before it is.
type NewPageForm struct {
	Templates []content.Template
	Template  content.Template
	Parent    string
	ParentIs  string // its title
	People    []plan.Person
	Topics    []string
}

// NewPageForm prepares the form of a new page: below an entry, with a template or the one
// that pages there have.
func (a *Pages) NewPageForm(ctx context.Context, who plan.Person, parent, template string) (f NewPageForm, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		t := trees.Next
		f.Templates, f.Topics = trees.Shapes.Next.Templates(), t.Topics()
		if i := t.Find(parent); i != sitemap.None && t.Ref(i).Kind.HoldsChildren() {
			f.Parent, f.ParentIs = parent, t.Ref(i).Title
		}
		if template == "" {
			template = t.InheritedTemplate(f.Parent)
		}
		f.Template = content.TemplateOf(f.Templates, template)
		f.People, err = tx.People(ctx)
		return err
	})
	return f, err
}

// AddPage plans a new page, at the end of its place, with what its template begins with.
func (a *Pages) AddPage(ctx context.Context, who plan.Person, ask NewPageAsk) (plan.PlanResult, error) {
	id := plan.NewID()
	return a.OnNext(ctx, who, ask.Key, "", func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		templates := trees.Shapes.Next.Templates()
		if ask.Parent != "" && trees.Next.Find(ask.Parent) == sitemap.None {
			return plan.PlanResult{}, plan.Refuse("parent", "Choose where the page stands.")
		}
		if ask.Template == "" {
			ask.Template = trees.Next.InheritedTemplate(ask.Parent)
		}
		t := content.TemplateOf(templates, ask.Template)
		title := sitemap.CleanTitle(ask.Title)
		if title == "" {
			return plan.PlanResult{}, plan.Refuse("title", "Give the page a title.")
		}
		page, err := a.begun(ctx, tx, t, id, ask.Facts)
		if err != nil {
			return plan.PlanResult{}, err
		}
		next, err := trees.Next.Add(sitemap.Entry{ID: id, Title: title, Kind: sitemap.Page, Template: t.Key}, trees.Next.Last(ask.Parent))
		if err != nil {
			return plan.PlanResult{}, err
		}
		if ask.Topics != "" {
			if next, err = next.Fill("topics", map[string]string{id: ask.Topics}, sitemap.Known{}); err != nil {
				return plan.PlanResult{}, plan.Refuse("topics", plan.SentenceOf(err))
			}
		}
		w, err := a.Writer(ctx, tx, who, next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if len(page.Fields)+len(page.Slots) > 0 {
			if err := w.Set(ctx, id, &page); err != nil {
				return plan.PlanResult{}, err
			}
		}
		res, err := a.RecordWith(ctx, tx, s, who, ask.Key, fmt.Sprintf("added %q", title), trees, next, w.SideEffects)
		res.ID = id
		return res, err
	})
}

// begun is what a new page holds: what its template begins with, and the facts that were
// given.
func (a *Pages) begun(ctx context.Context, tx Tx, t content.Template, id string, facts map[string]string) (content.Page, error) {
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return content.Page{}, err
	}
	page := t.Begin(id)
	for _, f := range t.Fields() {
		v := strings.TrimSpace(facts[f.Key])
		if err := f.Check(v, func(id string) bool { _, ok := people[id]; return ok }); err != nil {
			return page, plan.Refuse("fact-"+f.Key, plan.SentenceOf(err))
		}
		if v != "" {
			page = page.WithFact(f.Key, v)
		}
	}
	return page, nil
}

// RequiredFacts lists the facts that a new page is asked for.
func (f NewPageForm) RequiredFacts() []content.Field {
	return slices.DeleteFunc(slices.Clone(f.Template.Fields()), func(g content.Field) bool { return !g.Required })
}
