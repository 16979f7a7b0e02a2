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
