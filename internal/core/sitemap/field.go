package sitemap

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"candlepath/internal/core/address"
)

// Field is one fact of an entry that people see and change. The table of fields
// is where everything about them is said once: rows and cells of the outline,
// the form beside, bulk acts, columns of files, and what counts as a change.
type Field struct {
	Key   string   // in acts, in addresses, and over the column of a file
	Names []string // what else people write over that column
	Label string   // above its input
	Words string   // in a sentence
	Input Input
	Help  string
	Most  int // characters; 0: 400

	Width   int    // the least that its cells take, in pixels
	On      []Kind // the kinds of entry that have it; nil: all
	NotHome bool   // home has none, or one that stays
	Needed  bool   // an entry that has it cannot do without
	Counts  Tells  // how a change of it is told
	Chosen  bool   // when pages merge, one of two values is chosen

	Get   func(e *Entry) string
	Set   func(e *Entry, v string)                              // v is what parse gave
	copy  func(to, from *Entry)                                 // nil: what Get gives is set
	parse func(e *Entry, v string, known Known) (string, error) // nil: as it was typed
}

// Input is how a field is written.
type Input string

// The inputs.
const (
	Line    Input = "line"
	Lines   Input = "lines"
	Day     Input = "day"
	Choice  Input = "choice"  // one of a closed set
	Suggest Input = "suggest" // one of a set, or anything else
	Many    Input = "many"    // any number of topics
	Readers Input = "readers" // any number of people and roles
	Address Input = "address" // set in mono: a slug, a URL
)

// Tells is how a change of a field is told.
type Tells int

// A field changes by itself, with the lesser facts of its entry, or with the place
// that the entry has.
const (
	Alone Tells = iota
	Together
	WithPlace
)

// Known is what parsing a field asks of the site. A nil function knows nothing.
type Known struct {
	Template   func(name string) (key string, ok bool)
	Readership func(v string) (string, error)
}

// FieldError says that a value cannot be a fact of an entry.
type FieldError struct{ Field, Problem string }

func (e *FieldError) Error() string { return e.Problem }

func refuse(field, format string, args ...any) error {
	return &FieldError{field, fmt.Sprintf(format, args...)}
}

var (
	pages = []Kind{Page, Carried}
	leads = []Kind{Reference, Outside, File}
)

// Fields is the table of fields, in the order of a file's columns.
func Fields() []Field { return fields }

var fields = []Field{
	{
		Key: "title", Names: []string{"name", "page", "page title"}, Label: "Title", Words: "title", Input: Line, Most: MaxTitle, Width: 240,
		Needed: true, Counts: Alone, Chosen: true,
		Get: func(e *Entry) string { return e.Title }, Set: func(e *Entry, v string) { e.Retitle(v) },
		copy:  func(to, from *Entry) { to.Title = from.Title },
		parse: func(_ *Entry, v string, _ Known) (string, error) { return CleanTitle(v), nil },
	},
	{
		Key: "short", Names: []string{"short title"}, Label: "Short title", Words: "short title", Input: Line, Most: 100, Width: 110,
		Counts: Together, Chosen: true,
		Get: func(e *Entry) string { return e.Short }, Set: func(e *Entry, v string) { e.Short = v },
	},
	{
		Key: "slug", Label: "Slug", Words: "slug", Input: Address, Most: 80, Width: 150, Help: "The last part of the address",
		On: []Kind{Page, Carried, Group}, NotHome: true, Counts: WithPlace,
		Get: func(e *Entry) string { return e.Slug }, Set: func(e *Entry, v string) { e.Slug, e.SlugHeld = v, true },
		copy: func(to, from *Entry) { to.Slug, to.SlugHeld = from.Slug, from.SlugHeld },
		parse: func(e *Entry, v string, _ Known) (string, error) {
			if v == "" && e.Kind.IsPage() {
				return "", ErrSlug
			}
			return v, nil
		},
	},
	{
		Key: "kind", Names: []string{"type"}, Label: "Kind", Words: "kind", Input: Choice, Width: 104, NotHome: true, Needed: true, Counts: WithPlace,
		Get: func(e *Entry) string { return string(e.Kind) }, Set: func(e *Entry, v string) { e.Turn(Kind(v)) },
		copy: func(to, from *Entry) { to.Kind = from.Kind },
		parse: func(_ *Entry, v string, _ Known) (string, error) {
			k, ok := ParseKind(v)
			if !ok {
				return "", refuse("kind", "%q is not a kind of entry.", v)
			}
			return string(k), nil
		},
	},
	{
		Key: "target", Label: "Leads to", Words: "target", Input: Address, Width: 150, On: leads, Counts: Alone,
		Get: func(e *Entry) string { return e.Target }, Set: func(e *Entry, v string) { e.Target = v },
		parse: func(e *Entry, v string, _ Known) (string, error) {
			if e.Kind == Outside && !address.IsURL(v) {
				return "", refuse("target", "An outside link needs a URL that begins with https://.")
			}
			return v, nil
		},
	},
	{
		Key: "source", Label: "Source", Words: "source", Input: Address, Width: 150, On: []Kind{Carried}, Counts: Together,
		Get: func(e *Entry) string { return e.Source }, Set: func(e *Entry, v string) { e.Source = v },
	},
	{
		Key: "template", Label: "Template", Words: "template", Input: Choice, Width: 120, On: pages, Counts: Alone, Chosen: true,
		Get: func(e *Entry) string { return e.Template }, Set: func(e *Entry, v string) { e.Template = v },
		parse: func(_ *Entry, v string, known Known) (string, error) {
			if known.Template == nil {
				return v, nil
			}
			key, ok := known.Template(v)
			if !ok {
				return "", refuse("template", "There is no template %q.", v)
			}
			return key, nil
		},
	},
	{
		Key: "owner", Label: "Owner", Words: "owner", Input: Suggest, Width: 104, Counts: Together, Chosen: true,
		Get: func(e *Entry) string { return e.Owner }, Set: func(e *Entry, v string) { e.Owner = v },
	},
	{
		Key: "listed", Label: "In menus", Words: "place in menus", Input: Choice, Width: 84, Needed: true, Counts: Together, Chosen: true,
		Get: func(e *Entry) string {
			if e.Unlisted {
				return "no"
			}
			return "yes"
		},
		Set: func(e *Entry, v string) { e.Unlisted = ParseNo(v) },
	},
	{
		Key: "topics", Label: "Topics", Words: "topics", Input: Many, Width: 130, Counts: Together,
		Get: func(e *Entry) string { return e.Topics }, Set: func(e *Entry, v string) { e.Topics = v },
		parse: func(_ *Entry, v string, _ Known) (string, error) { return JoinTopics(v), nil },
	},
	{
		Key: "readership", Label: "Who can read it", Words: "readership", Input: Readers, Width: 120, Help: "Also applies to everything below",
		Counts: Alone, Chosen: true,
		Get: func(e *Entry) string { return e.Readership }, Set: func(e *Entry, v string) { e.Readership = v },
		parse: func(_ *Entry, v string, known Known) (string, error) {
			if known.Readership == nil {
				return v, nil
			}
			parsed, err := known.Readership(v)
			if err != nil {
				return "", refuse("readership", "%s", err.Error())
			}
			return parsed, nil
		},
	},
	{
		Key: "review", Names: []string{"review date"}, Label: "Review on", Words: "review date", Input: Day, Width: 92, Counts: Together, Chosen: true,
		Get: func(e *Entry) string { return e.Review }, Set: func(e *Entry, v string) { e.Review = v },
		parse: func(_ *Entry, v string, _ Known) (string, error) {
			if v == "" {
				return "", nil
			}
			d, ok := ParseDate(v)
			if !ok {
				return "", refuse("review", "%q is not a date. Write it like 2026-11-24.", v)
			}
			return d, nil
		},
	},
	{
		Key: "notes", Names: []string{"comment", "comments", "note"}, Label: "Notes", Words: "notes", Input: Lines, Most: 2000, Width: 150, Counts: Together,
		Get: func(e *Entry) string { return e.Notes }, Set: func(e *Entry, v string) { e.Notes = v },
	},
}

// FieldOf gives the field of a key.
func FieldOf(key string) (Field, bool) {
	i := slices.IndexFunc(fields, func(f Field) bool { return f.Key == key })
	if i < 0 {
		return Field{}, false
	}
	return fields[i], true
}

// Copy gives an entry the value that another one has, and nothing that would follow
// from writing it.
func (f Field) Copy(to, from *Entry) {
	if f.copy != nil {
		f.copy(to, from)
		return
	}
	f.Set(to, f.Get(from))
}

// Default is what an entry has where nobody wrote anything.
func (f Field) Default() string { return f.Get(&Entry{}) }

// Has tells whether an entry has the field.
func (f Field) Has(e *Entry) bool {
	return (f.On == nil || slices.Contains(f.On, e.Kind)) && (!f.NotHome || !e.IsHome())
}

// mostTyped bounds what anybody may send as a value.
const mostTyped = 4000

// Fill gives entries values of a field, as somebody typed them: all change, or
// none.
func (t *Tree) Fill(key string, values map[string]string, known Known) (*Tree, error) {
	f, ok := FieldOf(key)
	if !ok {
		return nil, refuse("field", "There is no field %q.", key)
	}
	clean := make(map[string]string, len(values))
	for id, v := range values {
		i := t.Find(id)
		if i == None {
			return nil, ErrNoEntry
		}
		if clean[id] = strings.TrimSpace(v); len(v) > mostTyped {
			return nil, refuse(key, "This is too long; it takes at most 4,000 characters.")
		}
		if f.parse == nil {
			continue
		}
		var err error
		if clean[id], err = f.parse(t.entries[i], clean[id], known); err != nil {
			return nil, err
		}
	}
	return t.ChangeAll(slices.Sorted(maps.Keys(clean)), func(e *Entry) { f.Set(e, clean[e.ID]) })
}
