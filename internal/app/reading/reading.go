// Package reading are the use cases of readers: what an instance keeps of the current
// edition, bodies and pictures of pages, search, previews and counts of visits.
package reading

import (
	"candlepath/internal/app/plan"
)

// Reading gives readers what they see.
type Reading struct {
	plan.Area[Tx]
}

// New makes a Reading.
func New(floor *plan.Floor, store plan.Store[Tx]) *Reading {
	return &Reading{Area: plan.Area[Tx]{Floor: floor, Store: store}}
}
