package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"

	"candlepath/internal/app/plan"
)

// migrateJobs brings the tables of jobs up to date.
func migrateJobs(ctx context.Context, pool *pgxpool.Pool) error {
	m, err := rivermigrate.New(riverpgxv5.New(pool), nil)
	if err != nil {
		return fmt.Errorf("migrate jobs: %w", err)
	}
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrate jobs: %w", err)
	}
	return nil
}

// jobsUpToDate tells whether the tables of jobs are those that this program needs.
func jobsUpToDate(ctx context.Context, pool *pgxpool.Pool) (bool, error) {
	m, err := rivermigrate.New(riverpgxv5.New(pool), nil)
	if err != nil {
		return false, err
	}
	found, err := m.Validate(ctx, nil)
	if err != nil {
		return false, err
	}
	return found.OK, nil
}

// newQueue makes the client by which transactions enqueue jobs; it runs none.
func newQueue() (*river.Client[*sql.Tx], error) {
	return river.NewClient(riverdatabasesql.New(nil), &river.Config{})
}

// jobArgs are the arguments of a job of any kind.
type jobArgs struct {
	kind string
	ID   string `json:"id"`
}

// Kind names the kind.
func (a jobArgs) Kind() string { return a.kind }

// waitingStates are those in which a job has still to run, or runs.
var waitingStates = []rivertype.JobState{
	rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning, rivertype.JobStateScheduled,
}

// Enqueue adds a job that begins when the transaction is through; one that waits or
// runs already is not added again.
func (t *tx) Enqueue(ctx context.Context, j plan.Job) error {
	conn, err := t.sqlTx()
	if err != nil {
		return err
	}
	unique := river.UniqueOpts{ByArgs: true, ByState: waitingStates}
	if _, err := t.queue.InsertTx(ctx, conn, jobArgs{string(j.Kind), j.ID}, &river.InsertOpts{UniqueOpts: unique, MaxAttempts: jobAttempts}); err != nil {
		return fmt.Errorf("enqueue %s: %w", j.Kind, err)
	}
	return nil
}

// jobAttempts is how often a job is tried.
const jobAttempts = 5

func (t *tx) sqlTx() (*sql.Tx, error) {
	conn, ok := t.db.Statement.ConnPool.(*sql.Tx)
	if !ok {
		return nil, errors.New("jobs: not in a transaction")
	}
	return conn, nil
}

// ReviveJob makes a job begin again whose process gives no sign of life.
func (t *tx) ReviveJob(ctx context.Context, j plan.Job) error {
	n, err := t.exec(ctx, `UPDATE river_job SET state = 'available', scheduled_at = now() WHERE kind = ? AND args ->> 'id' = ?
		AND state IN ('available', 'retryable', 'running', 'scheduled')`, string(j.Kind), j.ID)
	if err == nil && n == 0 {
		return t.Enqueue(ctx, j)
	}
	return err
}

// jobStates says what the states of the queue are to people.
var jobStates = map[rivertype.JobState]plan.JobState{
	rivertype.JobStateAvailable: plan.JobWaiting, rivertype.JobStatePending: plan.JobWaiting, rivertype.JobStateScheduled: plan.JobWaiting,
	rivertype.JobStateRunning: plan.JobRunning, rivertype.JobStateRetryable: plan.JobRetrying,
	rivertype.JobStateCompleted: plan.JobDone, rivertype.JobStateCancelled: plan.JobFailed, rivertype.JobStateDiscarded: plan.JobFailed,
}

// Jobs gives up to n jobs: first those that failed, wait or run, then the latest that
// are done; of those that come back again and again, the last one that is done.
func (t *tx) Jobs(ctx context.Context, n int) ([]plan.KnownJob, error) {
	var rows []struct {
		ID                                int64
		Kind, Of, State, Error, FileName  string
		Attempt, MaxAttempts, Done, Total int
		At                                time.Time
	}
	var recurring []string
	for _, row := range plan.JobKinds() {
		if row.Recurs {
			recurring = append(recurring, string(row.Kind))
		}
	}
	err := t.scan(ctx, &rows, `SELECT j.id, j.kind, coalesce(j.args ->> 'id', '') AS of, j.state, j.attempt, j.max_attempts,
			CASE WHEN j.finalized_at IS NOT NULL THEN j.finalized_at WHEN j.state = 'running' THEN j.attempted_at ELSE j.scheduled_at END AS at,
			coalesce(j.errors[cardinality(j.errors)] ->> 'error', '') AS error,
			coalesce(b.file_name, '') AS file_name, coalesce(b.done, 0) AS done, coalesce(b.total, 0) AS total
		FROM river_job j LEFT JOIN bring_ins b ON b.site_id = ? AND b.id::text = j.args ->> 'id'
		WHERE j.state <> 'completed' OR j.kind <> ALL (CAST(? AS text[]))
			OR j.id = (SELECT max(l.id) FROM river_job l WHERE l.kind = j.kind AND l.state = 'completed')
		ORDER BY CASE WHEN j.state = 'completed' THEN 1 ELSE 0 END, at DESC, j.id DESC LIMIT ?`, t.site, setText(recurring), n)
	out := make([]plan.KnownJob, len(rows))
	for i, r := range rows {
		out[i] = plan.KnownJob{
			Number: r.ID, Job: plan.Job{Kind: plan.JobKind(r.Kind), ID: r.Of}, State: jobStates[rivertype.JobState(r.State)],
			Attempt: r.Attempt, Most: r.MaxAttempts, At: r.At, Error: r.Error, File: r.FileName, Done: r.Done, Total: r.Total,
		}
	}
	return out, err
}

// RetryJob makes a job that failed, or that will be tried again, begin now.
func (t *tx) RetryJob(ctx context.Context, number int64) error {
	conn, err := t.sqlTx()
	if err != nil {
		return err
	}
	if _, err := t.queue.JobRetryTx(ctx, conn, number); errors.Is(err, rivertype.ErrNotFound) {
		return plan.ErrNotFound
	} else if err != nil {
		return fmt.Errorf("try job %d again: %w", number, err)
	}
	return nil
}

// AskForVisits asks every instance to write down the visits that it counted.
func (t *tx) AskForVisits(ctx context.Context) error {
	_, err := t.exec(ctx, `SELECT pg_notify(?, 'visits')`, Channel)
	return err
}
