package editions

import (
	"sync/atomic"

	"golang.org/x/sync/singleflight"

	"candlepath/internal/app/plan"
)

// Editions looks after the next edition, publishes it, and goes back to earlier ones.
type Editions struct {
	plan.Area[Tx]

	summary atomic.Pointer[keptNext]
	summing singleflight.Group
}

// New makes Editions.
func New(floor *plan.Floor, store plan.Store[Tx]) *Editions {
	return &Editions{Area: plan.Area[Tx]{Floor: floor, Store: store}}
}
