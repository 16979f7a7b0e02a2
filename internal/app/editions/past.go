package editions

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// PastEditions lists all editions, the newest first, with the people.
func (a *Editions) PastEditions(ctx context.Context, who plan.Person) (eds []plan.Edition, people map[string]plan.Person, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		if eds, err = tx.Editions(ctx); err != nil {
			return err
		}
		people, err = plan.PeopleByID(ctx, tx)
		return err
	})
	return eds, people, err
}
