package addresses

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
)

// Tx is what addresses need inside a transaction.
type Tx interface {
	plan.Tx
	Releases(ctx context.Context) ([]plan.ReleasedAddress, error)
	PutRelease(ctx context.Context, r plan.ReleasedAddress) error
	DropRelease(ctx context.Context, address string) error
	// Unanswered gives what was asked for in vain since a day, the most often first.
	Unanswered(ctx context.Context, since time.Time, n int) ([]Unanswered, error)
	// AddressHistory gives what an address answered in each edition, the latest first.
	AddressHistory(ctx context.Context, address string) ([]Once, error)
	EverAnswered(ctx context.Context, address string) (bool, error)
}
