package store

import (
	"context"
	"fmt"
)

// Listen calls f once when it begins to listen, and whenever an edition is
// announced. It returns when the connection breaks or the context ends.
func (s *Store) Listen(ctx context.Context, f func()) error {
	conn, err := s.pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "LISTEN "+Channel); err != nil {
		return fmt.Errorf("listen: %w", err)
	}
	defer conn.Conn().Close(context.WithoutCancel(ctx)) //nolint:errcheck // a listening connection does not go back to the pool
	for {
		f()
		if _, err := conn.Conn().WaitForNotification(ctx); err != nil {
			return fmt.Errorf("listen: %w", err)
		}
	}
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.pool.Ping(ctx) }
