package reading

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/unanswered"
)

// Tx is what the reader site needs inside a transaction.
type Tx interface {
	plan.Tx
	AskForVisits(ctx context.Context) error
	AddUnanswered(ctx context.Context, day time.Time, n unanswered.Count) error
	AddHits(ctx context.Context, day time.Time, n map[redirect.Key]int) error
	AddVisits(ctx context.Context, day time.Time, n map[string]int) error
	LiveBody(ctx context.Context, entry string) (plan.LiveBody, error)
	LatestEditions(ctx context.Context, n int) ([]plan.Edition, error)
	Search(ctx context.Context, q string, limit int) ([]Hit, error)
	// PictureShown gives the live pages that show a picture, and whether any
	// edition ever did.
	PictureShown(ctx context.Context, id string) (live, before []string, err error)
}
