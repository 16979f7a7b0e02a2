package editions

import (
	"slices"
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

type changedEntry struct {
	ID, Title, Where, URL string
	Changes               []changeView
	Readdressed           string
	Depth                 int
	Branch                string // what is new below it and goes with it
	Open                  bool   // that is listed
	Group                 string // it is the first of
}

type changeView struct {
	ID, Name, Mark, Words, By string
	Chosen, Pulled            bool
	State                     string // approved, in review, needs approval
	Ready                     bool
}

// changedSinceView is what happened to the plan since somebody chose.
type changedSinceView struct{ Title, Words string }

type pulledView struct{ Title, Mark, Why string }

// mostShown is the most entries that are listed at all.
const mostShown = 6000

func (v *editionView) changes(n editions.NextEdition, who plan.Person, people []plan.Person) {
	why := map[change.Key]string{}
	for _, p := range n.Dependencies {
		why[p.Key] = p.Why
		v.Dependencies = append(v.Dependencies, pulledView{n.Trees.Title(p.ID), p.Aspect.Label(), p.Why})
	}
	for _, b := range n.ChangedSince {
		v.ChangedSince = append(v.ChangedSince, newChangedSince(b, people))
	}
	readdressed := map[string]int{}
	for i := range n.All {
		if c := &n.All[i]; c.Aspect == change.Readdressed {
			readdressed[c.Because]++
		}
	}
	groups := change.Groups(n.All)
	total := 0
	for i := range groups {
		total += len(groups[i].Changes)
	}
	lines := grouped(listed(v.narrow(n, who, groups), n, v.Opened), n, v.ByWhich, people)
	if hidden := len(lines) - v.Shown; hidden > 0 && v.Show != "" {
		v.Hidden, v.More, lines = part.Count(hidden, "more entry matches", "more entries match"), "Show more", lines[:v.Shown]
	} else if hidden > 0 {
		v.Rest = part.Count(hidden, "more entry changes", "more entries change") + " in the same way"
		if v.More = "Show more"; v.Shown >= mostShown {
			v.More = ""
		}
		v.RestIn = slices.ContainsFunc(lines[v.Shown:], func(l line) bool { return n.Chosen[l.Changes[0].Key] })
		lines = lines[:v.Shown]
	}
	for _, l := range lines {
		e := l.view(n, readdressed[l.ID])
		e.Group = l.head
		for _, c := range l.Changes {
			cv := changeView{
				ID: "in-" + string(c.Aspect) + "-" + c.ID, Name: keyName(c.Key), Mark: c.Mark(), Words: change.Words(c, n.Trees.Live, n.Trees.Next),
				By: part.PersonName(people, n.Makers[c.Key].PersonID), Chosen: n.Chosen[c.Key], Pulled: why[c.Key] != "",
			}
			cv.stands(n, c, people)
			e.Changes = append(e.Changes, cv)
		}
		v.Entries = append(v.Entries, e)
	}
	v.ChosenN, v.TotalN, v.Nothing = part.Thousands(len(n.Chosen)), part.Thousands(total), total == 0
}

// stands says where a change stands on its way.
func (v *changeView) stands(n editions.NextEdition, c change.Change, people []plan.Person) {
	switch state, s := n.StateOf(c); {
	case state == workflow.Ready || state == workflow.Scheduled:
		v.State, v.Ready = "approved by "+part.PersonName(people, s.Person), true
	case state == workflow.InReview:
		v.State = "in review"
	case n.Waits(c):
		v.State = "needs approval"
	}
}

func newChangedSince(b change.ChangedSince, people []plan.Person) changedSinceView {
	v := changedSinceView{Title: b.Title}
	by := ""
	if b.By != "" {
		by = " by " + part.PersonName(people, b.By)
	}
	ticked := ""
	if !b.In {
		ticked = "; not selected"
	}
	switch b.What {
	case change.Came:
		v.Words = "was planned" + by + " (" + b.Aspect.Label() + ")" + ticked
	case change.Another:
		v.Words = "was changed again" + by + " (" + b.Aspect.Label() + ")" + ticked
	case change.Went:
		v.Words = "is no longer planned (" + b.Aspect.Label() + ")"
	}
	return v
}

// line is an entry of the list, with how many new ones below go with it.
type line struct {
	change.Group
	depth, below int
	open         bool
	head         string // the group that begins with it
}

// narrow keeps the changes that the filter leaves.
func (v *editionView) narrow(n editions.NextEdition, who plan.Person, groups []change.Group) []change.Group {
	fits, counts := n.Fitting(who, n.Chosen, v.Show)
	for _, f := range editions.ChangeFilters() {
		if f.Key == "" || counts[f.Key] > 0 || f.Key == v.Show {
			v.Filters = append(v.Filters, part.CountView{Words: f.Words, N: part.Thousands(counts[f.Key]), Here: f.Key == v.Show, URL: urls.EditionAt(f.Key, v.ByWhich)})
		}
	}
	for _, by := range [][2]string{{"", "in the order of the sitemap"}, {editions.ByBranch, "by branch"}, {editions.ByPerson, "by person"}, {editions.ByState, "by state"}} {
		v.By = append(v.By, part.Option{Value: by[0], Label: by[1], Chosen: by[0] == v.ByWhich})
	}
	if v.Show == "" {
		return groups
	}
	var out []change.Group
	for _, g := range groups {
		g.Changes = slices.DeleteFunc(slices.Clone(g.Changes), func(c change.Change) bool { return !fits[c.Key] })
		if len(g.Changes) > 0 {
			out = append(out, g)
		}
	}
	return out
}

// grouped brings lines into groups. What stands open below a new entry stays with it.
func grouped(lines []line, n editions.NextEdition, by string, people []plan.Person) []line {
	if by == "" || len(lines) == 0 {
		return lines
	}
	type block struct {
		name, order string
		lines       []line
	}
	var blocks []block
	for _, l := range lines {
		if l.depth > 0 && len(blocks) > 0 {
			last := &blocks[len(blocks)-1]
			last.lines = append(last.lines, l)
			continue
		}
		name, order := n.GroupOf(by, l.Changes[0], func(id string) string { return part.PersonName(people, id) })
		blocks = append(blocks, block{name, order, []line{l}})
	}
	slices.SortStableFunc(blocks, func(a, b block) int { return strings.Compare(a.order, b.order) })
	out, head := lines[:0:0], ""
	for i, b := range blocks {
		if b.name != head || i == 0 {
			b.lines[0].head, head = b.name, b.name
		}
		out = append(out, b.lines...)
	}
	return out
}

// listed gives the lines of the list. In a long one, new entries below new ones stand in
// those, but for branches that are open, and what is not only new comes first: that is
// what somebody looks for there.
func listed(groups []change.Group, n editions.NextEdition, opened []string) []line {
	if len(groups) <= part.EntriesShown {
		lines := make([]line, len(groups))
		for i, g := range groups {
			lines[i].Group = g
		}
		return lines
	}
	folding := change.Fold(n.Trees.Next, n.All)
	at := map[string]int{} // of new entries, where branches are open
	var changed, fresh []change.Group
	for i, g := range groups {
		switch {
		case !g.New:
			changed = append(changed, g)
		case folding.Top(g.ID) == "":
			fresh = append(fresh, g)
		}
		if g.New && len(opened) > 0 {
			at[g.ID] = i
		}
	}
	var lines []line
	var list func(g change.Group, depth int)
	list = func(g change.Group, depth int) {
		l := line{Group: g, depth: depth, below: folding.Below(g.ID)}
		l.open = l.below > 0 && slices.Contains(opened, g.ID)
		lines = append(lines, l)
		if l.open {
			for id := range folding.Inside(g.ID) {
				list(groups[at[id]], depth+1)
			}
		}
	}
	for _, g := range slices.Concat(changed, fresh) {
		list(g, 0)
	}
	return lines
}

// view is what is shown of an entry, but for its changes.
func (l line) view(n editions.NextEdition, readdressed int) changedEntry {
	e := changedEntry{ID: l.ID, Title: n.Trees.Title(l.ID), URL: part.WhereIs(l.ID, n.Trees), Depth: l.depth, Open: l.open}
	for _, t := range []*sitemap.Tree{n.Trees.Live, n.Trees.Next} {
		if i := t.Find(l.ID); i != sitemap.None {
			e.Where = t.Claim(i)
		}
	}
	if l.below > 0 {
		e.Branch = part.Count(l.below, "new entry below is included or left out", "new entries below are included or left out") + " with it"
	}
	if readdressed > 0 {
		e.Readdressed = part.Count(readdressed, "page below gets a new address", "pages below get new addresses")
	}
	return e
}
