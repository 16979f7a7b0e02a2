package content

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"candlepath/internal/core/address"
)

// PartKind is what a part of a template is.
type PartKind string

// The part kinds.
const (
	Lead  PartKind = "lead"  // one text field, shown under the title
	Facts PartKind = "facts" // a row of fields
	Slot  PartKind = "slot"  // blocks of the author's
	Fixed PartKind = "fixed" // the template's own blocks
)

// Part is one part of a template, in reading order.
type Part struct {
	ID       string      `json:"id,omitempty"` // stays with the part
	Kind     PartKind    `json:"kind"`
	Key      string      `json:"key,omitempty"`     // slot: under which pages keep what they put in
	Name     string      `json:"name,omitempty"`    // slot: as editors see it
	Label    string      `json:"label,omitempty"`   // slot: its heading on the page, if any
	Content  []Block     `json:"content,omitempty"` // fixed: what it shows; slot: what a new page begins with
	Fields   []Field     `json:"fields,omitempty"`  // lead, facts
	Takes    []BlockType `json:"takes,omitempty"`   // slot: the kinds that it takes; empty: all
	Most     int         `json:"most,omitempty"`    // slot: blocks that it takes; 0: any number
	Side     bool        `json:"side,omitempty"`    // it stands in the side column
	Required bool        `json:"required,omitempty"`
	Help     string      `json:"help,omitempty"`
}

// Template is a page layout.
type Template struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	For   string `json:"for"`             // a line on what it is for
	Order int    `json:"order,omitempty"` // in which it is offered
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

// FixedLinks gives where the fixed parts of the template lead: every page of it leads
// there, too.
func (t Template) FixedLinks(parse Parse) []FoundLink {
	return Links(OneSlot(fixedSlot), t.fixedAsPage(), parse)
}

// Leads gives the ids of the pages to which texts and tiles of the template lead, sorted.
func (t Template) Leads() (out []string) {
	t.Rewritten(func(link string) string {
		if id, ok := (FoundLink{To: link}).Entry(); ok {
			out = append(out, id)
		}
		return link
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// FixedFiles gives the files and pictures that the template shows by itself.
func (t Template) FixedFiles() []string { return FilesOf(t.fixedAsPage()) }

// Files gives all files and pictures that the template names, also for new pages.
func (t Template) Files() []string { return FilesOf(t.AsPage()) }

const fixedSlot = "fixed"

func (t Template) fixedAsPage() Page {
	p := Page{Slots: map[string][]Block{}}
	for _, part := range t.Parts {
		if part.Kind == Fixed {
			p.Slots[fixedSlot] = append(p.Slots[fixedSlot], part.Content...)
		}
	}
	return p
}

// Rewritten gives the template with its links to pages as to makes them.
func (t Template) Rewritten(to func(link string) string) Template {
	t.Parts = slices.Clone(t.Parts)
	for i := range t.Parts {
		t.Parts[i].Content = mappedBlocks(t.Parts[i].Content, func(k *blockKind, b Block) Block { return k.rewrite(b, to) })
	}
	return t
}

// AskTheSame tells whether two templates ask for the same facts and have the same slots, whatever
// stands around them: what is found in the text of a page is the same by both.
func AskTheSame(a, b Template) bool {
	slot := func(x, y Part) bool { return x.Key == y.Key }
	return slices.EqualFunc(a.Slots(), b.Slots(), slot) && reflect.DeepEqual(a.Fields(), b.Fields())
}

// Form names how the template lays out a page: two that do it alike have the same.
func (t Template) Form() string {
	b, err := json.Marshal(t.Parts)
	if err != nil {
		panic(err) // strings, numbers and maps of them
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:8])
}

// SortTemplates brings templates into the order in which they are offered.
func SortTemplates(list []Template) {
	slices.SortFunc(list, func(a, b Template) int {
		return cmp.Or(cmp.Compare(a.Order, b.Order), strings.Compare(a.Name, b.Name), strings.Compare(a.Key, b.Key))
	})
}

// Called is what people call a slot.
func (p Part) Called() string { return cmp.Or(p.Name, p.Label, "Main text") }

// TakesAll tells whether a slot takes every kind of block.
func (p Part) TakesAll() bool { return len(p.Takes) == 0 }

// Accepts tells whether a slot takes a kind of block.
func (p Part) Accepts(b BlockType) bool { return p.TakesAll() || slices.Contains(p.Takes, b) }

// Begin is what a new page of the template begins with; entry is the page.
func (t Template) Begin(entry string) Page {
	p := Page{Fields: map[string]string{}, Slots: map[string][]Block{}}
	for _, f := range t.Fields() {
		if f.Default != "" {
			p.Fields[f.Key] = f.Default
		}
	}
	for _, s := range t.Slots() {
		p.Slots[s.Key] = copies(s.Content)
	}
	return Identified(p, entry)
}

// copies gives blocks anew: without ids of their own, and with what they are copies of.
func copies(blocks []Block) []Block {
	out := slices.Clone(blocks)
	for i, b := range out {
		out[i].ID, out[i].From = "", b.ID
		if len(b.Columns) > 0 {
			out[i].Columns = make([][]Block, len(b.Columns))
		}
		for c, col := range b.Columns {
			out[i].Columns[c] = copies(col)
		}
	}
	return out
}

// Aside gives the keys of the slots of a page that the template does not have, and that
// hold something. Nothing shows it, and nothing is lost.
func (p Page) Aside(t Template) (keys []string) {
	for _, key := range sortedKeys(p.Slots) {
		if !t.HasSlot(key) && p.filled(key) {
			keys = append(keys, key)
		}
	}
	return keys
}

// --- what is wrong with a template ---

// Fault is something for which a template cannot be kept as it is.
type Fault struct {
	Part string `json:"part"` // its id; empty: the template as a whole
	Text string `json:"text"`
}

const (
	longestName = 80 // characters
	mostParts   = 40
	mostFields  = 40
)

// CleanTemplate gives a template as it can be kept: with a key for everything that pages
// keep, and without what a part of its kind does not know. What stands in the way is told.
func CleanTemplate(t Template) (Template, []Fault) {
	t.Name, t.For = tidy(t.Name), tidy(t.For)
	c := templateCleaner{slots: map[string]bool{}, fields: map[string]bool{}, names: map[string]bool{}, labels: map[string]bool{}}
	c.called("", "The template", t.Name)
	if utf8.RuneCountInString(t.For) > 300 {
		c.fault("", "The line on what the template is for is longer than 300 characters. Shorten it.")
	}
	parts := make([]Part, 0, len(t.Parts))
	for i, p := range t.Parts {
		p.ID = cmp.Or(cleanID(p.ID), fmt.Sprintf("part-%d", i+1))
		parts = append(parts, c.part(p))
	}
	t.Parts = parts
	switch {
	case len(parts) > mostParts:
		c.fault("", fmt.Sprintf("A template has at most %d parts.", mostParts))
	case c.lead > 1:
		c.fault("", "The template has two summaries. Keep one.")
	case len(c.names) == 0:
		c.fault("", "The template has no slot, so nobody could write anything. Add one.")
	}
	return t, c.faults
}

type templateCleaner struct {
	faults                       []Fault
	slots, fields, names, labels map[string]bool
	lead                         int
}

func (c *templateCleaner) fault(part, text string) { c.faults = append(c.faults, Fault{part, text}) }

func (c *templateCleaner) called(part, what, name string) {
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		c.fault(part, what+" has no name. Give it one.")
	case n > longestName:
		c.fault(part, fmt.Sprintf("%s has a name of %d characters. Keep it under %d.", what, n, longestName+1))
	}
}

func (c *templateCleaner) part(p Part) Part {
	out := Part{ID: p.ID, Kind: p.Kind, Side: p.Side}
	switch p.Kind {
	case Lead:
		c.lead++
		for _, f := range p.Fields[:min(len(p.Fields), 1)] {
			f.Type = FieldText
			out.Fields = append(out.Fields, c.field(p, f))
		}
		if len(out.Fields) == 0 {
			c.fault(p.ID, "The summary has no label. Give it one.")
		}
		out.Side = false
	case Facts:
		for _, f := range p.Fields {
			out.Fields = append(out.Fields, c.field(p, f))
		}
		if n := len(out.Fields); n == 0 || n > mostFields {
			c.fault(p.ID, fmt.Sprintf("These facts have %s. Give them between one and %d.", counted(n, "field", "fields"), mostFields))
		}
	case Slot:
		return c.slot(p, out)
	case Fixed:
		out.Content = cleanedBlocks(p.Content)
		if !slices.ContainsFunc(out.Content, func(b Block) bool { return !b.IsEmpty() }) {
			c.fault(p.ID, "This fixed part shows nothing. Write something, or remove it.")
		}
	default:
		c.fault(p.ID, fmt.Sprintf("There is no kind of part called %q.", p.Kind))
	}
	return out
}

func (c *templateCleaner) slot(p, out Part) Part {
	out.Name, out.Label, out.Help = tidy(p.Name), tidy(p.Label), tidy(p.Help)
	out.Required, out.Content, out.Most = p.Required, cleanedBlocks(p.Content), max(p.Most, 0)
	for _, k := range p.Takes {
		if slices.Contains(BlockTypes(), k) && !slices.Contains(out.Takes, k) {
			out.Takes = append(out.Takes, k)
		}
	}
	name := out.Called()
	c.called(p.ID, "A slot", name)
	if utf8.RuneCountInString(out.Label) > longestName {
		c.fault(p.ID, fmt.Sprintf("The heading of the slot %q is longer than %d characters.", Shortened(name, 40), longestName))
	}
	if c.names[strings.ToLower(name)] {
		c.fault(p.ID, fmt.Sprintf("Two slots are called %q. Name one of them differently, so that editors can tell them apart.", name))
	}
	c.names[strings.ToLower(name)] = true
	out.Key = freshKey(c.slots, p.Key, name)
	if out.Most > 0 && len(out.Content) > out.Most {
		c.fault(p.ID, fmt.Sprintf("The slot %q takes at most %s and begins with %d.", name, counted(out.Most, "block", "blocks"), len(out.Content)))
	}
	for _, b := range out.Content {
		if !out.Accepts(b.Type) {
			c.fault(p.ID, fmt.Sprintf("The slot %q begins with a block of the kind %q, which it does not take.", name, b.Type.Name()))
		}
	}
	return out
}

func (c *templateCleaner) field(p Part, f Field) Field {
	out := Field{Key: f.Key, Label: tidy(f.Label), Type: f.Type, Required: f.Required, Help: tidy(f.Help), Default: strings.TrimSpace(f.Default)}
	what := "A fact"
	if p.Kind == Lead {
		what = "The summary"
	}
	c.called(p.ID, what, out.Label)
	if !slices.Contains(FactTypes(), f.Type) {
		c.fault(p.ID, fmt.Sprintf("A fact cannot be of the type %q.", f.Type))
	}
	if c.labels[strings.ToLower(out.Label)] && out.Label != "" {
		c.fault(p.ID, fmt.Sprintf("Two facts are called %q. Name one of them differently.", out.Label))
	}
	c.labels[strings.ToLower(out.Label)] = true
	out.Key = freshKey(c.fields, f.Key, out.Label)
	switch f.Type {
	case FieldNumber:
		out.Unit = tidy(f.Unit)
	case FieldChoice, FieldSeveral:
		for _, choice := range f.Choices {
			if choice = tidy(choice); choice != "" && !slices.Contains(out.Choices, choice) {
				out.Choices = append(out.Choices, choice)
			}
		}
		if len(out.Choices) == 0 {
			c.fault(p.ID, fmt.Sprintf("The fact %q has nothing to choose from. List its choices, a line each.", out.Label))
		}
	}
	if out.Default != "" && f.Type != FieldPerson && !typeOf(f.Type).fits(out, out.Default) {
		c.fault(p.ID, fmt.Sprintf("The fact %q cannot begin with %q.", out.Label, Shortened(out.Default, 40)))
	}
	return out
}

// freshKey gives the key that something has already, or one of its name that nothing has.
func freshKey(taken map[string]bool, key, name string) string {
	if key = cleanID(key); key == "" {
		key = address.Slug(name)
	}
	out := key
	for n := 2; taken[out]; n++ {
		out = key + "-" + strconv.Itoa(n)
	}
	taken[out] = true
	return out
}

func tidy(s string) string { return strings.Join(strings.Fields(strings.ToValidUTF8(s, "")), " ") }

// TemplateOf gives the template that is named; the first one where none is of that name.
func TemplateOf(list []Template, key string) Template {
	if i := slices.IndexFunc(list, func(t Template) bool { return t.Key == key }); i >= 0 {
		return list[i]
	}
	if len(list) > 0 {
		return list[0]
	}
	return Template{Key: "plain", Name: "Plain", Parts: []Part{{Kind: Slot, Key: "main"}}}
}
