package store

import (
	"context"
	"fmt"
)

// Listen calls f once when it begins to listen, and whenever something is
// announced: the number of an edition, "people" where who is who changed, "visits"
// where those that were counted are to be written down, or nothing where the look of
// the site changed. It returns when the connection breaks or the context ends.
func (s *Store) Listen(ctx context.Context, f func(what string)) error {
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "LISTEN "+Channel); err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer conn.Conn().Close(context.WithoutCancel(ctx)) //nolint:errcheck // a listening connection does not go back to the pool
	f("")
	for {
		n, err := conn.Conn().WaitForNotification(ctx)
		if err != nil {
			return fmt.Errorf("listen: %w", err)
		}
		f(n.Payload)
	}
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.pool.Ping(ctx) }
