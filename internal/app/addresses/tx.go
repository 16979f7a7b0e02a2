package addresses

import (
	"context"

	"candlepath/internal/app/plan"
)

// Tx is what addresses need inside a transaction.
type Tx interface {
	plan.Tx
	Releases(ctx context.Context) ([]plan.ReleasedAddress, error)
	PutRelease(ctx context.Context, r plan.ReleasedAddress) error
	DropRelease(ctx context.Context, address string) error
	EverAnswered(ctx context.Context, address string) (bool, error)
}
