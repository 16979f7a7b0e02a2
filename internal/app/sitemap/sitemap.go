// Package sitemap are the use cases of the first stop: acts on the planned sitemap,
// how it is looked at, checked, compared and drawn, and files that come in and go out.
//
// An act is a row of the table acts: what it takes of what a client sent, and whether
// its consequences are shown first. Plan performs it on Next; everything that it
// decides is the core's. An import is read beside the request, previewed as often as
// its choices change, and accepted as one act; the texts of an older site follow in
// batches that can be begun again anywhere.
package sitemap

import (
	"candlepath/internal/app/plan"
)

// Sitemap looks after the planned sitemap: acts on it, what is wrong with it, how it differs and
// is drawn, and files that come in and go out.
type Sitemap struct {
	plan.Area[Tx]

	checked *plan.Cache[Checked]
	reading chan struct{} // holds one for each file that is read
}

// New makes a Sitemap.
func New(floor *plan.Floor, store plan.Store[Tx]) *Sitemap {
	return &Sitemap{
		Area: plan.Area[Tx]{Floor: floor, Store: store}, checked: plan.NewCache[Checked](plan.CachedChecks),
		reading: make(chan struct{}, readAtOnce),
	}
}
