package jobs

import (
	"context"
	"encoding/json"
	"log/slog"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"candlepath/internal/app/plan"
)

// errorLog tells of jobs that failed, and frees the people of those that are not tried again.
type errorLog struct {
	log    *slog.Logger
	giveUp func(context.Context, plan.Job) error
}

// HandleError logs the error of a job; whether it is tried again is its own matter.
func (e errorLog) HandleError(ctx context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	if ctx.Err() == nil { // else the program ends, and another one goes on
		e.log.Error("job failed", "kind", job.Kind, "job", job.ID, "attempt", job.Attempt, "error", err)
		e.last(ctx, job)
	}
	return nil
}

// last frees the people of a job that failed for the last time.
func (e errorLog) last(ctx context.Context, job *rivertype.JobRow) {
	var of struct{ ID string }
	if job.Attempt < job.MaxAttempts || json.Unmarshal(job.EncodedArgs, &of) != nil {
		return
	}
	if err := e.giveUp(ctx, plan.Job{Kind: plan.JobKind(job.Kind), ID: of.ID}); err != nil {
		e.log.Error("free the person of a job", "kind", job.Kind, "job", job.ID, "error", err)
	}
}

// HandlePanic logs a panic in a job.
func (e errorLog) HandlePanic(ctx context.Context, job *rivertype.JobRow, problem any, trace string) *river.ErrorHandlerResult {
	e.log.Error("panic in a job", "kind", job.Kind, "job", job.ID, "problem", problem, "stack", trace)
	e.last(ctx, job)
	return nil
}

// warnings lets only warnings and errors of the queue into the log, not what it does
// from day to day.
type warnings struct{ slog.Handler }

// Enabled tells which lines are logged.
func (w warnings) Enabled(ctx context.Context, l slog.Level) bool {
	return l >= slog.LevelWarn && w.Handler.Enabled(ctx, l)
}

// WithAttrs gives the handler with attributes.
func (w warnings) WithAttrs(attrs []slog.Attr) slog.Handler {
	return warnings{w.Handler.WithAttrs(attrs)}
}

// WithGroup gives the handler with a group.
func (w warnings) WithGroup(name string) slog.Handler { return warnings{w.Handler.WithGroup(name)} }
