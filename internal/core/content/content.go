// Package content is what stands on a page: fields and slots filled with
// blocks, inside the fixed parts of a template.
//
// A template is a list of parts in reading order. Fixed parts are the
// template's own; facts are a row of typed fields; a slot takes blocks. Fields and slots
// keep their keys when they are named anew, so what pages hold follows. Text is
// CommonMark with tables; a link to a page of the site is written page:ID and
// so survives every move. Package markup parses text into the Doc of this
// package; links, headings and words are taken from that tree and nothing else.
package content

import (
	"fmt"
	"slices"
	"strings"
)

// Page is the content of one page.
type Page struct {
	Fields map[string]string  `json:"fields"`
	Slots  map[string][]Block `json:"slots"`
}

// Problem is something that a page must not go out with.
type Problem struct {
	Part  string      `json:"part"`            // key of the field or slot
	Block string      `json:"block,omitempty"` // in the slot
	What  ProblemKind `json:"what"`
	Text  string      `json:"text"` // a clause
}

// Report is what checks need of a page. It is kept with every saved version, so
// that checking an edition reads no content.
type Report struct {
	Template string    `json:"template"`       // it was held against
	Form     string    `json:"form,omitempty"` // of the template, as it was then
	Problems []Problem `json:"problems,omitempty"`
	Empty    bool      `json:"empty,omitempty"` // no slot shows anything
	Lists    []Block   `json:"lists,omitempty"` // blocks that lead to pages which they find
	News     string    `json:"news,omitempty"`  // the day on which it goes out as news
}

// NewReport holds a page against its template.
func NewReport(t Template, p Page, people func(id string) bool) Report {
	return NewReportBy(t, t.Form(), p, people)
}

// NewReportBy is NewReport for many pages of a template, whose form is known.
func NewReportBy(t Template, form string, p Page, people func(id string) bool) Report {
	r := Report{News: NewsDay(p), Template: t.Key, Form: form, Problems: Problems(t, p, people), Empty: true}
	for _, s := range t.Slots() {
		r.Empty = r.Empty && !p.filled(s.Key)
	}
	for _, b := range Blocks(t, p) {
		if b.leads() {
			r.Lists = append(r.Lists, Block{Type: b.Type, Set: b.Set})
		}
	}
	return r
}

// Fits tells whether a version that has the report was laid out as a template lays it out.
// Of versions of long ago only the name of the template is known: they fit unless it changes
// now.
func (r Report) Fits(t Template, form string, changes bool) bool {
	return r.Template == t.Key && (r.Form == form || r.Form == "" && !changes)
}

// leads tells whether a block is a lasting way to the pages that it finds by itself. The
// newest and the most asked for are others tomorrow, and what a reader opened last is
// another for each.
func (b Block) leads() bool {
	from := b.Get("from")
	return b.Type == Below || b.Type == TopicList || b.Type == Tiles && (from == FromBelow || from == FromTopic)
}

// filled tells whether a slot shows anything.
func (p Page) filled(slot string) bool {
	return slices.ContainsFunc(p.Slots[slot], func(b Block) bool { return !b.IsEmpty() })
}

// ProblemKind names the rule that a page breaks.
type ProblemKind string

// The kinds of problem.
const (
	RequiredField ProblemKind = "required-field"
	RequiredSlot  ProblemKind = "required-slot"
	BadValue      ProblemKind = "bad-value"
	Unfinished    ProblemKind = "unfinished-block" // no reason not to publish
	TooMany       ProblemKind = "too-many-blocks"  // nor this
	KeptAside     ProblemKind = "kept-aside"       // nor this: no slot of the template shows it
)

// Problems holds a page against its template. people are the ids that a person
// field may hold.
func Problems(t Template, p Page, people func(id string) bool) []Problem {
	var out []Problem
	for _, f := range t.Fields() {
		v := strings.TrimSpace(p.Fields[f.Key])
		switch {
		case v == "" && f.Required:
			out = append(out, Problem{f.Key, "", RequiredField, fmt.Sprintf("the field %q is empty", f.Label)})
		case v != "" && !f.accepts(v, people):
			out = append(out, Problem{f.Key, "", BadValue, fmt.Sprintf("the field %q cannot hold %q", f.Label, v)})
		}
	}
	for _, s := range t.Slots() {
		if s.Required && !p.filled(s.Key) {
			out = append(out, Problem{s.Key, "", RequiredSlot, fmt.Sprintf("the slot %q is empty", s.Called())})
		}
		if n := len(p.Slots[s.Key]); s.Most > 0 && n > s.Most {
			out = append(out, Problem{s.Key, "", TooMany, fmt.Sprintf("the slot %q holds %d blocks and takes at most %d", s.Called(), n, s.Most)})
		}
		for _, top := range p.Slots[s.Key] {
			top.each(func(b Block) {
				for _, text := range append(unfinished(b), costlyTexts(b)...) {
					out = append(out, Problem{s.Key, b.ID, Unfinished, text})
				}
			})
		}
	}
	for _, key := range p.Aside(t) {
		out = append(out, Problem{key, "", KeptAside, fmt.Sprintf("%s of the slot %q, which the template does not have, is kept aside; put it into a slot or remove it", counted(len(p.Slots[key]), "block", "blocks"), key)})
	}
	return out
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// unfinished tells what is missing in a block that shows something: words for a picture,
// and what an item needs.
func unfinished(b Block) (out []string) {
	k := kindOf(b.Type)
	if k == nil || b.IsEmpty() {
		return nil
	}
	missing := func(fields []Field, v Values, name string) {
		for _, f := range fields {
			switch {
			case v[f.Key] != "" || !f.asked(fields, v):
			case f.Key == shows.Key && v[picture.Key] != "":
				out = append(out, fmt.Sprintf("%s does not say what it shows, for those who cannot see it", name))
			case f.Required && name != k.name:
				out = append(out, fmt.Sprintf("%s has nothing for %q", name, f.Label))
			}
		}
	}
	missing(k.fields, b.values(), k.name)
	if from := b.Get("from"); from != "" && from != OwnTiles {
		return out
	}
	for i, it := range b.Items {
		missing(k.items, it, fmt.Sprintf("%s %d", k.item, i+1))
	}
	return out
}

// costlyTexts tells which texts of a block are shown as they were written, since they cannot be parsed.
func costlyTexts(b Block) (out []string) {
	k := kindOf(b.Type)
	if k == nil {
		return nil
	}
	k.eachValue(b, func(f Field, v string, _ Values) {
		if f.Type == FieldProse {
			if c := TooCostly(v); c != nil {
				out = append(out, fmt.Sprintf("%s is shown as plain text: %s; split it into shorter paragraphs", k.name, c.Error()))
			}
		}
	})
	return out
}

// accepts tells whether a fact may hold a value. people are the ids of a person.
func (f Field) accepts(v string, people func(string) bool) bool {
	if f.Type == FieldPerson {
		return people(v)
	}
	return typeOf(f.Type).fits(f, v)
}

// Check tells whether a fact may hold a value, in a sentence if it may not. people are the
// ids of a person.
func (f Field) Check(v string, people func(string) bool) error {
	switch {
	case v == "" || f.accepts(v, people):
		return nil
	case f.Type == FieldDate:
		return fmt.Errorf("%q is no date; write it like 2026-11-30", v)
	case f.Type == FieldNumber:
		return fmt.Errorf("%q is no number", v)
	}
	return fmt.Errorf("%q cannot hold %q", f.Label, v)
}

// WithFact gives a page with another value of a fact.
func (p Page) WithFact(key, v string) Page {
	out := copied(p)
	if out.Fields[key] = v; v == "" {
		delete(out.Fields, key)
	}
	return out
}

// Clean drops what a template or a block type does not know, so that a stored
// page holds only what can be shown; slots and fields of other templates stay.
func Clean(p Page) Page {
	out := Page{Fields: map[string]string{}, Slots: map[string][]Block{}}
	for k, v := range p.Fields {
		if v = strings.TrimSpace(v); v != "" {
			out.Fields[k] = v
		}
	}
	for k, blocks := range p.Slots {
		if clean := cleanedBlocks(blocks); clean != nil {
			out.Slots[k] = clean
		}
	}
	return out
}
