package editions

import (
	"context"
	"fmt"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/sitemap"
)

// States of the site that can be looked at as a whole, besides the numbers of editions.
const (
	ShowNext   = "next"   // with all that is planned
	ShowChosen = "chosen" // with what somebody chose of it
)

// StateOf gives a state of the site: one of those above, or an edition by its number.
func (a *Editions) StateOf(ctx context.Context, who plan.Person, of string) (plan.SiteState, error) {
	switch of {
	case ShowNext:
		return a.planned(ctx, who, func(ctx context.Context) (NextEdition, error) {
			return a.LookAhead(ctx, who, Select{Chosen: true})
		})
	case ShowChosen:
		return a.planned(ctx, who, func(ctx context.Context) (NextEdition, error) { return a.LookOwn(ctx, who, nil) })
	}
	number, err := strconv.Atoi(of)
	if err != nil {
		return plan.SiteState{}, plan.ErrNotFound
	}
	return a.EditionState(ctx, who, number)
}

func (a *Editions) planned(ctx context.Context, _ plan.Person, look func(context.Context) (NextEdition, error)) (plan.SiteState, error) {
	n, err := look(ctx)
	if err != nil {
		return plan.SiteState{}, err
	}
	goes := map[string]bool{}
	for _, id := range n.Outgoing {
		goes[id] = true
	}
	var out []change.Change
	differs := map[string]bool{}
	for _, c := range n.All {
		if n.Chosen[c.Key] {
			out = append(out, c)
			differs[c.ID] = true
		}
	}
	st := plan.SiteState{
		Site: n.Site, Planned: true, Tree: n.Draft.Tree, Shapes: n.Shapes, Rows: n.Draft.Table,
		Drafts: func(entry string) bool { return goes[entry] }, Changed: plan.ChangedPages(n.Draft.Tree, out),
		Differs: func(entry string) bool { return differs[entry] }, Live: n.Trees.Live, Key: n.key,
	}
	st.Site.Edition++
	return st, nil
}

// EditionState gives the site as an edition was, for one who may read no more than now.
func (a *Editions) EditionState(ctx context.Context, who plan.Person, number int) (st plan.SiteState, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		st, err = a.stateAt(ctx, tx, s, trees, number)
		return err
	})
	return st, err
}

// ReadersState gives the site as an edition was, for a program that writes it out.
func (a *Editions) ReadersState(ctx context.Context, number int) (st plan.SiteState, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return plan.ErrNotFound
		}
		if number == 0 {
			number = s.Edition
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		st, err = a.stateAt(ctx, tx, s, trees, number)
		return err
	})
	return st, err
}

func (a *Editions) stateAt(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, number int) (st plan.SiteState, err error) {
	if number < 1 || number > s.Edition {
		return st, plan.ErrNotFound
	}
	st.Site = s
	st.Site.Edition = number
	if st.Tree, err = tx.TreeAt(ctx, number); err != nil {
		return st, fmt.Errorf("load edition %d: %w", number, err)
	}
	if st.Shapes, err = tx.ShapesAt(ctx, number); err != nil {
		return st, err
	}
	if st.Rows, err = tx.TableAt(ctx, number); err != nil {
		return st, err
	}
	st.Key = fmt.Sprint("edition ", number, " ", a.besides(s))
	st.Texts = &plan.EditionTexts{Edition: number, Templates: st.Shapes.Templates()}
	if number == s.Edition {
		if st.Texts.Live, err = a.Summaries(ctx, tx, s); err != nil {
			return st, err
		}
	} else {
		st.Narrow = readership.Since(st.Tree, trees.Live)
		after, err := tx.EditionNumbered(ctx, number+1)
		if err != nil {
			return st, err
		}
		st.Texts.Ended = after.At
	}
	e, err := tx.EditionNumbered(ctx, number)
	if err != nil {
		return st, err
	}
	var changes []change.Change
	for _, c := range e.Changes {
		if st.Tree.Find(c.EntryID) != sitemap.None {
			changes = append(changes, c.Change())
		}
	}
	st.Changed = plan.ChangedPages(st.Tree, changes)
	return st, nil
}
