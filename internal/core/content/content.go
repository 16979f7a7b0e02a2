// Package content is what stands on a page: fields and slots filled with
// blocks, inside the fixed parts of a template.
//
// A template is a list of parts in reading order. Fixed parts are the
// template's own; facts are a row of typed fields; a slot takes blocks. Text is
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

// PartKind is what a part of a template is.
type PartKind string

// The part kinds.
const (
	Lead  PartKind = "lead"  // one text field, shown under the title
	Facts PartKind = "facts" // a row of fields
	Slot  PartKind = "slot"  // blocks of the author's
	Fixed PartKind = "fixed" // the template's own text, CommonMark
)

// Part is one part of a template, in reading order.
type Part struct {
	Kind     PartKind    `json:"kind"`
	Key      string      `json:"key,omitempty"`
	Label    string      `json:"label,omitempty"` // slot: its heading on the page, if any
	Text     string      `json:"text,omitempty"`
	Fields   []Field     `json:"fields,omitempty"`
	Blocks   []BlockType `json:"blocks,omitempty"` // slot: what it takes; empty: anything
	Required bool        `json:"required,omitempty"`
	Help     string      `json:"help,omitempty"`
}

// Template is a page layout.
type Template struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	For   string `json:"for"` // a line on what it is for
	Parts []Part `json:"parts"`
}

// Fields lists all fields of the template in reading order.
func (t Template) Fields() []Field {
	var out []Field
	for _, p := range t.Parts {
		out = append(out, p.Fields...)
	}
	return out
}

// Slots lists the slots of the template in reading order.
func (t Template) Slots() []Part {
	var out []Part
	for _, p := range t.Parts {
		if p.Kind == Slot {
			out = append(out, p)
		}
	}
	return out
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
	Template string    `json:"template"` // it was held against
	Problems []Problem `json:"problems,omitempty"`
	Empty    bool      `json:"empty,omitempty"` // no slot shows anything
}

// NewReport holds a page against its template.
func NewReport(t Template, p Page, people func(id string) bool) Report {
	r := Report{Template: t.Key, Problems: Problems(t, p, people), Empty: true}
	for _, s := range t.Slots() {
		r.Empty = r.Empty && !p.filled(s.Key)
	}
	return r
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
			out = append(out, Problem{s.Key, "", RequiredSlot, fmt.Sprintf("the slot %q is empty", s.Name())})
		}
		for _, top := range p.Slots[s.Key] {
			top.each(func(b Block) {
				for _, text := range unfinished(b) {
					out = append(out, Problem{s.Key, b.ID, Unfinished, text})
				}
			})
		}
	}
	return out
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

// Name is what people call a slot.
func (p Part) Name() string {
	if p.Label != "" {
		return p.Label
	}
	return "Main text"
}

// accepts tells whether a fact may hold a value. people are the ids of a person.
func (f Field) accepts(v string, people func(string) bool) bool {
	if f.Type == FieldPerson {
		return people(v)
	}
	return typeOf(f.Type).fits(f, v)
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
