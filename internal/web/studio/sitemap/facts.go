package sitemap

import (
	"cmp"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
)

// factView is one field of an entry in the form beside.
type factView struct {
	Key, Label, Help, Value, Hint string
	Input                         sitemap.Input
	Most                          int
	Options                       []part.Option
	Page                          string // of a reference: the title of the page that it refers to
	FindsPage, Fixed              bool
	Chips                         []string // of several names: those that can be chosen
}

// choices are what fields are chosen from, by key.
func choices(t *sitemap.Tree, people []plan.Person, templates []content.Template) map[string][]part.Option {
	by := map[string][]part.Option{
		"listed": {{Value: "yes", Label: "listed"}, {Value: "no", Label: "not listed"}},
		"owner":  {{Value: "", Label: "nobody"}},
	}
	for _, k := range sitemap.Kinds() {
		by["kind"] = append(by["kind"], part.Option{Value: string(k), Label: k.Label()})
	}
	for _, t := range templates {
		by["template"] = append(by["template"], part.Option{Value: t.Key, Label: t.Name})
	}
	for _, p := range people {
		by["owner"] = append(by["owner"], part.Option{Value: p.Name, Label: p.Name})
	}
	by["readership"] = part.ReaderOptions(people)
	for _, topic := range t.Topics() {
		by["topics"] = append(by["topics"], part.Option{Value: topic, Label: topic})
	}
	return by
}

// factsOf are the fields of one entry.
func factsOf(t *sitemap.Tree, i int, from map[string][]part.Option) []factView {
	e := t.Ref(i)
	var out []factView
	for _, f := range sitemap.Fields() {
		if f.Key == "title" || !f.Has(e) { // the title is the heading
			continue
		}
		v := newFact(f)
		v.Value, v.Fixed = f.Get(e), f.Key == "slug" && e.Fixed != ""
		v.pick(f, from)
		if f.Key == "target" && e.Kind == sitemap.Reference {
			v.Label, v.FindsPage, v.Page = "Refers to", true, part.TitleIn(e.Target, t)
		}
		out = append(out, v)
	}
	return out
}

// factsOfMany are the fields that several entries can be given at once.
func factsOfMany(from map[string][]part.Option) []factView {
	var out []factView
	for _, f := range sitemap.Fields() {
		if f.Key == "title" || f.Input == sitemap.Address {
			continue // each has its own
		}
		v := newFact(f)
		v.Hint = "no change"
		if v.pick(f, from); v.Options != nil {
			v.Options = append([]part.Option{{Label: v.Hint, Chosen: true, Disabled: true}}, from[f.Key]...)
		}
		out = append(out, v)
	}
	return out
}

// pick gives a field what it is chosen from.
func (v *factView) pick(f sitemap.Field, from map[string][]part.Option) {
	if f.Input != sitemap.Many && f.Input != sitemap.Readers {
		v.Options = part.Choose(from[f.Key], v.Value)
		return
	}
	v.Chips = []string{}
	for _, o := range from[f.Key] {
		v.Chips = append(v.Chips, o.Value)
	}
}

func newFact(f sitemap.Field) factView {
	v := factView{Key: f.Key, Label: f.Label, Help: f.Help, Input: f.Input, Most: cmp.Or(f.Most, part.UsualMost)}
	if f.Input == sitemap.Readers {
		v.Hint = "everybody"
	}
	return v
}
