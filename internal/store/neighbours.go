package store

import (
	"context"
	"time"
)

// SeeNeighbour notes that a server passes requests on without being trusted.
func (t *tx) SeeNeighbour(ctx context.Context, address string, at time.Time) error {
	_, err := t.exec(ctx, `INSERT INTO neighbours (address, seen_at) VALUES (?, ?) ON CONFLICT (address) DO UPDATE SET seen_at = excluded.seen_at`, address, at)
	return err
}

// Neighbours gives those that were seen since a time, in the order of their addresses.
func (t *tx) Neighbours(ctx context.Context, since time.Time) (list []string, err error) {
	err = t.scan(ctx, &list, `SELECT address FROM neighbours WHERE seen_at >= ? ORDER BY address`, since)
	return list, err
}
