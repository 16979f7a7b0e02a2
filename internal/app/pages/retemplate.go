package pages

import (
	"context"
	"fmt"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// Retemplating is a page that is to have another template, or whose blocks that are kept
// aside are to be placed.
type Retemplating struct {
	Entry     sitemap.Entry
	Templates []content.Template
	From, To  content.Template
	Mark      string // of the text, as it is
	Slots     []SlotToPlace
	Effect    content.Effect // of the change, as the slots are paired
	Trees     plan.Trees
}

// SlotToPlace is a slot of the page that holds something.
type SlotToPlace struct {
	Key, Name, Begins string
	Blocks            int
	To                string // key of the slot into which they go; empty: kept aside
	Refused           int    // how many of them that slot does not take
	Aside             bool   // they are kept aside now
}

// RetemplateView tells where the blocks of a page go if it takes a template.
func (a *Pages) RetemplateView(ctx context.Context, who plan.Person, entry, to string) (v Retemplating, err error) {
	err = a.onPage(ctx, who, entry, func(tx Tx, _ plan.Site, trees plan.Trees, from content.Template) error {
		texts, err := plan.LatestTexts(ctx, tx, []string{entry})
		if err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		if err != nil {
			return err
		}
		text := texts[entry]
		v = Retemplating{Entry: trees.Next.At(trees.Next.Find(entry)), Templates: trees.Shapes.Next.Templates(), From: from, To: from, Mark: plan.MarkOf(text), Trees: trees}
		if i := slices.IndexFunc(v.Templates, func(t content.Template) bool { return t.Key == to }); i >= 0 {
			v.To = v.Templates[i]
		}
		page := content.Identified(text.Content, entry)
		pairs := content.MappingOf(v.From, v.To, page)
		for _, s := range slotsToPlace(v.From, v.To, page) {
			s.To = pairs[s.Key]
			s.Refused = v.To.Refused(s.To, page.Slots[s.Key])
			s.Begins = content.Shortened(content.PlainText(content.OneSlot(s.Key), content.Page{Slots: page.Slots}, a.Markup.Parse), 120)
			v.Slots = append(v.Slots, s)
		}
		has := func(id string) bool { _, ok := people[id]; return ok }
		v.Effect = content.EffectOn(v.From, v.To, content.Remapped(v.From, v.To, page, pairs), has)
		return nil
	})
	return v, err
}

// slotsToPlace lists what holds something: the slots of the template in its order, then what
// is kept aside.
func slotsToPlace(from, to content.Template, p content.Page) (out []SlotToPlace) {
	aside := p.Aside(from)
	add := func(key string) {
		if len(p.Slots[key]) > 0 && (from.Key != to.Key || slices.Contains(aside, key)) {
			out = append(out, SlotToPlace{Key: key, Name: from.SlotName(key), Blocks: len(p.Slots[key]), Aside: slices.Contains(aside, key)})
		}
	}
	for _, s := range from.Slots() {
		add(s.Key)
	}
	for _, key := range aside {
		add(key)
	}
	return out
}

// RetemplateAsk is the wish to give a page a template.
type RetemplateAsk struct {
	Key, Entry, To, Mark string
	Slots                content.Mapping
	Drop                 []string // slots kept aside whose blocks are removed
}

// Retemplate gives a page another template, or places what is kept aside, in one act.
func (a *Pages) Retemplate(ctx context.Context, who plan.Person, ask RetemplateAsk) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, ask.Key, ask.Entry, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		i := trees.Next.Find(ask.Entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		if err := a.OpenElsewhere(ctx, tx, who, trees.Next, ask.Entry); err != nil {
			return plan.PlanResult{}, err
		}
		templates := trees.Shapes.Next.Templates()
		at := slices.IndexFunc(templates, func(t content.Template) bool { return t.Key == ask.To })
		if at < 0 {
			return plan.PlanResult{}, plan.Refuse("to", "Choose a template.")
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{ask.Entry})
		if err != nil {
			return plan.PlanResult{}, err
		}
		if plan.MarkOf(texts[ask.Entry]) != ask.Mark {
			return plan.PlanResult{}, plan.Refuse("", "The text of the page has changed meanwhile. Check it again.")
		}
		from := trees.TemplateOf(ask.Entry)
		page := content.Identified(texts[ask.Entry].Content, ask.Entry)
		now := content.Remapped(from, templates[at], page, ask.Slots.Within(templates[at]))
		for _, key := range ask.Drop {
			delete(now.Slots, key)
		}
		next, err := trees.Next.Change(ask.Entry, func(e *sitemap.Entry) { e.Template = ask.To })
		if err != nil {
			return plan.PlanResult{}, err
		}
		w, err := a.Writer(ctx, tx, who, next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		if !content.Same(now, page) {
			if err := w.Set(ctx, ask.Entry, &now); err != nil {
				return plan.PlanResult{}, err
			}
		}
		label := fmt.Sprintf("gave %q the template %q", trees.Next.Ref(i).Title, templates[at].Name)
		if from.Key == ask.To {
			label = fmt.Sprintf("placed what was kept aside on %q", trees.Next.Ref(i).Title)
		}
		res, err := a.RecordWith(ctx, tx, s, who, ask.Key, label, trees, next, w.SideEffects)
		res.ID = ask.Entry
		return res, err
	})
}
