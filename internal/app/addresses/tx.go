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
	EverAnswered(ctx context.Context, address string) (bool, error)
}
