package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// WorkChannel is where it is announced that something of the work in the studio changed: "plan",
// "here" for who is there, or "lock" and the entry.
const WorkChannel = "candlepath_work"

// Listen calls f once when it begins to listen, and whenever something is
// announced: the number of an edition, "people" where who is who changed, "visits"
// where those that were counted are to be written down, or nothing where the look of
// the site changed. It calls work with what is announced of the work in the studio. It returns
// when the connection breaks or the context ends.
func (s *Store) Listen(ctx context.Context, f, work func(what string)) error {
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "LISTEN "+Channel+"; LISTEN "+WorkChannel); err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer conn.Conn().Close(context.WithoutCancel(ctx)) //nolint:errcheck // a listening connection does not go back to the pool
	f("")
	work("plan")
	work("here")
	for {
		n, err := waitFor(ctx, conn.Conn())
		if err != nil {
			return fmt.Errorf("listen: %w", err)
		}
		if n == nil {
			continue
		}
		if n.Channel == WorkChannel {
			work(n.Payload)
		} else {
			f(n.Payload)
		}
	}
}

// How long nothing may be announced before the connection is tried, and how long that may take: where the
// network goes away, nothing tells.
const (
	quietFor = 30 * time.Second
	tryFor   = 5 * time.Second
)

// waitFor waits for an announcement; nil where there was none for a while and the connection holds.
func waitFor(ctx context.Context, conn *pgx.Conn) (*pgconn.Notification, error) {
	quiet, stop := context.WithTimeout(ctx, quietFor)
	defer stop()
	n, err := conn.WaitForNotification(quiet)
	if err == nil || ctx.Err() != nil || !errors.Is(err, context.DeadlineExceeded) {
		return n, err
	}
	try, stop := context.WithTimeout(ctx, tryFor)
	defer stop()
	return nil, conn.Ping(try)
}

// TellWork announces that something of the work in the studio changed.
func (t *tx) TellWork(ctx context.Context, what string) error {
	_, err := t.exec(ctx, `SELECT pg_notify(?, ?)`, WorkChannel, what)
	return err
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.pool.Ping(ctx) }
