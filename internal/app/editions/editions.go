// Package editions are the use cases of publishing: what the next edition would hold, what of it a person chose,
// its checks, reviews and dates, the act of publishing, and the way back.
//
// Each road to Live reads the work (load), makes a selection, has the core propose, check and judge an edition
// (workOut), and hands that to release, the one function that writes editions; see package core/edition. What is
// worked out is cached as long as nothing changes of what it was read from. Publishing holds the site and every
// draft before it asks whether something did, so that what was checked is what goes out; see Publish.
package editions

import (
	"golang.org/x/sync/singleflight"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/edition"
)

// Editions looks after the next edition, publishes it, and goes back to earlier ones.
type Editions struct {
	plan.Area[Tx]

	summary    *plan.Cache[NextEdition]
	selections *plan.Cache[NextEdition]
	ever       *plan.Cache[*edition.History]
	known      *plan.Cache[addressesUntil]
	summing    singleflight.Group
}

// New makes Editions.
func New(floor *plan.Floor, store plan.Store[Tx]) *Editions {
	return &Editions{
		Area:    plan.Area[Tx]{Floor: floor, Store: store},
		summary: plan.NewCache[NextEdition](plan.CachedNextEdition), selections: plan.NewCache[NextEdition](plan.CachedSelections),
		ever: plan.NewCache[*edition.History](plan.CachedHistory), known: plan.NewCache[addressesUntil](plan.CachedHistoricalAddresses),
	}
}
