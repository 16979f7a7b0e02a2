package part

import (
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
)

// rowView is one entry as the outline's script keeps it.
type RowView struct {
	ID      string   `json:"id"`
	Parent  string   `json:"p,omitempty"`
	Title   string   `json:"t"`
	Kind    string   `json:"k"`
	Address string   `json:"a,omitempty"` // or what stands in its place
	Owner   string   `json:"o,omitempty"`
	Wick    string   `json:"w,omitempty"`
	State   string   `json:"s,omitempty"`
	Marks   []string `json:"m,omitempty"`
	See     string   `json:"r,omitempty"` // where a reference leads
	Home    bool     `json:"h,omitempty"`
	Bare    bool     `json:"b,omitempty"` // carried and not written yet

	Short      string `json:"sh,omitempty"`
	Slug       string `json:"g,omitempty"`
	Template   string `json:"tp,omitempty"`
	Unlisted   bool   `json:"ul,omitempty"`
	Topics     string `json:"to,omitempty"`
	Review     string `json:"rv,omitempty"`
	Notes      string `json:"no,omitempty"`
	Readership string `json:"rd,omitempty"`
	Target     string `json:"ta,omitempty"`
	Source     string `json:"so,omitempty"`
	Fixed      bool   `json:"fx,omitempty"`
	Changed    string `json:"at,omitempty"` // the day of the last change, of text or place
	Visits     int    `json:"v,omitempty"`
}

type rowMaker struct {
	plan.Standing
	plan.Outline
	next *sitemap.Tree
}

func NewRowMaker(o plan.Outline) rowMaker { return rowMaker{o.Standing(), o, o.Trees.Next} }

func (m rowMaker) Row(i int) RowView {
	t := m.next
	e := t.Ref(i)
	v := RowView{
		ID: e.ID, Parent: e.Parent, Title: e.Title, Kind: string(e.Kind), Owner: e.Owner, Marks: m.AllMarks(i), Home: i == t.Home(),
		Short: e.Short, Slug: e.Slug, Template: e.Template, Unlisted: e.Unlisted, Topics: e.Topics, Review: e.Review, Notes: e.Notes,
		Readership: e.Readership, Target: e.Target, Source: e.Source, Fixed: e.Fixed != "", Visits: m.Visits[e.ID],
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
	v.Wick, v.State = string(state.Wick()), string(state)
	return v
}
