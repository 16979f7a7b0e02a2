package part

import (
	"cmp"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// RowView is one entry as the outline's script keeps it.
type RowView struct {
	ID      string   `json:"id"`
	Parent  string   `json:"p,omitempty"`
	Title   string   `json:"t"`
	Kind    string   `json:"k"`
	Address string   `json:"a,omitempty"` // or what stands in its place
	Wick    string   `json:"w,omitempty"`
	State   string   `json:"s,omitempty"`
	Marks   []string `json:"m,omitempty"`
	See     string   `json:"r,omitempty"` // where a reference leads
	Home    bool     `json:"h,omitempty"`
	Bare    bool     `json:"b,omitempty"` // carried and not written yet
	Fixed   bool     `json:"fx,omitempty"`
	Changed string   `json:"at,omitempty"` // the day of the last change, of text or place
	Visits  int      `json:"v,omitempty"`

	Facts map[string]string `json:"facts,omitempty"` // by field, but for title, kind and defaults
	Fits  []string          `json:"fits,omitempty"`  // the filters that it fits
}

// RowMaker makes the rows of one outline.
type RowMaker struct {
	plan.EntryStatus
	plan.Outline
	next   *sitemap.Tree
	fields []factOf
}

// factOf is a field of which rows tell the value where it is not the default.
type factOf struct {
	key, usual string
	get        func(*sitemap.Entry) string
}

func factFields() (out []factOf) {
	for _, f := range sitemap.Fields() {
		if f.Key != "title" && f.Key != "kind" {
			out = append(out, factOf{f.Key, f.Default(), f.Get})
		}
	}
	return out
}

// facts gives what stands in the fields of an entry.
func (m RowMaker) facts(e *sitemap.Entry) map[string]string {
	facts := make(map[string]string, 4)
	for i := range m.fields {
		f := &m.fields[i]
		if v := f.get(e); v != f.usual {
			facts[f.key] = v
		}
	}
	return facts
}

// UsualMost is how many characters a field takes where it says nothing else.
const UsualMost = 400

// FieldView is a field as scripts and forms know it.
type FieldView struct {
	Key     string         `json:"key"`
	Label   string         `json:"label"`
	Help    string         `json:"help,omitempty"`
	Input   sitemap.Input  `json:"input"`
	Most    int            `json:"most"`
	Width   int            `json:"width"`
	On      []sitemap.Kind `json:"on,omitempty"`
	NotHome bool           `json:"notHome,omitempty"`
	Needed  bool           `json:"needed,omitempty"`
	Default string         `json:"default,omitempty"`
}

// FieldViews are all fields.
func FieldViews() []FieldView {
	var out []FieldView
	for _, f := range sitemap.Fields() {
		out = append(out, FieldView{f.Key, f.Label, f.Help, f.Input, cmp.Or(f.Most, UsualMost), f.Width, f.On, f.NotHome, f.Needed, f.Default()})
	}
	return out
}

// NewRowMaker makes rows of an outline.
func NewRowMaker(o plan.Outline) RowMaker { return RowMaker{o.Status(), o, o.Trees.Next, factFields()} }

// Row gives the row of the entry at an index.
func (m RowMaker) Row(i int) RowView {
	t := m.next
	e := t.Ref(i)
	v := RowView{
		ID: e.ID, Parent: e.Parent, Title: e.Title, Kind: string(e.Kind), Marks: m.AllMarks(i), Home: i == t.Home(),
		Fixed: e.Fixed != "", Visits: m.Visits[e.ID], Facts: m.facts(e), Fits: sitemap.Fitting(e, m.Options),
	}
	if changed := m.LastChange(e.ID); !changed.IsZero() {
		v.Changed = changed.UTC().Format(time.DateOnly)
	}
	switch e.Kind {
	case sitemap.Outside, sitemap.File:
		v.Address = strings.TrimPrefix(strings.TrimPrefix(e.Target, "https://"), "http://")
	case sitemap.Reference:
		v.Address = "reference"
		if to := t.Referred(i); to != sitemap.None {
			v.See = strings.Join(t.Path(to), " › ")
		}
	case sitemap.Group:
		if v.Address = t.Claim(i); v.Address == "" {
			v.Address = "group"
		}
	default:
		v.Address = address.Written(t.Address(i))
		_, written := m.Written[e.ID]
		v.Bare = e.Kind == sitemap.Carried && !written
	}
	state := m.State(i)
	v.Wick, v.State = string(state.Icon()), string(state)
	return v
}
