// Package jobs runs what goes on behind requests. A use case enqueues a plan.Job in
// its transaction; any instance takes it up once that is through, by River, whose
// tables stand beside ours. A job whose process dies is taken up by another one within seconds, so
// each is written to go on where it stopped and to do nothing twice. Workers are thin,
// like handlers: they call one use case.
//
//	kind           what it does                            begun by
//	read_file      App.ReadFile                            an upload
//	import_texts   App.ImportTexts, a slice at a time      accepting an older site
//	find_similar   App.FindSimilar                         looking at similar pages
//	read_older     App.ReadOlder                           importing the list of an older site
//	clean_up       App.CleanUp, SweepFiles, SweepOlder, SweepExports, TellDue, TellOverdue       every hour, and removing a file
//	write_visits   App.AskForVisits                        every ten seconds
//	finish_drafts  App.FinishDrafts                        every ten seconds
//	publish_large  App.PublishLarge                        publishing much
//	export_edition App.WriteOut                            exporting an edition
//	publish_timed  App.PublishDue                          every ten seconds; it waits for a date that is near
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"candlepath/internal/app"
	"candlepath/internal/app/addresses"
	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/platform/background"
)

// Options of the jobs of an instance.
type Options struct {
	App     *app.App
	Read    appsitemap.ReadSheet
	OpenOld appsitemap.OpenOldSite
	// ReadOlder reads the list of an older site.
	ReadOlder addresses.ReadOlder
	// WriteExport writes a state of the site as a .zip.
	WriteExport editions.WriteExport
	Log         *slog.Logger
	Work        *background.Group // beside requests
}

// Times and numbers of jobs.
const (
	atOnce       = 3                // jobs of one instance
	textSlice    = 20 * time.Second // how long a job imports texts before others get their turn
	longestRead  = 3 * time.Minute
	longestOther = 2 * time.Minute
	longestWork  = 12 * time.Hour // of what tells how far it is and can be stopped
	rescueAfter  = longestWork + time.Hour
	cleanEvery   = time.Hour
	visitsEvery  = 10 * time.Second
	finishEvery  = 10 * time.Second
	timedEvery   = 10 * time.Second
)

// Runner runs the jobs of an instance.
type Runner struct {
	client *river.Client[pgx.Tx]
	here   *presence
}

// Start begins to run jobs. Stop ends that.
func Start(ctx context.Context, pool *pgxpool.Pool, o Options) (*Runner, error) {
	workers := river.NewWorkers()
	for _, add := range []error{
		river.AddWorkerSafely(workers, &worker[readFile]{longest: longestRead, do: func(ctx context.Context, j readFile) error {
			return o.App.ReadFile(ctx, j.ID, o.Read)
		}}),
		river.AddWorkerSafely(workers, &worker[importTexts]{longest: longestOther, do: func(ctx context.Context, j importTexts) error {
			done, err := o.App.ImportTexts(ctx, j.ID, o.OpenOld, textSlice)
			if err == nil && !done {
				return river.JobSnooze(0) // others get their turn
			}
			return err
		}}),
		river.AddWorkerSafely(workers, &worker[readOlder]{longest: longestOther, do: func(ctx context.Context, j readOlder) error {
			return o.App.ReadOlder(ctx, j.ID, o.ReadOlder)
		}}),
		river.AddWorkerSafely(workers, &worker[publishLarge]{longest: longestWork, do: func(ctx context.Context, j publishLarge) error { return o.App.PublishLarge(ctx, j.ID) }}),
		river.AddWorkerSafely(workers, &worker[exportEdition]{longest: longestWork, do: func(ctx context.Context, j exportEdition) error {
			return o.App.WriteOut(ctx, j.ID, o.WriteExport)
		}}),
		river.AddWorkerSafely(workers, &worker[publishTimed]{longest: longestWork, do: func(ctx context.Context, _ publishTimed) error { return o.App.PublishDue(ctx) }}),
		river.AddWorkerSafely(workers, &worker[findSimilar]{longest: longestOther, do: func(ctx context.Context, _ findSimilar) error { return o.App.FindSimilar(ctx) }}),
		river.AddWorkerSafely(workers, &worker[cleanUp]{longest: longestOther, do: func(ctx context.Context, _ cleanUp) error {
			return errors.Join(o.App.CleanUp(ctx), o.App.SweepFiles(ctx), o.App.SweepOlder(ctx), o.App.SweepExports(ctx), o.App.TellDue(ctx), o.App.TellOverdue(ctx))
		}}),
		river.AddWorkerSafely(workers, &worker[writeVisits]{longest: longestOther, do: func(ctx context.Context, _ writeVisits) error { return o.App.AskForVisits(ctx) }}),
		river.AddWorkerSafely(workers, &worker[finishDrafts]{longest: longestOther, do: func(ctx context.Context, _ finishDrafts) error { return o.App.FinishDrafts(ctx) }}),
	} {
		if add != nil {
			return nil, add
		}
	}
	name := uuid.NewString()
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		ID: name, Workers: workers, Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: atOnce}, timedQueue: {MaxWorkers: 1}},
		JobTimeout: longestOther, RescueStuckJobsAfter: rescueAfter, ErrorHandler: errorLog{o.Log, o.App.GiveUpJob},
		Logger: slog.New(warnings{o.Log.Handler()}),
		PeriodicJobs: []*river.PeriodicJob{
			every(cleanEvery, func() river.JobArgs { return cleanUp{} }),
			always(visitsEvery, func() river.JobArgs { return writeVisits{} }),
			always(timedEvery, func() river.JobArgs { return publishTimed{} }), // on a queue of its own, see InsertOpts
			every(finishEvery, func() river.JobArgs { return finishDrafts{} }),
		},
	})
	if err != nil {
		return nil, fmt.Errorf("jobs: %w", err)
	}
	here, err := bePresent(ctx, pool, name, o.Log, o.Work, o.App.GiveUpJob)
	if err != nil {
		return nil, fmt.Errorf("start jobs: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		here.end()
		return nil, fmt.Errorf("start jobs: %w", err)
	}
	return &Runner{client, here}, nil
}

// every makes a job that one of all instances begins again and again; one that is
// still waiting or running is not begun twice. One whose process died counts as running
// until that is noticed.
func every(interval time.Duration, args func() river.JobArgs) *river.PeriodicJob {
	return periodic(interval, args, river.UniqueOpts{ByState: []rivertype.JobState{
		rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRetryable, rivertype.JobStateRunning, rivertype.JobStateScheduled,
	}})
}

// always makes a job that must not wait for one whose process died: it begins at each
// interval, even beside another. Half of the interval, so that two in a row are never
// taken for one.
func always(interval time.Duration, args func() river.JobArgs) *river.PeriodicJob {
	return periodic(interval, args, river.UniqueOpts{ByPeriod: interval / 2})
}

func periodic(interval time.Duration, args func() river.JobArgs, unique river.UniqueOpts) *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(interval), func() (river.JobArgs, *river.InsertOpts) {
		queue := river.QueueDefault
		if _, timed := args().(publishTimed); timed {
			queue = timedQueue
		}
		return args(), &river.InsertOpts{Queue: queue, MaxAttempts: 1, UniqueOpts: unique}
	}, &river.PeriodicJobOpts{RunOnStart: true})
}

// Stop ends what runs, to be gone on with by whoever comes next, and waits for it as
// long as the context lasts.
func (r *Runner) Stop(ctx context.Context) error {
	defer r.here.end()
	return r.client.StopAndCancel(ctx)
}

// The arguments of each kind of job.
type (
	readFile struct {
		ID string `json:"id"`
	}
	importTexts struct {
		ID string `json:"id"`
	}
	readOlder struct {
		ID string `json:"id"`
	}
	publishLarge struct {
		ID string `json:"id"`
	}
	exportEdition struct {
		ID string `json:"id"`
	}
	findSimilar struct {
		ID string `json:"id"`
	}
	cleanUp      struct{}
	writeVisits  struct{}
	finishDrafts struct{}

	publishTimed struct{}
)

// Kind names the kind of job.
func (readFile) Kind() string { return string(plan.JobReadFile) }

// Kind names the kind of job.
func (importTexts) Kind() string { return string(plan.JobImportTexts) }

// Kind names the kind of job.
func (publishLarge) Kind() string { return string(plan.JobPublish) }
func (readOlder) Kind() string    { return string(plan.JobReadOlder) }

// Kind names the kind of job.
func (exportEdition) Kind() string { return string(plan.JobExport) }

// timedQueue is the queue of what has a date: nothing else keeps it waiting.
const timedQueue = "timed"

// Kind names the kind of job.
func (publishTimed) Kind() string { return string(plan.JobTimed) }

// Kind names the kind of job.
func (findSimilar) Kind() string { return string(plan.JobSimilar) }

// Kind names the kind of job.
func (cleanUp) Kind() string { return string(plan.JobCleanUp) }

// Kind names the kind of job.
func (writeVisits) Kind() string { return string(plan.JobVisits) }

// Kind names the kind of job.
func (finishDrafts) Kind() string { return string(plan.JobFinishDrafts) }

// worker does jobs of one kind.
type worker[Args river.JobArgs] struct {
	river.WorkerDefaults[Args]
	longest time.Duration
	do      func(context.Context, Args) error
}

// Timeout is how long a job may take.
func (w *worker[Args]) Timeout(*river.Job[Args]) time.Duration { return w.longest }

// Work does a job. One that trying again would not help ends for good.
func (w *worker[Args]) Work(ctx context.Context, j *river.Job[Args]) error {
	err := w.do(ctx, j.Args)
	if errors.Is(err, plan.ErrGivenUp) {
		return river.JobCancel(err)
	}
	return err
}
