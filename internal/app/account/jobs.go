package account

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
)

// MostJobs is how many jobs are told of.
const MostJobs = 200

// Jobs gives the jobs that failed, wait or run, and the latest that are done.
func (a *Account) Jobs(ctx context.Context, who plan.Person) (jobs []plan.KnownJob, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		jobs, err = tx.Jobs(ctx, MostJobs)
		return err
	})
	return jobs, err
}

// RetryJob makes a job that failed, or that will be tried again, begin now.
func (a *Account) RetryJob(ctx context.Context, who plan.Person, number int64) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Govern); err != nil {
			return err
		}
		return tx.RetryJob(ctx, number)
	})
}
