package editions

import (
	"context"

	"candlepath/internal/app/plan"
)

// Decide says where the visitors of a page that is planned to go belong. to is
// "gone", an entry id, an address of Next or a URL; empty takes the decision
// back.
func (a *Editions) Decide(ctx context.Context, who plan.Person, entry, to string, temporary bool, review string) error {
	_, err := a.DecideRemoved(ctx, who, plan.NewID(), []plan.Destination{{Entry: entry, To: to, Temporary: temporary, Review: review}})
	return err
}
