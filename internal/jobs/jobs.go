// Package jobs runs what goes on behind requests. A use case enqueues a plan.Job in
// its transaction; any instance takes it up once that is through, by River, whose
// tables stand beside ours. A job whose process dies is taken up by another one, so
// each is written to go on where it stopped and to do nothing twice. Workers are thin,
// like handlers: they call one use case.
//
//	kind           what it does                            begun by
//	read_file      App.ReadFile                            an upload
//	import_texts   App.ImportTexts, a slice at a time      accepting an older site
//	find_similar   App.FindSimilar                         looking at similar pages
//	clean_up       App.CleanUp                             every hour
//	write_visits   App.AskForVisits                        every ten seconds
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"candlepath/internal/app"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
)

// Options of the jobs of an instance.
type Options struct {
	App     *app.App
	Read    appsitemap.ReadSheet
	OpenOld appsitemap.OpenOldSite
	Log     *slog.Logger
}

// Times and numbers of jobs.
const (
	atOnce       = 3                // jobs of one instance
	textSlice    = 20 * time.Second // how long a job imports texts before others get their turn
	longestRead  = 3 * time.Minute
	longestOther = 2 * time.Minute
	rescueAfter  = longestRead + 30*time.Second // a job that runs longer lost its process
	cleanEvery   = time.Hour
	visitsEvery  = 10 * time.Second
)

// Runner runs the jobs of an instance.
type Runner struct{ client *river.Client[pgx.Tx] }

// Start begins to run jobs. Stop ends that.
func Start(ctx context.Context, pool *pgxpool.Pool, o Options) (*Runner, error) {
	workers := river.NewWorkers()
	for _, add := range []error{
		river.AddWorkerSafely(workers, &readFile{o: o}),
		river.AddWorkerSafely(workers, &importTexts{o: o}),
		river.AddWorkerSafely(workers, &findSimilar{o: o}),
		river.AddWorkerSafely(workers, &cleanUp{o: o}),
		river.AddWorkerSafely(workers, &writeVisits{o: o}),
	} {
		if add != nil {
			return nil, add
		}
	}
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		Workers: workers, Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: atOnce}},
		JobTimeout: longestOther, RescueStuckJobsAfter: rescueAfter, ErrorHandler: errorLog{o.Log},
		Logger: slog.New(warnings{o.Log.Handler()}),
		PeriodicJobs: []*river.PeriodicJob{
			every(cleanEvery, func() river.JobArgs { return cleanUpArgs{} }),
			every(visitsEvery, func() river.JobArgs { return writeVisitsArgs{} }),
		},
	})
	if err != nil {
		return nil, fmt.Errorf("jobs: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		return nil, fmt.Errorf("start jobs: %w", err)
	}
	return &Runner{client}, nil
}

// every makes a job that one of all instances begins again and again; one that is
// still waiting or running is not begun twice.
func every(interval time.Duration, args func() river.JobArgs) *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(interval), func() (river.JobArgs, *river.InsertOpts) {
		return args(), &river.InsertOpts{MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByState: []rivertype.JobState{
			rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning, rivertype.JobStateScheduled,
		}}}
	}, &river.PeriodicJobOpts{RunOnStart: true})
}

// Stop ends what runs, to be gone on with by whoever comes next, and waits for it as
// long as the context lasts.
func (r *Runner) Stop(ctx context.Context) error { return r.client.StopAndCancel(ctx) }

// given ends a job for good where trying it again would not help.
func given(err error) error {
	if errors.Is(err, plan.ErrGivenUp) {
		return river.JobCancel(err)
	}
	return err
}

type readFileArgs struct {
	ID string `json:"id"`
}

// Kind names the kind of job.
func (readFileArgs) Kind() string { return string(plan.JobReadFile) }

type readFile struct {
	river.WorkerDefaults[readFileArgs]
	o Options
}

// Timeout is how long reading one file may take.
func (*readFile) Timeout(*river.Job[readFileArgs]) time.Duration { return longestRead }

// Work reads a file that is to be imported.
func (w *readFile) Work(ctx context.Context, j *river.Job[readFileArgs]) error {
	return given(w.o.App.ReadFile(ctx, j.Args.ID, w.o.Read))
}

type importTextsArgs struct {
	ID string `json:"id"`
}

// Kind names the kind of job.
func (importTextsArgs) Kind() string { return string(plan.JobImportTexts) }

type importTexts struct {
	river.WorkerDefaults[importTextsArgs]
	o Options
}

// Work imports texts of an older site for a while, and comes again if there are more.
func (w *importTexts) Work(ctx context.Context, j *river.Job[importTextsArgs]) error {
	done, err := w.o.App.ImportTexts(ctx, j.Args.ID, w.o.OpenOld, textSlice)
	if err == nil && !done {
		return river.JobSnooze(0)
	}
	return given(err)
}

type findSimilarArgs struct {
	ID string `json:"id"`
}

// Kind names the kind of job.
func (findSimilarArgs) Kind() string { return string(plan.JobSimilar) }

type findSimilar struct {
	river.WorkerDefaults[findSimilarArgs]
	o Options
}

// Work compares the texts of all pages.
func (w *findSimilar) Work(ctx context.Context, _ *river.Job[findSimilarArgs]) error {
	return given(w.o.App.FindSimilar(ctx))
}

type cleanUpArgs struct{}

// Kind names the kind of job.
func (cleanUpArgs) Kind() string { return string(plan.JobCleanUp) }

type cleanUp struct {
	river.WorkerDefaults[cleanUpArgs]
	o Options
}

// Work deletes what nobody needs any more.
func (w *cleanUp) Work(ctx context.Context, _ *river.Job[cleanUpArgs]) error {
	return w.o.App.CleanUp(ctx)
}

type writeVisitsArgs struct{}

// Kind names the kind of job.
func (writeVisitsArgs) Kind() string { return string(plan.JobVisits) }

type writeVisits struct {
	river.WorkerDefaults[writeVisitsArgs]
	o Options
}

// Work asks all instances to write down the visits that they counted.
func (w *writeVisits) Work(ctx context.Context, _ *river.Job[writeVisitsArgs]) error {
	return w.o.App.AskForVisits(ctx)
}
