package pages

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// FactTable is the pages of a template with their facts.
type FactTable struct {
	Template content.Template
	Entry    []sitemap.Field // facts of the sitemap that stand beside: owner, review date
	Rows     []FactRow
	People   []plan.Person
}

// FactRow is a page with its facts, in the order of the template's fields; a link to a page
// is told by the address of that page.
type FactRow struct {
	ID, Title, Address string
	Entry              []string
	Facts              []string
	Draft              bool
}

// entryFacts are the facts of the sitemap that stand in the table.
func entryFacts() (out []sitemap.Field) {
	for _, key := range []string{"owner", "review"} {
		if f, ok := sitemap.FieldOf(key); ok {
			out = append(out, f)
		}
	}
	return out
}

// FactFilter picks pages of a template: by words of their title or address, or one of them.
type FactFilter struct{ Words, Entry string }

func (f FactFilter) fits(t *sitemap.Tree, i int) bool {
	e := t.Ref(i)
	switch {
	case f.Entry != "":
		return e.ID == f.Entry
	case f.Words != "":
		return strings.Contains(strings.ToLower(e.Title+" "+t.Address(i)), strings.ToLower(f.Words))
	}
	return true
}

// Facts gives the facts of pages of a template in Next.
func (a *Pages) Facts(ctx context.Context, who plan.Person, template string, only FactFilter) (out FactTable, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		w := trees.Shapes.Next.Find(shape.TemplateID(template))
		if w == nil {
			return plan.ErrNotFound
		}
		out.Template, out.Entry = *w.Template, entryFacts()
		var ids []string
		for _, i := range plan.UsedBy(trees.Next, trees.Shapes.Next.Templates())[template] {
			if !only.fits(trees.Next, i) {
				continue
			}
			e := trees.Next.Ref(i)
			row := FactRow{ID: e.ID, Title: e.Title, Address: trees.Next.Address(i)}
			for _, f := range out.Entry {
				row.Entry = append(row.Entry, f.Get(e))
			}
			out.Rows, ids = append(out.Rows, row), append(ids, e.ID)
		}
		texts, err := plan.LatestTexts(ctx, tx, ids)
		if err != nil {
			return err
		}
		for i := range out.Rows {
			for _, f := range out.Template.Fields() {
				v := texts[out.Rows[i].ID].Content.Fields[f.Key]
				if f.Type == content.FieldLink {
					v = addressed(trees.Next, v)
				}
				out.Rows[i].Facts = append(out.Rows[i].Facts, v)
			}
		}
		out.People, err = tx.People(ctx)
		return err
	})
	return out, err
}

// FactAsk is the wish to give a page another value of one fact.
type FactAsk struct {
	Key, Entry, Field, Value string
	OfEntry                  bool // a fact of the sitemap, not of the page
}

// SetFact gives a page another value of one fact.
func (a *Pages) SetFact(ctx context.Context, who plan.Person, ask FactAsk) (plan.PlanResult, error) {
	ask.Value = strings.TrimSpace(ask.Value)
	return a.OnNext(ctx, who, ask.Key, ask.Entry, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		i := trees.Next.Find(ask.Entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		if ask.OfEntry {
			return a.setEntryFact(ctx, tx, s, who, trees, ask)
		}
		t := trees.TemplateOf(ask.Entry)
		at := slices.IndexFunc(t.Fields(), func(f content.Field) bool { return f.Key == ask.Field })
		if at < 0 {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		people, err := plan.PeopleByID(ctx, tx)
		if err != nil {
			return plan.PlanResult{}, err
		}
		f := t.Fields()[at]
		if f.Type == content.FieldLink {
			ask.Value = paged(trees.Next, ask.Value)
		}
		if err := f.Check(ask.Value, func(id string) bool { _, ok := people[id]; return ok }); err != nil {
			return plan.PlanResult{}, plan.Refuse(f.Key, plan.SentenceOf(err))
		}
		if err := a.OpenElsewhere(ctx, tx, who, trees.Next, ask.Entry); err != nil {
			return plan.PlanResult{}, err
		}
		w, err := a.Writer(ctx, tx, who, trees.Next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{ask.Entry})
		if err != nil {
			return plan.PlanResult{}, err
		}
		page := content.Identified(texts[ask.Entry].Content, ask.Entry).WithFact(f.Key, ask.Value)
		if err := w.Set(ctx, ask.Entry, &page); err != nil {
			return plan.PlanResult{}, err
		}
		return a.RecordWith(ctx, tx, s, who, ask.Key, fmt.Sprintf("changed %q of %q", f.Label, trees.Next.Ref(i).Title), trees, trees.Next, w.SideEffects)
	})
}

func (a *Pages) setEntryFact(ctx context.Context, tx Tx, s plan.Site, who plan.Person, trees plan.Trees, ask FactAsk) (plan.PlanResult, error) {
	if !slices.ContainsFunc(entryFacts(), func(f sitemap.Field) bool { return f.Key == ask.Field }) {
		return plan.PlanResult{}, plan.ErrNotFound
	}
	next, err := trees.Next.Fill(ask.Field, map[string]string{ask.Entry: ask.Value}, sitemap.Known{})
	if err != nil {
		return plan.PlanResult{}, plan.Refuse(ask.Field, plan.SentenceOf(err))
	}
	f, _ := sitemap.FieldOf(ask.Field)
	return a.Record(ctx, tx, s, who, ask.Key, fmt.Sprintf("changed the %s of %q", f.Words, plan.TitleOf(next, ask.Entry)), trees, next)
}
