package content

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// FieldType is what a field holds: a fact of a page, or a setting of a block.
type FieldType string

// The field types.
const (
	FieldText    FieldType = "text"    // one line
	FieldLong    FieldType = "long"    // several lines
	FieldProse   FieldType = "prose"   // CommonMark
	FieldNumber  FieldType = "number"  // perhaps with a unit
	FieldDate    FieldType = "date"    // 2026-11-24
	FieldPerson  FieldType = "person"  // an id
	FieldGroup   FieldType = "group"   // a name
	FieldChoice  FieldType = "choice"  // one of Choices
	FieldSeveral FieldType = "several" // some of Choices, a line each
	FieldYes     FieldType = "yes"     // Yes or nothing
	FieldLink    FieldType = "link"    // page:ID, an address of the site, or a URL
	FieldPage    FieldType = "page"    // page:ID; what is shown follows it, and it is no way in
	FieldTopic   FieldType = "topic"
	FieldSymbol  FieldType = "symbol"  // one of Symbols
	FieldPicture FieldType = "picture" // the address of a picture that the site keeps
	FieldSpot    FieldType = "spot"    // of the picture beside it, one of Choices
	FieldFile    FieldType = "file"    // the address of a file that the site keeps
	FieldMenu    FieldType = "menu"    // key of a menu
	FieldKept    FieldType = "kept"    // kept as it is; nobody is asked
)

// Yes is the value of a yes/no field that says yes.
const Yes = "yes"

// Field is a typed fact that authors fill in, or a setting of a block.
type Field struct {
	Key      string    `json:"key"`
	Label    string    `json:"label"`
	Type     FieldType `json:"type"`
	Choices  []string  `json:"choices,omitempty"`
	Usual    string    `json:"usual,omitempty"`   // of a block: where nothing was chosen
	Default  string    `json:"default,omitempty"` // of a fact: what a new page begins with
	Unit     string    `json:"unit,omitempty"`    // of a number
	Min      int       `json:"min,omitempty"`     // of a number in a block
	Max      int       `json:"max,omitempty"`
	Required bool      `json:"required,omitempty"`
	Help     string    `json:"help,omitempty"`
	If       string    `json:"if,omitempty"` // when it is asked for; see asked
}

// fieldType is what there is to know of one type of field.
type fieldType struct {
	is    FieldType
	name  string
	words bool // its value is read by people
	links bool // it may lead to a page of the site
	fits  func(f Field, v string) bool
}

func anything(Field, string) bool { return true }

var (
	pageValue = regexp.MustCompile(`^` + regexp.QuoteMeta(Scheme) + `[0-9A-Za-z-]{1,64}$`)
	keptFile  = regexp.MustCompile(`^/files/[0-9a-f]{32}/[a-z0-9.-]+$`)
)

// fieldTypes is the table of types, in the order in which they are offered.
func fieldTypes() []fieldType {
	return []fieldType{
		{FieldText, "Text", true, false, anything},
		{FieldLong, "Long text", true, false, anything},
		{FieldProse, "Formatted text", true, true, anything},
		{FieldNumber, "Number", true, false, func(f Field, v string) bool {
			n, err := strconv.ParseFloat(v, 64)
			return err == nil && (f.Max == 0 || n >= float64(f.Min) && n <= float64(f.Max))
		}},
		{FieldDate, "Date", false, false, func(_ Field, v string) bool { _, err := time.Parse(time.DateOnly, v); return err == nil }},
		{FieldPerson, "Person", false, false, anything},
		{FieldGroup, "Group", true, false, anything},
		{FieldChoice, "Choice", true, false, func(f Field, v string) bool { return slices.Contains(f.Choices, v) }},
		{FieldSeveral, "Several of a list", true, false, func(f Field, v string) bool {
			for one := range strings.SplitSeq(v, "\n") {
				if !slices.Contains(f.Choices, one) {
					return false
				}
			}
			return true
		}},
		{FieldYes, "Yes or no", false, false, func(_ Field, v string) bool { return v == Yes }},
		{FieldLink, "Link", false, true, anything},
		{FieldPage, "Page", false, true, func(_ Field, v string) bool { return pageValue.MatchString(v) }},
		{FieldTopic, "Topic", false, false, anything},
		{FieldSymbol, "Symbol", false, false, func(_ Field, v string) bool { return slices.Contains(symbolNames, v) }},
		{FieldPicture, "Picture", false, false, func(_ Field, v string) bool { return keptFile.MatchString(v) }},
		{FieldSpot, "Spot of a picture", false, false, func(f Field, v string) bool { return slices.Contains(f.Choices, v) }},
		{FieldFile, "File", false, false, func(_ Field, v string) bool { return keptFile.MatchString(v) }},
		{FieldMenu, "Menu", false, false, anything},
		{FieldKept, "Kept", false, false, anything},
	}
}

// FieldTypes lists the types in the order in which they are offered.
func FieldTypes() (out []FieldType) {
	for _, t := range fieldTypes() {
		out = append(out, t.is)
	}
	return out
}

// FactTypes lists the types that a fact of a page can have, in the order in which they are
// offered.
func FactTypes() []FieldType {
	return []FieldType{FieldText, FieldLong, FieldNumber, FieldDate, FieldPerson, FieldGroup, FieldChoice, FieldSeveral, FieldYes, FieldLink, FieldFile}
}

func typeOf(t FieldType) fieldType {
	all := fieldTypes()
	if i := slices.IndexFunc(all, func(r fieldType) bool { return r.is == t }); i >= 0 {
		return all[i]
	}
	return fieldType{is: t, name: string(t), fits: func(Field, string) bool { return false }}
}

// Name is what people call the type.
func (t FieldType) Name() string { return typeOf(t).name }

// Values are what the fields of a block, or of one of its items, hold, by their keys.
type Values map[string]string

// Of gives the value of a field, or what it is without a choice.
func (f Field) Of(v Values) string {
	if got := v[f.Key]; got != "" {
		return got
	}
	return f.Usual
}

// cleanedValues keeps what the fields understand; what is as it is without a choice is left
// out. It gives nil where nothing stays.
func cleanedValues(fields []Field, v Values) Values {
	out := Values{}
	for _, f := range fields {
		got := v[f.Key]
		if f.Type != FieldProse && f.Type != FieldLong && f.Type != FieldSeveral {
			got = strings.Join(strings.Fields(got), " ")
		}
		if got != "" && got != f.Usual && utf8.ValidString(got) && typeOf(f.Type).fits(f, got) {
			out[f.Key] = got
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// asked tells whether a field is asked for, given the others: where each of the conditions
// that & joins holds.
//
//	picture           the field picture has a value
//	!decorative       the field decorative has none
//	from=a topic|new  the field from has one of the values; with a ! none of them
func (f Field) asked(fields []Field, v Values) bool {
	for condition := range strings.SplitSeq(f.If, "&") {
		if condition != "" && !holds(condition, fields, v) {
			return false
		}
	}
	return true
}

func holds(condition string, fields []Field, v Values) bool {
	key, want, exact := strings.Cut(condition, "=")
	not := strings.HasPrefix(key, "!")
	key = strings.TrimPrefix(key, "!")
	got := v[key]
	if i := slices.IndexFunc(fields, func(o Field) bool { return o.Key == key }); i >= 0 {
		got = fields[i].Of(v)
	}
	if exact {
		return slices.Contains(strings.Split(want, "|"), got) != not
	}
	return (got != "") != not
}

// Told is a value as people read it. person gives the name of a person.
func (f Field) Told(v string, person func(id string) string) string {
	switch f.Type {
	case FieldPerson:
		return person(v)
	case FieldDate:
		if d, err := time.Parse(time.DateOnly, v); err == nil {
			return d.Format("2 January 2006")
		}
	case FieldNumber:
		return strings.TrimSpace(v + " " + f.Unit)
	case FieldSeveral:
		return strings.ReplaceAll(v, "\n", ", ")
	case FieldYes:
		return "Yes"
	}
	return v
}

// FactCalled gives a fact of a page by the label that a template gives it; empty where the
// page has none.
func FactCalled(templates []Template, p Page, label string, person func(id string) string) string {
	for _, t := range templates {
		for _, f := range t.Fields() {
			if v := p.Fields[f.Key]; v != "" && strings.EqualFold(f.Label, strings.TrimSpace(label)) {
				return f.Told(v, person)
			}
		}
	}
	return ""
}
