package pages

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// templateOf gives the template that a draft says, and what stands in its way.
func templateOf(d plan.TemplateDraft, was *content.Template) (content.Template, []content.Fault) {
	order := 0
	if was != nil {
		order = was.Order
	}
	return content.CleanTemplate(content.FromPage(d.Page, d.Key, order))
}

// TemplateLine is a template in their list.
type TemplateLine struct {
	content.Template
	Pages   int    // of Next that have it
	Live    bool   // readers see pages laid out by it
	Planned string // what changes with the next edition; empty: nothing
	By      string // who planned that
	Drafts  []TemplateDraftLine
}

// TemplateDraftLine is a draft of a template in their list.
type TemplateDraftLine struct {
	Key, PersonID, By, Name string
	At                      time.Time
}

// TemplateList lists the templates of Next, those that go with the next edition, and drafts of
// new ones.
func (a *Pages) TemplateList(ctx context.Context, who plan.Person) (list []TemplateLine, fresh []TemplateDraftLine, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		people, err := plan.PeopleByID(ctx, tx)
		if err != nil {
			return err
		}
		drafts, err := tx.TemplateDrafts(ctx)
		if err != nil {
			return err
		}
		by := map[string][]TemplateDraftLine{}
		for _, d := range drafts {
			line := TemplateDraftLine{d.Key, d.PersonID, people[d.PersonID].Name, d.Page.Fields["name"], d.At}
			if d.IsNew() {
				fresh = append(fresh, line)
			} else {
				by[d.Key] = append(by[d.Key], line)
			}
		}
		next, live := trees.Shapes.Next, trees.Shapes.Live
		counts := plan.UsedBy(trees.Next, next.Templates())
		for _, t := range next.Templates() {
			id := shape.TemplateID(t.Key)
			line := TemplateLine{Template: t, Pages: len(counts[t.Key]), Live: live.Find(id) != nil, Drafts: by[t.Key]}
			if p, planned := trees.Shapes.Planned[id]; planned {
				line.By, line.Planned = people[p.PersonID].Name, wordsOf(live, next, id)
			}
			list = append(list, line)
		}
		for _, t := range live.Templates() {
			if id := shape.TemplateID(t.Key); next.Find(id) == nil {
				list = append(list, TemplateLine{Template: t, Live: true, Planned: wordsOf(live, next, id), By: people[trees.Shapes.Planned[id].PersonID].Name})
			}
		}
		return nil
	})
	return list, fresh, err
}

func wordsOf(live, next shape.Set, id string) string {
	for _, c := range shape.Diff(live, next) {
		if c.ID == id {
			return c.Because
		}
	}
	return ""
}

// TemplateView is what the template editor shows.
type TemplateView struct {
	Template content.Template   // of Next; the zero one of a new template
	Draft    plan.TemplateDraft // what is being made of it; version 0: nothing yet
	By       string             // whose draft it is
	Mine     bool
	Faults   []content.Fault
	Pages    int
	May      bool // the person may plan the change
	Trees    plan.Trees
	People   []plan.Person
}

// OpenTemplate gives a template with what somebody is making of it: who looks, or the person
// named.
func (a *Pages) OpenTemplate(ctx context.Context, who plan.Person, key, person string) (v TemplateView, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		v, err = a.templateView(ctx, tx, s, trees, who, key, cmp.Or(person, who.ID))
		return err
	})
	return v, err
}

func (a *Pages) templateView(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, who plan.Person, key, person string) (TemplateView, error) {
	v := TemplateView{Trees: trees, Mine: person == who.ID, May: plan.May(s, who, workflow.Shape) == nil}
	var was *content.Template
	if w := trees.Shapes.Next.Find(shape.TemplateID(key)); w != nil {
		was, v.Template = w.Template, *w.Template
		v.Pages = len(plan.UsedBy(trees.Next, trees.Shapes.Next.Templates())[key])
	}
	var err error
	v.Draft, err = tx.TemplateDraft(ctx, person, key)
	switch {
	case err == nil:
	case !errors.Is(err, plan.ErrNotFound) || was == nil:
		return v, err
	default:
		v.Draft = plan.TemplateDraft{Key: key, PersonID: person, Page: was.AsPage(), Base: plan.BaseOf(was)}
	}
	_, v.Faults = templateOf(v.Draft, was)
	if v.People, err = tx.People(ctx); err != nil {
		return v, err
	}
	for _, p := range v.People {
		if p.ID == person {
			v.By = p.Name
		}
	}
	return v, nil
}

// BeginTemplate begins a new template as a draft: from nothing, from another template, or
// from a page, whose blocks then stand where a new page begins.
func (a *Pages) BeginTemplate(ctx context.Context, who plan.Person, from string) (key string, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		t, err := a.beginning(ctx, tx, trees, from)
		if err != nil {
			return err
		}
		key = plan.NewTemplate + plan.NewID()
		return tx.SaveTemplateDraft(ctx, plan.TemplateDraft{Key: key, PersonID: who.ID, Page: t.AsPage(), Version: 1, At: a.Now()})
	})
	return key, err
}

func (a *Pages) beginning(ctx context.Context, tx Tx, trees plan.Trees, from string) (content.Template, error) {
	if from == "" {
		return content.Template{Parts: []content.Part{
			{Kind: content.Lead, Fields: []content.Field{{Key: "summary", Label: "Summary", Type: content.FieldText}}},
			{Kind: content.Slot, Key: "main", Name: "Main text"},
		}}, nil
	}
	if w := trees.Shapes.Next.Find(shape.TemplateID(from)); w != nil {
		t := *w.Template
		t.Name = "Copy of " + t.Name
		return t, nil
	}
	i := trees.Next.Find(from)
	if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
		return content.Template{}, plan.ErrNotFound
	}
	texts, err := plan.LatestTexts(ctx, tx, []string{from})
	if err != nil {
		return content.Template{}, err
	}
	t := content.TemplateOf(trees.Shapes.Next.Templates(), trees.Next.Ref(i).Template)
	t.Name, t.For = "As "+trees.Next.Ref(i).Title, ""
	return t.Beginning(texts[from].Content), nil
}

// SaveTemplateDraft saves what somebody is making of a template over the version that it
// was made from.
func (a *Pages) SaveTemplateDraft(ctx context.Context, who plan.Person, key string, p content.Page, base int) (version int, faults []content.Fault, err error) {
	p = content.Identified(content.Clean(p), key)
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		v, err := a.templateView(ctx, tx, s, trees, who, key, who.ID)
		if err != nil {
			return err
		}
		d := v.Draft
		d.Page, d.Version, d.At = p, base+1, a.Now()
		_, faults = templateOf(d, &v.Template)
		version = d.Version
		return tx.SaveTemplateDraft(ctx, d)
	})
	return version, faults, err
}

// DropTemplateDraft forgets what somebody was making of a template.
func (a *Pages) DropTemplateDraft(ctx context.Context, who plan.Person, key string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		return tx.DropTemplateDraft(ctx, who.ID, key)
	})
}

// TemplatePlan is the wish to plan a change of a template.
type TemplatePlan struct {
	Key      string // of the act
	Template string
	Person   string // whose draft it is; empty: of who plans
	Over     bool   // also where somebody changed the template since the draft was begun
}

// PlanTemplate makes what somebody made of a template a change of the next edition.
func (a *Pages) PlanTemplate(ctx context.Context, who plan.Person, ask TemplatePlan) (plan.PlanResult, error) {
	return a.shaping(ctx, who, ask.Key, ask.Template, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		v, err := a.templateView(ctx, tx, s, trees, who, ask.Template, cmp.Or(ask.Person, who.ID))
		if err != nil {
			return plan.PlanResult{}, err
		}
		set := trees.Shapes.Next
		was := set.Find(shape.TemplateID(ask.Template))
		if v.Draft.Version == 0 {
			return plan.PlanResult{}, plan.Refuse("", "Nothing was changed, so there is nothing to save.")
		}
		if was != nil && v.Draft.Base != plan.BaseOf(was.Template) && !ask.Over {
			return plan.PlanResult{}, plan.Refuse("over", fmt.Sprintf("%q was changed by somebody else since you began. Compare the two, then tick the box to save yours in its place.", v.Template.Name))
		}
		t, faults := templateOf(v.Draft, &v.Template)
		if len(faults) > 0 {
			return plan.PlanResult{}, plan.Refuse("", faults[0].Text)
		}
		if err := otherName(set, t); err != nil {
			return plan.PlanResult{}, err
		}
		label := fmt.Sprintf("changed the template %q", t.Name)
		if v.Draft.IsNew() {
			label = fmt.Sprintf("made the template %q", t.Name)
			if t.Key, err = a.newTemplateKey(ctx, tx, trees, t.Name); err != nil {
				return plan.PlanResult{}, err
			}
			t.Order = lastOrder(set) + 1
		}
		if err := tx.DropTemplateDraft(ctx, v.Draft.PersonID, ask.Template); err != nil {
			return plan.PlanResult{}, err
		}
		if was != nil {
			if err := a.tellOfAside(ctx, tx, who, trees, *was.Template, t); err != nil {
				return plan.PlanResult{}, err
			}
		}
		res, err := a.RecordShape(ctx, tx, s, who, ask.Key, label, trees, shape.TemplateID(t.Key), &shape.Item{Template: &t})
		res.ID = t.Key
		return res, err
	})
}

// shaping runs an act for somebody who may change templates.
func (a *Pages) shaping(ctx context.Context, who plan.Person, key, id string, run func(Tx, plan.Site, plan.Trees) (plan.PlanResult, error)) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, id, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		if err := plan.May(s, who, workflow.Shape); err != nil {
			return plan.PlanResult{}, err
		}
		return run(tx, s, trees)
	})
}

func otherName(set shape.Set, t content.Template) error {
	for _, o := range set.Templates() {
		if o.Key != t.Key && strings.EqualFold(o.Name, t.Name) {
			return plan.Refuse("", fmt.Sprintf("There is a template called %q already. Give this one another name.", o.Name))
		}
	}
	return nil
}

func lastOrder(set shape.Set) (n int) {
	for _, t := range set.Templates() {
		n = max(n, t.Order)
	}
	return n
}

// newTemplateKey makes a key that no template of any edition has.
func (a *Pages) newTemplateKey(ctx context.Context, tx Tx, trees plan.Trees, name string) (string, error) {
	key := address.Slug(name)
	for n := 2; ; n++ {
		id := shape.TemplateID(key)
		then, err := tx.ShapeVersions(ctx, id)
		if err != nil || len(then) == 0 && trees.Shapes.Next.Find(id) == nil {
			return key, err
		}
		key = address.Slug(name) + "-" + strconv.Itoa(n)
	}
}

// RemoveTemplate takes a template away that no page of Next has.
func (a *Pages) RemoveTemplate(ctx context.Context, who plan.Person, key, template string) (plan.PlanResult, error) {
	return a.shaping(ctx, who, key, template, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		id, set := shape.TemplateID(template), trees.Shapes.Next
		w := set.Find(id)
		if w == nil {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		if n := len(plan.UsedBy(trees.Next, set.Templates())[template]); n > 0 {
			return plan.PlanResult{}, plan.Refuse("", fmt.Sprintf("%q lays out %d %s. Give %s another template first.", w.Template.Name, n, plan.Plural(n, "page", "pages"), plan.Plural(n, "it", "them")))
		}
		if len(set.Templates()) == 1 {
			return plan.PlanResult{}, plan.Refuse("", "A site needs a template. Make another one first.")
		}
		return a.RecordShape(ctx, tx, s, who, key, fmt.Sprintf("removed the template %q", w.Template.Name), trees, id, nil)
	})
}

// TemplateVersion is what a template was in some editions, or will be.
type TemplateVersion struct {
	content.Template
	From, To int    // editions; from 0 without At: the site began with it
	Next     bool   // planned
	By       string // who published it, or planned it
	At       time.Time
	Words    string // how it differs from the one before
}

// TemplateVersions lists what a template was, the latest first.
func (a *Pages) TemplateVersions(ctx context.Context, who plan.Person, key string) (out []TemplateVersion, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		id := shape.TemplateID(key)
		people, err := plan.PeopleByID(ctx, tx)
		if err != nil {
			return err
		}
		then, err := tx.ShapeVersions(ctx, id)
		if err != nil {
			return err
		}
		if p, planned := trees.Shapes.Planned[id]; planned && trees.Shapes.Next.Find(id) != nil {
			out = append(out, TemplateVersion{Template: *trees.Shapes.Next.Find(id).Template, Next: true, By: people[p.PersonID].Name, At: p.At})
		}
		for _, v := range then {
			out = append(out, TemplateVersion{Template: *v.Template, From: v.From, To: v.To, By: people[v.PersonID].Name, At: v.At})
		}
		if len(out) == 0 {
			return plan.ErrNotFound
		}
		for i := range out {
			var before *content.Template
			if i+1 < len(out) {
				before = &out[i+1].Template
			}
			out[i].Words = content.TemplateWords(before, &out[i].Template)
		}
		return nil
	})
	return out, err
}

// BringTemplateBack plans a template as it was from an edition on.
func (a *Pages) BringTemplateBack(ctx context.Context, who plan.Person, key, template string, from int) (plan.PlanResult, error) {
	return a.shaping(ctx, who, key, template, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		id := shape.TemplateID(template)
		then, err := tx.ShapeVersions(ctx, id)
		if err != nil {
			return plan.PlanResult{}, err
		}
		i := slices.IndexFunc(then, func(v plan.ShapeVersion) bool { return v.From == from })
		if i < 0 {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		t := *then[i].Template
		if err := otherName(trees.Shapes.Next, t); err != nil {
			return plan.PlanResult{}, err
		}
		label := fmt.Sprintf("brought the template %q back as it was in edition %d", t.Name, from)
		return a.RecordShape(ctx, tx, s, who, key, label, trees, id, &shape.Item{Template: &t})
	})
}
