package editions

import (
	"slices"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
)

type changedEntry struct {
	ID, Title, Where, URL string
	Changes               []changeView
	Readdressed           string
	New                   bool
	Depth                 int
	Branch                string // what is new below it and goes with it
	Open                  bool   // that is listed
}

type changeView struct {
	ID, Name, Mark, Words, By string
	Chosen, Pulled            bool

	of change.Change
}

// beneathView is what happened to the plan since somebody chose.
type beneathView struct{ Title, Words string }

type pulledView struct{ Title, Mark, Why string }

// mostShown is the most entries that are listed at all.
const mostShown = 6000

func (v *editionView) changes(n editions.NextEdition, people []plan.Person) {
	why := map[change.Key]string{}
	for _, p := range n.Pulled {
		why[p.Key] = p.Why
		v.Pulled = append(v.Pulled, pulledView{n.Trees.Title(p.ID), p.Aspect.Label(), p.Why})
	}
	for _, b := range n.Beneath {
		v.Beneath = append(v.Beneath, newBeneath(b, people))
	}
	total, readdressed := 0, map[string]int{}
	at := map[string]int{}
	var entries []changedEntry
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			readdressed[c.Because]++
			continue
		}
		total++
		i, known := at[c.ID]
		if !known {
			i = len(entries)
			at[c.ID] = i
			entries = append(entries, changedEntry{ID: c.ID})
		}
		entries[i].New = entries[i].New || c.Aspect == change.Added
		entries[i].Changes = append(entries[i].Changes, changeView{
			ID: "in-" + string(c.Aspect) + "-" + c.ID, Name: keyName(c.Key), Mark: c.Mark(), By: part.PersonName(people, n.Makers[c.Key].PersonID), Chosen: n.Chosen[c.Key], Pulled: why[c.Key] != "", of: c,
		})
	}
	if len(entries) > part.EntriesShown {
		entries = foldNew(entries, n, v.Opened)
	}
	if hidden := len(entries) - v.Shown; hidden > 0 {
		v.Rest = part.Count(hidden, "more entry changes", "more entries change") + " in the same ways"
		if v.More = "Show more"; v.Shown >= mostShown {
			v.More = ""
		}
		for _, e := range entries[v.Shown:] {
			v.RestIn = v.RestIn || e.Changes[0].Chosen
		}
		entries = entries[:v.Shown]
	}
	for i := range entries {
		entries[i].tell(n.Trees, readdressed[entries[i].ID])
	}
	v.Entries = entries
	v.ChosenN, v.TotalN, v.Nothing = part.Thousands(len(n.Chosen)), part.Thousands(total), total == 0
}

func newBeneath(b change.Beneath, people []plan.Person) beneathView {
	v := beneathView{Title: b.Title}
	by := ""
	if b.By != "" {
		by = " by " + part.PersonName(people, b.By)
	}
	ticked := ""
	if !b.In {
		ticked = "; it is not ticked"
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

// foldNew takes new entries below new ones into those, but for branches that are
// open, and puts what is not only new first: that is what somebody looks for in
// a long list.
func foldNew(entries []changedEntry, n editions.NextEdition, opened []string) []changedEntry {
	next := n.Trees.Next
	folded := change.Folded(next, n.All)
	below, inside := map[string]int{}, map[string][]changedEntry{}
	for _, e := range entries {
		if folded[e.ID] == "" {
			continue
		}
		parent := next.Parent(next.Find(e.ID))
		inside[next.Ref(parent).ID] = append(inside[next.Ref(parent).ID], e)
		for id := e.ID; folded[id] != ""; {
			id = next.Ref(next.Parent(next.Find(id))).ID
			below[id]++
		}
	}
	tops := slices.DeleteFunc(slices.Clone(entries), func(e changedEntry) bool { return folded[e.ID] != "" })
	slices.SortStableFunc(tops, func(a, b changedEntry) int {
		switch {
		case a.New == b.New:
			return 0
		case b.New:
			return -1
		}
		return 1
	})
	var out []changedEntry
	var list func(es []changedEntry, depth int)
	list = func(es []changedEntry, depth int) {
		for _, e := range es {
			e.Depth = depth
			if k := below[e.ID]; k > 0 {
				e.Branch = part.Count(k, "new entry below it goes or stays", "new entries below it go or stay") + " with it"
				e.Open = slices.Contains(opened, e.ID)
			}
			out = append(out, e)
			if e.Open {
				list(inside[e.ID], depth+1)
			}
		}
	}
	list(tops, 0)
	return out
}

// tell completes what is shown of an entry.
func (e *changedEntry) tell(trees plan.Trees, readdressed int) {
	e.Title, e.URL = trees.Title(e.ID), part.WhereIs(e.ID, trees)
	for _, t := range []*sitemap.Tree{trees.Live, trees.Next} {
		if i := t.Find(e.ID); i != sitemap.None {
			e.Where = t.Claim(i)
		}
	}
	for k := range e.Changes {
		e.Changes[k].Words = change.Words(e.Changes[k].of, trees.Live, trees.Next)
	}
	if readdressed > 0 {
		e.Readdressed = part.Count(readdressed, "page below gets a new address", "pages below get new addresses")
	}
}
