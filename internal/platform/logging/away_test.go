package logging_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/platform/logging"
)

// While the database is away the log says so once a minute, whoever notices, and everything else at once.
func TestTheDatabaseIsAwayInOneLine(t *testing.T) {
	var out bytes.Buffer
	h := logging.NewAway(slog.NewTextHandler(&out, nil))
	queue := slog.New(h).With("queue", "default")
	at := time.Date(2026, 12, 1, 9, 0, 0, 0, time.UTC)
	say := func(log *slog.Logger, after time.Duration, msg string, args ...any) {
		r := slog.NewRecord(at.Add(after), slog.LevelError, msg, 0)
		r.Add(args...)
		require.NoError(t, log.Handler().Handle(context.Background(), r))
	}
	away := fmt.Errorf("fetch jobs: %w", errors.New("failed to connect to `host=127.0.0.1`: connection refused"))
	for i := range 36 {
		say([]*slog.Logger{slog.New(h), queue}[i%2], time.Duration(i)*time.Second, fmt.Sprint("line ", i), "error", away)
	}
	require.Equal(t, 1, strings.Count(out.String(), "\n"), out.String())
	require.Contains(t, out.String(), `noticed by`)
	require.Contains(t, out.String(), "connection refused")

	out.Reset()
	say(queue, 40*time.Second, "another fault", "error", errors.New("a column is missing"))
	say(slog.New(h), 40*time.Second, "request failed", "id", "2q5df1j1gp", "error", away)
	say(slog.New(h).With("id", "2q5df1j1gq"), 40*time.Second, "request failed", "error", away)
	require.Equal(t, 3, strings.Count(out.String(), "\n"), "other faults and requests are told")

	out.Reset()
	say(queue, 2*time.Minute, "fetch", "err", "terminating connection due to administrator command (SQLSTATE 57P01)")
	require.Contains(t, out.String(), `"lines left out"=35`)
}
