package editions

import (
	"candlepath/internal/app/plan"
	"candlepath/internal/core/ways"
)

// waysAfter gives the ways of an edition and what stays planned of them. What
// was planned stays planned by whom it was; what is taken back is planned by
// whoever publishes.
func (a *Editions) waysAfter(trees plan.Trees, live ways.Set, who string) plan.Ways {
	w := plan.Ways{Live: live, Next: trees.Ways.Next, Planned: map[string]plan.Planned{}}
	for _, p := range ways.Patches(w.Live, w.Next) {
		by, planned := trees.Ways.Planned[p.ID]
		if !planned {
			by = plan.Planned{PersonID: who, At: a.Now()}
		}
		w.Planned[p.ID] = by
	}
	return w
}
