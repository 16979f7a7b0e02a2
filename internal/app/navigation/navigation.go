// Package navigation are the use cases of menus and trails, and of how pages are
// reached and found. Menus and trails are Items of Next beside the sitemap, so that
// a change of one is recorded, undone and published like any other.
package navigation

import (
	"candlepath/internal/app/plan"
)

// Navigation looks after menus and trails, and how pages are reached and found.
type Navigation struct {
	plan.Area[Tx]
}

// New makes a Navigation.
func New(floor *plan.Floor, store plan.Store[Tx]) *Navigation {
	return &Navigation{Area: plan.Area[Tx]{Floor: floor, Store: store}}
}
