package editions

import (
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// ChangeFilter narrows the list of what the next edition could hold.
type ChangeFilter struct {
	Key, Words string
	Fits       func(w Work, chosen change.Set, who plan.Person, c change.Change) bool
}

func inState(states ...workflow.State) func(Work, change.Set, plan.Person, change.Change) bool {
	return func(w Work, _ change.Set, _ plan.Person, c change.Change) bool {
		state, _ := w.StateOf(c)
		return slices.Contains(states, state)
	}
}

// ChangeFilters is the table of them, in the order in which they are offered.
func ChangeFilters() []ChangeFilter {
	return []ChangeFilter{
		{"", "All", func(Work, change.Set, plan.Person, change.Change) bool { return true }},
		{"in", "Selected", func(_ Work, chosen change.Set, _ plan.Person, c change.Change) bool { return chosen[c.Key] }},
		{"out", "Not selected", func(_ Work, chosen change.Set, _ plan.Person, c change.Change) bool { return !chosen[c.Key] }},
		{"mine", "Mine", func(w Work, _ change.Set, who plan.Person, c change.Change) bool {
			return w.Makers[c.Key].PersonID == who.ID
		}},
		{"ready", "Approved", inState(workflow.Ready, workflow.Scheduled)},
		{"review", "In review", inState(workflow.InReview)},
		{"waits", "Needs approval", func(w Work, _ change.Set, _ plan.Person, c change.Change) bool { return w.Waits(c) }},
	}
}

// Fitting gives the changes that a filter leaves, and how many each leaves. A filter that there is
// none of leaves all.
func (w Work) Fitting(who plan.Person, chosen change.Set, filter string) (fits change.Set, counts map[string]int) {
	fits, counts = change.Set{}, map[string]int{}
	filters := ChangeFilters()
	if !slices.ContainsFunc(filters, func(f ChangeFilter) bool { return f.Key == filter }) {
		filter = ""
	}
	for _, c := range w.All {
		if c.Aspect == change.Readdressed {
			continue
		}
		for _, f := range filters {
			if f.Fits(w, chosen, who, c) {
				if counts[f.Key]++; f.Key == filter {
					fits[c.Key] = true
				}
			}
		}
	}
	return fits, counts
}

// Groupings by which the list can be read.
const (
	ByBranch = "branch"
	ByPerson = "person"
	ByState  = "state"
)

// GroupOf names the group in which a change stands, and how groups are ordered.
func (w Work) GroupOf(by string, c change.Change, person func(id string) string) (name, order string) {
	switch by {
	case ByBranch:
		name = w.branchOf(c.ID)
		return name, strings.ToLower(name)
	case ByPerson:
		name = person(w.Makers[c.Key].PersonID)
		return name, strings.ToLower(name)
	case ByState:
		state, _ := w.StateOf(c)
		return stateWords[state], string('0' + rune(slices.Index(workflow.States(), state)))
	}
	return "", ""
}

var stateWords = map[workflow.State]string{
	workflow.Draft: "Drafts", workflow.InReview: "In review", workflow.Ready: "Approved", workflow.Scheduled: "Scheduled",
}

// branchOf is the entry of the first level above an entry, or what it is beside the sitemap.
func (w Work) branchOf(id string) string {
	for _, t := range []*sitemap.Tree{w.Trees.Next, w.Trees.Live} {
		i := t.Find(id)
		if i == sitemap.None {
			continue
		}
		for p := t.Parent(i); p != sitemap.None && p != t.Home(); p = t.Parent(i) {
			i = p
		}
		return t.Ref(i).Title
	}
	return "Menus, trails, templates and redirects"
}
