package pages

import (
	"candlepath/internal/app/plan"
)

// Pages looks after the texts of pages, and the pages that left the site.
type Pages struct {
	plan.Area[Tx]
}

// New makes Pages.
func New(floor *plan.Floor, store plan.Store[Tx]) *Pages {
	return &Pages{Area: plan.Area[Tx]{Floor: floor, Store: store}}
}
