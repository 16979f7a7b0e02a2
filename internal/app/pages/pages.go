// Package pages are the use cases of texts: a page is opened under a lock, saved as a
// draft over the version that it was made from, and kept beside where it meets
// another text. It also looks after pages that left the site and can be brought back.
package pages

import (
	"candlepath/internal/app/plan"
)

// Pages looks after the texts of pages, and the pages that left the site.
type Pages struct {
	plan.Area[Tx]
	saved savedTexts
}

// New makes Pages.
func New(floor *plan.Floor, store plan.Store[Tx]) *Pages {
	return &Pages{Area: plan.Area[Tx]{Floor: floor, Store: store}}
}
