package addresses

import (
	"context"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
)

// Removals are the pages of Live that have no address in Next, with where their visitors go.
type Removals struct {
	List   []redirect.Removal
	Visits map[string]int // of the last month, by entry
	Meant  [][]match.Candidate
	Trees  plan.Trees
}

// Removals lists the pages that are planned to go, with pages of Next that are like them.
func (a *Addresses) Removals(ctx context.Context, who plan.Person) (out Removals, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		out, err = a.removals(ctx, tx, s, trees)
		return err
	})
	return out, err
}

// mostMeant is for how many removed pages others are found that are like them.
const mostMeant = 1000

func (a *Addresses) removals(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees) (out Removals, err error) {
	out.Trees = trees
	rows, _, err := a.tableOfNext(ctx, tx, s, trees)
	if err != nil {
		return out, err
	}
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return out, err
	}
	if out.Visits, err = tx.Visits(ctx, a.Now().AddDate(0, 0, 1-plan.VisitDays), a.Now()); err != nil {
		return out, err
	}
	if out.List = redirect.Removals(trees.Live, trees.Next, rows, decisions); len(out.List) == 0 {
		return out, nil
	}
	words, err := tx.Words(ctx)
	if err != nil {
		return out, err
	}
	olds := make([]match.Old, min(len(out.List), mostMeant))
	for i := range olds {
		e := trees.Live.Ref(out.List[i].Live)
		olds[i] = match.Old{Address: trees.Live.Served(out.List[i].Live), Title: e.Title, Text: words[e.ID]}
	}
	out.Meant = match.NewOlder(trees.Next, func(id string) string { return words[id] }).Near(olds)
	return out, nil
}

// DecideAsk decides for some pages at once.
type DecideAsk struct {
	Entries   []string
	All       RemovalKind // all pages of a kind, in place of Entries
	How       string      // "page" with To, "like": the page most like each, "above": the nearest above each, "gone", "" takes decisions back
	To        string
	Temporary bool
	Until     string
	Note      string
	Says      string
}

// RemovalKind tells pages that are planned to go apart.
type RemovalKind string

// The kinds.
const (
	EveryRemoval   RemovalKind = "every"
	OpenRemoval    RemovalKind = "open"    // nobody decided yet where its visitors go
	DecidedRemoval RemovalKind = "decided" // somebody did, or nobody has to
)

// Has tells whether a page is of the kind.
func (k RemovalKind) Has(r redirect.Removal) bool {
	return k == EveryRemoval || k == OpenRemoval && r.IsOpen() || k == DecidedRemoval && !r.IsOpen()
}

// ids gives the pages of a kind.
func (r Removals) ids(k RemovalKind) (out []string) {
	for _, one := range r.List {
		if k.Has(one) {
			out = append(out, r.Trees.Live.Ref(one.Live).ID)
		}
	}
	return out
}

// DecideMany decides where the visitors of some pages that are planned to go belong.
func (a *Addresses) DecideMany(ctx context.Context, who plan.Person, key string, ask DecideAsk) (plan.PlanResult, error) {
	var r Removals
	if ask.All != "" || ask.How == "like" || ask.How == "above" {
		var err error
		if r, err = a.Removals(ctx, who); err != nil {
			return plan.PlanResult{}, err
		}
	}
	if ask.All != "" {
		ask.Entries = r.ids(ask.All)
	}
	if len(ask.Entries) == 0 {
		return plan.PlanResult{}, plan.Refuse("", "Tick the pages first.")
	}
	to := map[string]string{}
	switch ask.How {
	case "like", "above":
		for i, one := range r.List {
			id := r.Trees.Live.Ref(one.Live).ID
			if ask.How == "above" && one.Above >= 0 {
				to[id] = r.Trees.Next.Ref(one.Above).ID
			} else if ask.How == "like" && i < len(r.Meant) && len(r.Meant[i]) > 0 {
				to[id] = r.Trees.Next.Ref(r.Meant[i][0].Page).ID
			}
		}
	case "page":
		if strings.TrimSpace(ask.To) == "" {
			return plan.PlanResult{}, plan.Refuse("to", "Choose the page, or write a URL that begins with https://.")
		}
	}
	list := make([]plan.Destination, 0, len(ask.Entries))
	for _, id := range ask.Entries {
		d := plan.Destination{Entry: id, Temporary: ask.Temporary, Review: ask.Until, Note: strings.TrimSpace(ask.Note), Says: ask.Says}
		switch ask.How {
		case "like", "above":
			if d.To = to[id]; d.To == "" {
				continue // there is none
			}
		case "gone":
			d.To = "gone"
		case "page":
			d.To = ask.To
		}
		list = append(list, d)
	}
	if len(list) == 0 {
		return plan.PlanResult{}, plan.Refuse("", "None of these pages has such a page. Choose one.")
	}
	return a.DecideRemoved(ctx, who, key, list)
}
