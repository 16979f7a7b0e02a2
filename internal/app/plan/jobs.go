package plan

import (
	"context"
	"errors"
	"time"
)

// JobKind is what a job does.
type JobKind string

// The kinds of jobs: work that goes on behind requests, and outlives whoever began
// it and the process that does it.
const (
	JobReadFile     JobKind = "read_file"
	JobImportTexts  JobKind = "import_texts"
	JobSimilar      JobKind = "find_similar"
	JobCleanUp      JobKind = "clean_up"
	JobVisits       JobKind = "write_visits"
	JobFinishDrafts JobKind = "finish_drafts"
	JobReadOlder    JobKind = "read_older"
	JobTimed        JobKind = "publish_timed"
	JobPublish      JobKind = "publish_large"
	JobExport       JobKind = "export_edition"
)

// JobRow is what there is to know of one kind of job.
type JobRow struct {
	Kind   JobKind
	Name   string // what people call it
	Recurs bool   // it comes back again and again, so that only the last one is of interest
	Reads  bool   // it reads what strangers made: where it was lost with its process it is not tried again
}

// JobKinds is the table of kinds.
func JobKinds() []JobRow {
	return []JobRow{
		{JobReadFile, "Read an imported file", false, true},
		{JobImportTexts, "Import the texts of an older site", false, false},
		{JobReadOlder, "Import the list of an older site", false, true},
		{JobSimilar, "Find similar pages", false, false},
		{JobPublish, "Publish a large edition", false, false},
		{JobExport, "Export an edition", false, false},
		{JobCleanUp, "Delete what is no longer needed", true, false},
		{JobVisits, "Write down visits", true, false},
		{JobTimed, "Publish scheduled changes", true, false},
		{JobFinishDrafts, "Render drafts and find their words for the search", true, false},
	}
}

// Name is what people call the kind.
func (k JobKind) Name() string {
	for _, row := range JobKinds() {
		if row.Kind == k {
			return row.Name
		}
	}
	return string(k)
}

// Job is work to be done, once the transaction that enqueued it is through.
type Job struct {
	Kind JobKind
	ID   string // of what it works on, if that is one of several
}

// ErrGivenUp is returned by a job that trying again would not help.
var ErrGivenUp = errors.New("given up")

// JobState is how far a job is.
type JobState string

// The states of jobs.
const (
	JobWaiting  JobState = "waiting"
	JobRunning  JobState = "running"
	JobRetrying JobState = "will be tried again"
	JobDone     JobState = "done"
	JobFailed   JobState = "failed"
)

// KnownJob is a job as the view of jobs tells of it.
type KnownJob struct {
	Number      int64
	Job         Job
	State       JobState
	Attempt     int
	Most        int       // attempts
	At          time.Time // when it began, will begin, or ended
	Error       string    // of the last attempt that failed
	File        string    // the imported file that it works on
	Done, Total int       // of that file
}

// Enqueuer is a transaction that can enqueue jobs.
type Enqueuer interface {
	// Enqueue adds a job that begins when the transaction is through. One that waits
	// already is not added twice.
	Enqueue(ctx context.Context, j Job) error
}
