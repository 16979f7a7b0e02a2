package account

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// MostNotices is how many notices the inbox shows.
const MostNotices = 200

// Inbox gives what a person was told: first what was not read, then the latest.
func (a *Account) Inbox(ctx context.Context, who plan.Person) (list []plan.Notice, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		list, err = tx.Notices(ctx, who.ID, MostNotices)
		return err
	})
	return list, err
}

// MarkRead notes that a person read one of their notices, or all up to one.
func (a *Account) MarkRead(ctx context.Context, who plan.Person, id int64, all bool) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		return tx.MarkRead(ctx, who.ID, id, all, a.Now())
	})
}
