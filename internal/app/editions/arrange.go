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
	Fits       func(n *NextEdition, who plan.Person, c change.Change) bool
}

func inState(states ...workflow.State) func(*NextEdition, plan.Person, change.Change) bool {
	return func(n *NextEdition, _ plan.Person, c change.Change) bool {
		state, _ := n.StateOf(c)
		return slices.Contains(states, state)
	}
}

// ChangeFilters is the table of them, in the order in which they are offered.
func ChangeFilters() []ChangeFilter {
	return []ChangeFilter{
		{"", "All", func(*NextEdition, plan.Person, change.Change) bool { return true }},
		{"in", "Selected", func(n *NextEdition, _ plan.Person, c change.Change) bool { return n.Chosen[c.Key] }},
		{"out", "Not selected", func(n *NextEdition, _ plan.Person, c change.Change) bool { return !n.Chosen[c.Key] }},
		{"mine", "Mine", func(n *NextEdition, who plan.Person, c change.Change) bool {
			return n.Makers[c.Key].PersonID == who.ID
		}},
		{"ready", "Approved", inState(workflow.Ready, workflow.Scheduled)},
		{"review", "In review", inState(workflow.InReview)},
		{"waits", "Needs approval", func(n *NextEdition, _ plan.Person, c change.Change) bool { return n.Waits(c) }},
	}
}

// Fitting gives the changes that a filter leaves, and how many each leaves. A filter that there is
// none of leaves all.
func (n *NextEdition) Fitting(who plan.Person, filter string) (fits change.Set, counts map[string]int) {
	fits, counts = change.Set{}, map[string]int{}
	filters := ChangeFilters()
	if !slices.ContainsFunc(filters, func(f ChangeFilter) bool { return f.Key == filter }) {
		filter = ""
	}
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			continue
		}
		for _, f := range filters {
			if f.Fits(n, who, c) {
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
func (n *NextEdition) GroupOf(by string, c change.Change, person func(id string) string) (name, order string) {
	switch by {
	case ByBranch:
		name = n.branchOf(c.ID)
		return name, strings.ToLower(name)
	case ByPerson:
		name = person(n.Makers[c.Key].PersonID)
		return name, strings.ToLower(name)
	case ByState:
		state, _ := n.StateOf(c)
		return stateWords[state], string('0' + rune(slices.Index(workflow.States(), state)))
	}
	return "", ""
}

var stateWords = map[workflow.State]string{
	workflow.Draft: "Drafts", workflow.InReview: "In review", workflow.Ready: "Approved", workflow.Scheduled: "Scheduled",
}

// branchOf is the entry of the first level above an entry, or what it is beside the sitemap.
func (n *NextEdition) branchOf(id string) string {
	for _, t := range []*sitemap.Tree{n.Trees.Next, n.Trees.Live} {
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
