package editions

import (
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
)

// releaseChanges are the planned releases as changes of the next edition.
func releaseChanges(list []plan.ReleasedAddress) []change.Change {
	var out []change.Change
	for _, r := range list {
		if r.Edition == 0 {
			out = append(out, change.Change{Key: change.Key{ID: r.Address, Aspect: change.Released}, Because: r.Why})
		}
	}
	return out
}

// released gives the addresses that an edition gives up.
func (n *NextEdition) released() map[string]bool {
	out := map[string]bool{}
	for k := range n.Chosen {
		if k.Aspect == change.Released {
			out[k.ID] = true
		}
	}
	return out
}
