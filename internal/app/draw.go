package app

import (
	"context"

	"candlepath/internal/app/port"
	"candlepath/internal/core/drawing"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Drawn is Next as a drawn tree.
type Drawn struct {
	drawing.Drawing
	Site  port.Site
	Trees port.Trees
	Level int // down to which it is open
	Marks func(node int) []string
}

// Draw draws Next. A level of 0 stands for as many as can be overlooked.
func (a *App) Draw(ctx context.Context, who port.Person, ask drawing.Ask, title, small drawing.Measure) (Drawn, error) {
	var d Drawn
	err := a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Plan); err != nil {
			return err
		}
		o, err := a.outline(ctx, tx, s)
		if err != nil {
			return err
		}
		t := o.Trees.Next
		if ask.Branch != "" && t.Find(ask.Branch) == sitemap.None {
			return ErrNotFound
		}
		if ask.Level <= 0 {
			ask.Level = drawing.FittingLevel(t)
		}
		st := o.Standing()
		facts := drawing.Facts{Marks: map[string][]string{}, State: st.State, Written: st.Written, Visits: o.Visits, Now: a.now()}
		if ask.Overlay == drawing.ByClicks {
			r, err := a.reachOfNext(ctx, tx, s, o.Trees)
			if err != nil {
				return err
			}
			facts.Clicks = func(i int) int { return r.Clicks[i] }
		}
		for i := range t.Len() {
			if m := st.AllMarks(i); len(m) > 0 {
				facts.Marks[t.Ref(i).ID] = m
			}
		}
		d = Drawn{
			Drawing: drawing.New(t, ask, facts, title, small), Site: s, Trees: o.Trees, Level: ask.Level,
		}
		d.Marks = func(node int) []string { return facts.Marks[t.Ref(d.Nodes[node].Entry).ID] }
		return nil
	})
	return d, err
}
