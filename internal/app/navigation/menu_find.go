package navigation

import (
	"context"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/match"
	"candlepath/internal/core/menu"
)

// MenuFind is a search for what could go into a menu or onto a trail.
type MenuFind struct {
	Words string
	Bare  bool // only pages in no menu
	Pages bool // only pages
	Most  int
}

// MenuFinds are entries that could go into a menu.
type MenuFinds struct {
	Trees   plan.Trees
	Entries []int
}

// FindForMenu finds entries by title, address or topic; those that changed last
// come first where nothing is typed.
func (a *Navigation) FindForMenu(ctx context.Context, who plan.Person, ask MenuFind) (MenuFinds, error) {
	var f MenuFinds
	err := a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		f.Trees = trees
		t := trees.Next
		m := menu.For(t, trees.Shapes.Next.Menus())
		fits := func(i int) bool {
			return !t.Ref(i).Withdrawn && (!ask.Pages || t.Served(i) != "") && (!ask.Bare || len(m.Of(i)) == 0)
		}
		if q := strings.TrimSpace(ask.Words); q != "" {
			f.Entries = match.Find(t, q, ask.Most, fits)
			return nil
		}
		o, err := a.LoadOutline(ctx, tx, s)
		if err != nil {
			return err
		}
		st := o.Status()
		for i := range t.Len() {
			if fits(i) {
				f.Entries = append(f.Entries, i)
			}
		}
		slices.SortStableFunc(f.Entries, func(x, y int) int { return st.LastChange(t.Ref(y).ID).Compare(st.LastChange(t.Ref(x).ID)) })
		f.Entries = f.Entries[:min(ask.Most, len(f.Entries))]
		return nil
	})
	return f, err
}
