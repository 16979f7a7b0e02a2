// Package part holds pieces of views that screens of several stops share: rows, words,
// lists in pages, choices. It knows nothing of requests.
package part

import (
	"fmt"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

type CountView struct {
	Name, Words, URL string
	N                string
	Here             bool
}

// Option is one choice of a select.
type Option struct {
	Value, Label     string
	Chosen, Disabled bool
}

// Choose marks the option with a value; a value that is not among them stands at
// the end, as unknown here.
func Choose(from []Option, value string) []Option {
	out := slices.Clone(from)
	i := slices.IndexFunc(out, func(o Option) bool { return o.Value == value })
	if i >= 0 {
		out[i].Chosen = true
	} else if len(out) > 0 && value != "" {
		out = append(out, Option{Value: value, Label: value + " (unknown here)", Chosen: true})
	}
	return out
}

// entriesShown is how many entries that change are listed at first.
const EntriesShown = 300

// pageSize is how many rows of a long list are shown at a time.
const pageSize = 100

// pager leads through a list that is shown in pages.
type Pager struct {
	Range, Prev, Next string
	First, Last       int // of the rows shown, counted from 1
}

// newPager shows a page of a list of so many rows; a page beyond the end is the
// last one. url is where a page is.
func NewPager(page, total int, url func(page int) string) Pager {
	page = max(1, min(page, (total+pageSize-1)/pageSize))
	p := Pager{First: (page-1)*pageSize + 1, Last: min(page*pageSize, total)}
	if total > 0 {
		p.Range = fmt.Sprintf("%s–%s of %s", Thousands(p.First), Thousands(p.Last), Thousands(total))
	}
	if page > 1 {
		p.Prev = url(page - 1)
	}
	if p.Last < total {
		p.Next = url(page + 1)
	}
	return p
}

// ReaderOptions are whom a readership can name: people, then roles.
func ReaderOptions(people []plan.Person) []Option {
	var out []Option
	for _, p := range people {
		out = append(out, Option{Value: p.Name, Label: p.Name})
	}
	for _, r := range workflow.Roles() {
		out = append(out, Option{Value: string(r), Label: string(r)})
	}
	return out
}
