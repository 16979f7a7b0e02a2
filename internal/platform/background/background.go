// Package background runs what goes on beside requests, so that nothing of it can end the process.
//
// A panic becomes an error with its stack. It is logged and counted, and the work counts as failing
// under its name until the same work succeeds; readiness tells the names. Work that should last as
// long as the process is started again, a little later each time.
package background

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"sync/atomic"
	"time"
)

// Group is the background work of one instance. The zero Group logs nothing and is ready to use.
type Group struct {
	Log *slog.Logger

	wait    sync.WaitGroup
	panics  atomic.Uint64
	mu      sync.Mutex
	failing map[string]error
}

// Panic is an error that was a panic.
type Panic struct {
	Value any
	Stack []byte
}

func (p *Panic) Error() string { return fmt.Sprintf("panic: %v\n%s", p.Value, p.Stack) }

// Recovered makes a panic an error of the function that defers it.
func Recovered(err *error) {
	if p := recover(); p != nil {
		*err = &Panic{p, debug.Stack()}
	}
}

// Run does a piece of work now, and tells what came of it. It counts as failing after any error.
func (g *Group) Run(name string, work func() error) error {
	err := func() (err error) {
		defer Recovered(&err)
		return work()
	}()
	g.Note(name, err)
	return err
}

// Note remembers whether work of a name failed last; work that was merely ended did not.
func (g *Group) Note(name string, err error) {
	failed := err != nil && !errors.Is(err, context.Canceled)
	if panicked := (*Panic)(nil); errors.As(err, &panicked) {
		g.panics.Add(1)
		if g.Log != nil {
			g.Log.Error("panic in background work", "work", name, "problem", panicked.Value, "stack", string(panicked.Stack))
		}
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	if !failed {
		delete(g.failing, name)
		return
	}
	if g.failing == nil {
		g.failing = map[string]error{}
	}
	g.failing[name] = err
}

// Go does a piece of work beside the caller. It counts as failing only when it panics: what else keeps
// it from succeeding, such as a database that restarts, is its own to tell.
func (g *Group) Go(name string, work func() error) {
	g.wait.Go(func() {
		err := func() (err error) {
			defer Recovered(&err)
			return work()
		}()
		if panicked := (*Panic)(nil); err == nil || errors.As(err, &panicked) {
			g.Note(name, err)
		}
	})
}

// Restart times of work that should last.
const (
	firstRestart = 250 * time.Millisecond
	lastRestart  = 5 * time.Second
)

// Keep does work that should last until the context ends, and starts it again whenever it ends
// earlier; it counts as failing as with Go. The channel is closed when it is over.
func (g *Group) Keep(ctx context.Context, name string, work func(context.Context) error) <-chan struct{} {
	over := make(chan struct{})
	g.wait.Go(func() {
		defer close(over)
		for pause := firstRestart; ctx.Err() == nil; pause = min(2*pause, lastRestart) {
			began := time.Now()
			err := func() (err error) {
				defer Recovered(&err)
				return work(ctx)
			}()
			if panicked := (*Panic)(nil); errors.As(err, &panicked) {
				g.Note(name, err)
			}
			if ctx.Err() != nil {
				return
			}
			if time.Since(began) > lastRestart {
				pause = firstRestart
			}
			select {
			case <-ctx.Done():
			case <-time.After(pause):
			}
		}
	})
	return over
}

// Wait waits for all that was begun.
func (g *Group) Wait() { g.wait.Wait() }

// Failing lists the names of work that failed last, sorted.
func (g *Group) Failing() []string {
	g.mu.Lock()
	defer g.mu.Unlock()
	names := make([]string, 0, len(g.failing))
	for name := range g.failing {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// Panics counts the panics that were caught.
func (g *Group) Panics() uint64 { return g.panics.Load() }
