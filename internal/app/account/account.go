// Package account are the use cases of people, of signing in, of the settings of a
// site, and of its beginning.
package account

import (
	"context"

	"candlepath/internal/app/plan"
)

// Account looks after people, how they sign in, and the settings of the site.
type Account struct {
	plan.Area[Tx]

	hashing *gate
	begin   func(context.Context, plan.Person) error // publishes the first edition
}

// New makes an Account.
func New(floor *plan.Floor, store plan.Store[Tx], begin func(context.Context, plan.Person) error) *Account {
	return &Account{Area: plan.Area[Tx]{Floor: floor, Store: store}, hashing: newGate(), begin: begin}
}
