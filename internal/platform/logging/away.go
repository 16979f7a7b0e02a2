// Package logging keeps the log readable while the database is away.
//
// A dozen things look at the database beside requests: announcements, jobs, the clock of what is scheduled, counts.
// When it goes away each of them says so, and again at each attempt. Away lets the first such line through,
// with the error, and then one a minute that says how many it left out. Lines of requests carry an id, which
// somebody may be looking for, and are never left out.
package logging

import (
	"context"
	"log/slog"
	"strings"
	"sync"
	"time"
)

// Away is a handler that passes on records to another, and of those that tell of a database that cannot be
// reached, one a minute.
type Away struct {
	slog.Handler
	told  *told
	asked bool // by a request: its attributes hold an id
}

// told is what all handlers made of one share.
type told struct {
	mu   sync.Mutex
	at   time.Time // when the last line was passed on
	left int       // how many were not since
}

// again is how often the log says that the database is away.
const again = time.Minute

// NewAway makes a handler over another.
func NewAway(h slog.Handler) *Away { return &Away{Handler: h, told: &told{}} }

// Handle passes a record on, or counts it.
func (a *Away) Handle(ctx context.Context, r slog.Record) error {
	why := ""
	asked := a.asked
	r.Attrs(func(at slog.Attr) bool {
		asked = asked || at.Key == requestID
		if (at.Key == "error" || at.Key == "err") && cannotReach(at.Value.String()) {
			why = at.Value.String()
		}
		return true
	})
	if why == "" || asked {
		return a.Handler.Handle(ctx, r)
	}
	left, passes := a.told.pass(r.Time)
	if !passes {
		return nil
	}
	line := slog.NewRecord(r.Time, slog.LevelError, "the database cannot be reached; trying again", r.PC)
	line.AddAttrs(slog.String("noticed by", r.Message), slog.String("error", why))
	if left > 0 {
		line.AddAttrs(slog.Int("lines left out", left))
	}
	return a.Handler.Handle(ctx, line)
}

// requestID is the attribute by which lines of requests are found.
const requestID = "id"

func (t *told) pass(now time.Time) (left int, passes bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if now.Sub(t.at) < again {
		t.left++
		return 0, false
	}
	left, t.left, t.at = t.left, 0, now
	return left, true
}

// signs are what errors of a lost connection say; drivers and queues wrap them in ways of their own.
var signs = []string{
	"failed to connect to", "connection refused", "connection reset by peer", "broken pipe", "conn closed", "unexpected EOF", "closed pool",
	"SQLSTATE 57P01", "SQLSTATE 57P02", "SQLSTATE 57P03", "SQLSTATE 08",
}

// cannotReach tells whether an error is that the database cannot be reached, is starting or is shutting down.
func cannotReach(err string) bool {
	for _, s := range signs {
		if strings.Contains(err, s) {
			return true
		}
	}
	return false
}

// WithAttrs gives the handler with attributes.
func (a *Away) WithAttrs(attrs []slog.Attr) slog.Handler {
	asked := a.asked
	for _, at := range attrs {
		asked = asked || at.Key == requestID
	}
	return &Away{a.Handler.WithAttrs(attrs), a.told, asked}
}

// WithGroup gives the handler with a group.
func (a *Away) WithGroup(name string) slog.Handler {
	return &Away{a.Handler.WithGroup(name), a.told, a.asked}
}
