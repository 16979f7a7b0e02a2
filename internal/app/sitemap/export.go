package sitemap

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/drawing"
	"candlepath/internal/core/reach"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Export gives the tree to write to a file: Live or Next.
func (a *Sitemap) Export(ctx context.Context, who plan.Person, live bool) (*sitemap.Tree, plan.Site, error) {
	var t *sitemap.Tree
	var site plan.Site
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		t, site = trees.Next, s
		if live {
			t = trees.Live
		}
		return err
	})
	return t, site, err
}

// Drawn is Next as a drawn tree.
type Drawn struct {
	drawing.Drawing
	Site  plan.Site
	Trees plan.Trees
	Level int // down to which it is open
	Marks func(node int) []string
	// Ways gives for each node the nodes on the way of clicks to it; nil unless
	// the drawing is of clicks.
	Ways [][]int
}

// waysOver gives the way of clicks to each node.
func waysOver(d drawing.Drawing, r *reach.Reach) [][]int {
	along := d.Along()
	out := make([][]int, len(d.Nodes))
	for k, n := range d.Nodes {
		var entries []int
		for _, step := range r.Way(n.Entry) {
			entries = append(entries, step.Entry)
		}
		out[k] = along(entries)
	}
	return out
}

// Draw draws Next. A level of 0 stands for as many as can be overlooked.
func (a *Sitemap) Draw(ctx context.Context, who plan.Person, ask drawing.Ask, title, small drawing.Measure) (Drawn, error) {
	var d Drawn
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		o, err := a.LoadOutline(ctx, tx, s)
		if err != nil {
			return err
		}
		t := o.Trees.Next
		if ask.Branch != "" && t.Find(ask.Branch) == sitemap.None {
			return plan.ErrNotFound
		}
		if ask.Level <= 0 {
			ask.Level = drawing.FittingLevel(t)
		}
		st := o.Status()
		var clicks *reach.Reach
		facts := drawing.Facts{Marks: map[string][]string{}, State: st.State, Written: st.Written, Visits: o.Visits, Now: a.Now()}
		if ask.Overlay == drawing.ByClicks {
			if clicks, err = a.ReachOfNext(ctx, tx, s, o.Trees); err != nil {
				return err
			}
			facts.Clicks = func(i int) int { return clicks.Clicks[i] }
		}
		for i := range t.Len() {
			if m := st.AllMarks(i); len(m) > 0 {
				facts.Marks[t.Ref(i).ID] = m
			}
		}
		d = Drawn{
			Drawing: drawing.New(t, ask, facts, title, small), Site: s, Trees: o.Trees, Level: ask.Level,
		}
		if clicks != nil {
			d.Ways = waysOver(d.Drawing, clicks)
		}
		d.Marks = func(node int) []string { return facts.Marks[t.Ref(d.Nodes[node].Entry).ID] }
		return nil
	})
	return d, err
}
