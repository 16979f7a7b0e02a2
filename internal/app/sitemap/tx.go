package sitemap

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// Tx is what the planned sitemap needs inside a transaction.
type Tx interface {
	plan.Tx
	Views(ctx context.Context, person string) ([]SavedView, error)
	PutView(ctx context.Context, person string, v SavedView) error
	DropView(ctx context.Context, person, name string) error
	LinksTo(ctx context.Context, entries []string) (links, pages int, err error)
	// FilesEver gives the files that an edition up to one showed, and those that took the place
	// of others; FilesOn the entries that show each file in an edition, 0: in drafts.
	FilesEver(ctx context.Context, upTo int) ([]kept.File, error)
	FilesOn(ctx context.Context, edition int) (map[string][]string, error)
	// Words gives the words of every page, of its draft where there is one.
	Words(ctx context.Context) (map[string]string, error)
	DifferentPages(ctx context.Context) ([][2]string, error)
	PutDifferent(ctx context.Context, a, b, person string, at time.Time) error
	TreeAt(ctx context.Context, edition int) (*sitemap.Tree, error)
	ShapesAt(ctx context.Context, edition int) (shape.Set, error)
	// ContentDiffers gives the entries whose content is another in one edition than
	// in the other; an edition of 0 is what is planned.
	ContentDiffers(ctx context.Context, a, b int) ([]string, error)
	PutImport(ctx context.Context, b Import) error
	Import(ctx context.Context, id string, data bool) (Import, error)
	// SetImport notes how far an import is, if it is still in a state, and tells
	// whether it was.
	SetImport(ctx context.Context, id, from string, to ImportStep) (bool, error)
	SetSheet(ctx context.Context, id string, sheet []byte) error
	ChooseMode(ctx context.Context, b Import) error
	ImportedIDs(ctx context.Context) (map[string]string, error)
	RememberIDs(ctx context.Context, ids map[string]string) error
	PutSource(ctx context.Context, s plan.PageSource) error
	Source(ctx context.Context, entry string, html bool) (plan.PageSource, error)
	// SourcesOf gives the pages whose text came with an import, and how much of it was
	// lost on each.
	SourcesOf(ctx context.Context, id string) (lost map[string]int, err error)
	// ReviveJob makes a job begin again whose process gives no sign of life.
	ReviveJob(ctx context.Context, j plan.Job) error
	FoundSimilar(ctx context.Context) (SimilarFound, error)
	PutSimilar(ctx context.Context, f SimilarFound) error
}
