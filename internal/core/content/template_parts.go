package content

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/core/textdiff"
)

// A template is edited as a page whose one slot holds its parts, each a block of a kind of
// its own, with blocks inside where it shows some. So parts are added, moved, copied,
// compared and undone like everything else.

// The kinds of block that stand for parts of a template.
const (
	leadPart  BlockType = "part_lead"
	factsPart BlockType = "part_facts"
	slotPart  BlockType = "part_slot"
	fixedPart BlockType = "part_fixed"
)

// PartsSlot is the slot of the page that stands for a template. The fields of the template
// itself have these keys.
const (
	PartsSlot = "parts"
	nameField = "name"
	forField  = "for"
)

func partTypes() []BlockType { return []BlockType{leadPart, factsPart, slotPart, fixedPart} }

func partKinds() []blockKind {
	kept := Field{Key: "key", Label: "Key", Type: FieldKept}
	required := Field{Key: "required", Label: "Required", Type: FieldYes}
	help := Field{Key: "help", Label: "Help for editors", Type: FieldText}
	label := Field{Key: "label", Label: "Label", Type: FieldText, Required: true}
	side := Field{Key: "side", Label: "In the side column", Type: FieldYes}
	asked := "type=" + FieldChoice.Name() + "|" + FieldSeveral.Name()
	return []blockKind{
		{is: slotPart, name: "Slot", about: "where editors put blocks", inside: true, fields: []Field{
			{Key: "name", Label: "Name", Type: FieldText, Required: true, Help: "As editors see it."},
			{Key: "label", Label: "Heading on the page", Type: FieldText, Help: "Shown where the slot holds something; may be empty."},
			help,
			{Key: "takes", Label: "Kinds of block it takes", Type: FieldSeveral, Choices: kindNames(), Help: "None ticked: all of them."},
			{Key: "most", Label: "At most … blocks", Type: FieldNumber, Min: 1, Max: 200},
			required, side, kept,
		}},
		{is: fixedPart, name: "Fixed part", about: "the same on every page of the template", inside: true, fields: []Field{side}},
		{is: factsPart, name: "Facts", about: "typed facts of the page, in a row", fields: []Field{side}, item: "fact", items: []Field{
			label,
			{Key: "type", Label: "What it holds", Type: FieldChoice, Choices: typeNames(), Usual: FieldText.Name()},
			{Key: "choices", Label: "Choices, a line each", Type: FieldLong, If: asked},
			{Key: "unit", Label: "Unit", Type: FieldText, If: "type=" + FieldNumber.Name()},
			{Key: "default", Label: "A new page begins with", Type: FieldText},
			help, required, kept,
		}},
		{is: leadPart, name: "Summary", about: "a sentence under the title", fields: []Field{label, help, required, kept}},
	}
}

func kindNames() (out []string) {
	for _, k := range blockKinds() {
		out = append(out, k.name)
	}
	return out
}

func typeNames() (out []string) {
	for _, t := range FactTypes() {
		out = append(out, t.Name())
	}
	return out
}

// PartTypes lists the kinds of block that stand for parts of a template.
func PartTypes() []BlockType { return partTypes() }

// PartKinds tells the kinds of part as the editor is told of kinds of block.
func PartKinds() (out []Kind) {
	for _, k := range partKinds() {
		out = append(out, Kind{Type: k.is, Name: k.name, About: k.about, Fields: k.fields, Items: k.items, Item: k.item, Inside: k.inside})
	}
	return out
}

// TemplateFields are what the template itself says, as fields of the page that stands for it.
func TemplateFields() []Field {
	return []Field{
		{Key: nameField, Label: "Name", Type: FieldText, Required: true},
		{Key: forField, Label: "What it is for", Type: FieldText, Help: "Editors read it where they choose a template."},
	}
}

// AsPage gives the page that stands for a template while it is edited.
func (t Template) AsPage() Page {
	p := Page{Fields: map[string]string{nameField: t.Name, forField: t.For}, Slots: map[string][]Block{PartsSlot: {}}}
	for i, part := range t.Parts {
		b := part.asBlock()
		b.ID = cmp.Or(part.ID, "part-"+strconv.Itoa(i+1))
		p.Slots[PartsSlot] = append(p.Slots[PartsSlot], b)
	}
	return Identified(p, t.Key)
}

// ChangedTemplate tells how a template differs from what it was: its name and what it is for,
// its parts, and all of it as it is written.
func ChangedTemplate(before, after Template) (fields []FieldChange, parts []BlockChange, whole []textdiff.Run) {
	for _, f := range []struct{ label, was, is string }{{"Name", before.Name, after.Name}, {"For", before.For, after.For}} {
		if f.was != f.is {
			fields = append(fields, FieldChange{Label: f.label, Runs: textdiff.Compare(f.was, f.is)})
		}
	}
	was, is := before.AsPage(), after.AsPage()
	slot := OneSlot(PartsSlot)
	return fields, Changes(was, is), textdiff.Compare(Written(slot, was), Written(slot, is))
}

func (p Part) asBlock() Block {
	set := Values{}
	put := func(key, v string) {
		if v != "" {
			set[key] = v
		}
	}
	yes := func(key string, on bool) {
		if on {
			set[key] = Yes
		}
	}
	yes("side", p.Side)
	b := Block{Set: set}
	switch p.Kind {
	case Lead:
		b.Type = leadPart
		for _, f := range p.Fields {
			put("label", f.Label)
			put("help", f.Help)
			put("key", f.Key)
			yes("required", f.Required)
		}
	case Facts:
		b.Type = factsPart
		for _, f := range p.Fields {
			b.Items = append(b.Items, f.asItem())
		}
	case Slot:
		b.Type = slotPart
		put("name", p.Called())
		put("label", p.Label)
		put("help", p.Help)
		put("key", p.Key)
		yes("required", p.Required)
		var takes []string
		for _, k := range p.Takes {
			takes = append(takes, k.Name())
		}
		put("takes", strings.Join(takes, "\n"))
		if p.Most > 0 {
			set["most"] = strconv.Itoa(p.Most)
		}
		b.Columns = [][]Block{slices.Clone(p.Content)}
	case Fixed:
		b.Type = fixedPart
		b.Columns = [][]Block{slices.Clone(p.Content)}
	}
	return b
}

func (f Field) asItem() Values {
	v := Values{"label": f.Label, "type": f.Type.Name(), "choices": strings.Join(f.Choices, "\n"), "unit": f.Unit, "default": f.Default, "help": f.Help, "key": f.Key}
	if f.Required {
		v["required"] = Yes
	}
	for key, value := range v {
		if value == "" || key == "type" && f.Type == FieldText {
			delete(v, key)
		}
	}
	return v
}

// FromPage reads the template that a page stands for; key and order are those of the
// template as it was.
func FromPage(p Page, key string, order int) Template {
	t := Template{Key: key, Order: order, Name: p.Fields[nameField], For: p.Fields[forField]}
	for _, b := range Identified(p, key).Slots[PartsSlot] {
		t.Parts = append(t.Parts, partOf(b))
	}
	return t
}

func partOf(b Block) Part {
	p := Part{ID: b.ID, Side: b.Set["side"] == Yes}
	field := Field{Key: b.Set["key"], Label: b.Set["label"], Help: b.Set["help"], Required: b.Set["required"] == Yes, Type: FieldText}
	if len(b.Columns) > 0 {
		p.Content = b.Columns[0]
	}
	switch b.Type {
	case leadPart:
		p.Kind, p.Fields = Lead, []Field{field}
	case factsPart:
		p.Kind = Facts
		for _, it := range b.Items {
			p.Fields = append(p.Fields, factOf(it))
		}
	case slotPart:
		p.Kind = Slot
		p.Key, p.Name, p.Label, p.Help, p.Required = b.Set["key"], b.Set["name"], b.Set["label"], b.Set["help"], b.Set["required"] == Yes
		p.Most, _ = strconv.Atoi(b.Set["most"]) // what is no number was not kept
		for name := range strings.SplitSeq(b.Set["takes"], "\n") {
			if i := slices.Index(kindNames(), name); i >= 0 {
				p.Takes = append(p.Takes, BlockTypes()[i])
			}
		}
	case fixedPart:
		p.Kind = Fixed
	}
	return p
}

func factOf(it Values) Field {
	f := Field{Key: it["key"], Label: it["label"], Unit: it["unit"], Default: it["default"], Help: it["help"], Required: it["required"] == Yes, Type: FieldText}
	if i := slices.Index(typeNames(), it["type"]); i >= 0 {
		f.Type = FactTypes()[i]
	}
	for line := range strings.SplitSeq(it["choices"], "\n") {
		if line = tidy(line); line != "" {
			f.Choices = append(f.Choices, line)
		}
	}
	return f
}
