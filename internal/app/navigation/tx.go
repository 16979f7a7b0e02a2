package navigation

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/findability"
)

// Tx is what menus, trails, reach and findability need inside a transaction.
type Tx interface {
	plan.Tx
	// PagesWith gives the pages of Next whose text has a block of a kind, by entry.
	PagesWith(ctx context.Context, kind content.BlockType) ([]plan.PageVersion, error)
	Studies(ctx context.Context) ([]Study, error)
	Study(ctx context.Context, id string) (Study, error)
	StudyBySecret(ctx context.Context, secret string) (Study, error)
	AddStudy(ctx context.Context, s Study) error
	DropStudy(ctx context.Context, id string) error
	CountVisitors(ctx context.Context, study, host string, since time.Time) (all, here int, err error)
	AddVisitor(ctx context.Context, study, visitor, host string, at time.Time) error
	CountTries(ctx context.Context, study, visitor string) (int, error)
	KnowsVisitor(ctx context.Context, study, visitor string) (bool, error)
	AddTry(ctx context.Context, study string, task int, visitor string, try findability.Try, at time.Time) error
	Tries(ctx context.Context, study string) (map[int][]findability.Try, error)
	AddVisits(ctx context.Context, day time.Time, n map[string]int) error
}
