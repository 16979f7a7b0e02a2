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
	LatestEditions(ctx context.Context, n int) ([]plan.Edition, error)
	// Withheld gives the addresses of removed pages that not everybody could read, with who could.
	Withheld(ctx context.Context) (map[string][]string, error)
	// Search finds pages of an edition by their words, the best first; hidden ones are left out before that.
	Search(ctx context.Context, edition int, q string, hidden []string, limit int) ([]Hit, error)
	// PictureShown gives the pages that show a file in an edition, and those that did in one before and
	// do not any more.
	PictureShown(ctx context.Context, id string, edition int) (live, before []string, err error)
}
