package editions

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/review"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Tx is what editions need inside a transaction.
type Tx interface {
	plan.Tx
	// NeverVisited gives those of the entries that surely nobody ever opened.
	NeverVisited(ctx context.Context, entries []string) (map[string]bool, error)
	SettleActs(ctx context.Context, stillPlanned func(id string) bool) error
	// AddressesEver gives every address that answered in an edition up to one and was not
	// released since, those of exact and branch redirects with them; 0: in any.
	AddressesEver(ctx context.Context, upTo int) ([]string, error)
	// AddressesSince gives those that began to answer after an edition, and whether one was released after it.
	AddressesSince(ctx context.Context, edition int) (began []string, released bool, err error)
	OlderAddresses(ctx context.Context) ([]string, error)
	// FilesEver gives the files that an edition up to one showed, and those that took the place
	// of others; FilesOn the entries that show each file in an edition, 0: in drafts.
	FilesEver(ctx context.Context, upTo int) ([]kept.File, error)
	FilesOn(ctx context.Context, edition int) (map[string][]string, error)
	// TableAt gives the redirects of a past edition.
	TableAt(ctx context.Context, edition int) ([]redirect.Row, error)
	Releases(ctx context.Context) ([]plan.ReleasedAddress, error)
	LeftOut(ctx context.Context) ([]change.Key, error)
	SetLeftOut(ctx context.Context, keys []change.Key) error
	// ChoiceStamp differs whenever somebody's choice does.
	ChoiceStamp(ctx context.Context, person string) (string, error)
	Choice(ctx context.Context, person string) (Choice, error)
	PutChoice(ctx context.Context, person string, c Choice) error
	DropChoice(ctx context.Context, person string) error
	// LockDrafts gives the numbers of the work once saves that ran are through: what was read of it before is older.
	LockDrafts(ctx context.Context) (plan.WorkVersions, error)
	Release(ctx context.Context, r Release) error
	// BareTextsOf is PagesOf without links and outlines.
	BareTextsOf(ctx context.Context, entries []string, drafts bool) ([]plan.PageVersion, error)
	// Drawn gives versions as they were rendered, by their ids; those that were not are left out.
	Drawn(ctx context.Context, versions []string) (map[string]plan.RenderedSlots, error)
	// RenderedAhead gives what was rendered ahead of versions, KeepRendered keeps some of it.
	RenderedAhead(ctx context.Context, versions []string) (map[string]plan.RenderedAhead, error)
	KeepRendered(ctx context.Context, list []plan.RenderedAhead) error
	// ApprovalStates gives where planned changes were put, PutStandings puts some.
	ApprovalStates(ctx context.Context) (map[change.Key]review.ApprovalState, error)
	PutStandings(ctx context.Context, list map[change.Key]review.ApprovalState) error
	// Reviews gives the requests of which changes are still planned.
	Reviews(ctx context.Context) (map[string]Review, error)
	// ChangeHistory gives the steps that the changes of a thing took, EditionsOf the editions that
	// changed something of it; the latest first.
	ChangeHistory(ctx context.Context, id string, n int) ([]HistoryStep, error)
	EditionsOf(ctx context.Context, id string, n int) ([]plan.Edition, error)
	PutReview(ctx context.Context, r Review) error
	PassReview(ctx context.Context, id, to string) error
	// NotePassed notes in the history of things that their review was passed on.
	NotePassed(ctx context.Context, ids []string, h HistoryStep) error
	// OverdueReviews gives the requests whose day is before one, each once.
	OverdueReviews(ctx context.Context, day string) ([]string, error)
	// Authors gives who made what is planned, by change. What has no aspect counts for all of a thing.
	Authors(ctx context.Context) (map[change.Key][]string, error)
	Remarks(ctx context.Context, id string) ([]Remark, error)
	// RemarksEver gives the latest remarks on a thing, also those on what is out.
	RemarksEver(ctx context.Context, id string, n int) ([]Remark, error)
	PutRemark(ctx context.Context, id string, r Remark) error
	SettleRemark(ctx context.Context, change string, id int64, at *time.Time) error
	Freezes(ctx context.Context) ([]workflow.Freeze, error)
	PutFreeze(ctx context.Context, f workflow.Freeze) error
	EndFreeze(ctx context.Context, id string, at time.Time) error
	// Withdrawals gives the pages that are withdrawn at a minute, the earliest first.
	Withdrawals(ctx context.Context) ([]Withdrawal, error)
	PutWithdrawal(ctx context.Context, w Withdrawal) error
	DropWithdrawals(ctx context.Context, entries []string) error
	// Clock is the time of the database, which is one for all instances.
	Clock(ctx context.Context) (time.Time, error)
	LargeEdition(ctx context.Context, id string) (LargeEdition, error)
	PutLargeEdition(ctx context.Context, l LargeEdition) error
	LargeProgress(ctx context.Context, id string, done int) (waits bool, err error)
	EditionExport(ctx context.Context, id string) (EditionExport, error)
	EditionExportsOf(ctx context.Context, person string) ([]EditionExport, error)
	EditionExportsBefore(ctx context.Context, at time.Time) ([]EditionExport, error)
	PutEditionExport(ctx context.Context, x EditionExport) error
	EditionExportProgress(ctx context.Context, id string, done, total int) (waits bool, err error)
	EndEditionExport(ctx context.Context, x EditionExport) error
	DropEditionExport(ctx context.Context, id string) error
	PutShownLink(ctx context.Context, l ShownLink, hash []byte) error
	// ShownLink gives the link of a secret, ShownLinks those that have not ended at a time.
	ShownLink(ctx context.Context, hash []byte) (ShownLink, error)
	ShownLinks(ctx context.Context, at time.Time) ([]ShownLink, error)
	EndShownLink(ctx context.Context, id string) error
	// CountRemark counts a remark that comes over a link, unless there were that many.
	CountRemark(ctx context.Context, link string, at time.Time, most, inHour int) (bool, error)
	// BranchAsks gives what branches ask of changes before they go out.
	BranchAsks(ctx context.Context) (map[string]workflow.ApprovalPolicy, error)
	PutBranchAsks(ctx context.Context, entry string, asks *workflow.ApprovalPolicy) error
	Editions(ctx context.Context) ([]plan.Edition, error)
	EditionNumbered(ctx context.Context, number int) (plan.Edition, error)
	EditionByKey(ctx context.Context, key string) (plan.Edition, error)
	TreeAt(ctx context.Context, edition int) (*sitemap.Tree, error)
	ShapesAt(ctx context.Context, edition int) (shape.Set, error)
	// WithheldEntries gives the entries that left and that not everybody could read, with who could.
	WithheldEntries(ctx context.Context) (map[string][]string, error)
	// TextsAt gives the version of each page that an edition shows, by entry.
	TextsAt(ctx context.Context, number int) (map[string]edition.Shown, error)
	// TextsIn gives what pages say in an edition.
	TextsIn(ctx context.Context, number int, entries []string) (map[string]content.Page, error)
}
