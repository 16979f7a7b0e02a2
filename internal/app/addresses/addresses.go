// Package addresses are the use cases of redirects, and of addresses that are given
// up by name and reason.
package addresses

import (
	"candlepath/internal/app/plan"
)

// Addresses looks after redirects and the addresses that are given up.
type Addresses struct {
	plan.Area[Tx]

	older *plan.Cache[*olderFound]
}

// New makes Addresses.
func New(floor *plan.Floor, store plan.Store[Tx]) *Addresses {
	return &Addresses{Area: plan.Area[Tx]{Floor: floor, Store: store}, older: plan.NewCache[*olderFound](plan.CachedOldSite)}
}
