package sitemap

import (
	"sync/atomic"

	"candlepath/internal/app/plan"
)

// Sitemap looks after the planned sitemap: acts on it, what is wrong with it, how it differs and
// is drawn, and files that come in and go out.
type Sitemap struct {
	plan.Area[Tx]

	checked atomic.Pointer[Checked]
	reading chan struct{} // holds one for each file that is read
}

// New makes a Sitemap.
func New(floor *plan.Floor, store plan.Store[Tx]) *Sitemap {
	return &Sitemap{Area: plan.Area[Tx]{Floor: floor, Store: store}, reading: make(chan struct{}, readAtOnce)}
}
