package plan

import (
	"context"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Tx is what every area does inside a transaction.
type Tx interface {
	Enqueuer
	// Steady tells whether all that is read is of one moment and committed, so
	// that it may be kept.
	Steady() bool
	// WorkAfter gives the numbers of the work as they are once the transaction is committed. It is asked last.
	WorkAfter(ctx context.Context) (WorkVersions, error)

	Visits(ctx context.Context, from, to time.Time) (map[string]int, error)
	// HeadsAt gives the versions that an edition shows, by entry, without their texts.
	HeadsAt(ctx context.Context, edition int) (map[string]Head, error)
	People(ctx context.Context) ([]Person, error)
	// HostRows counts the redirects, live and planned, that are for one host name alone.
	HostRows(ctx context.Context) ([]HostRows, error)
	// Trees reads Live and Next; of Live only what came or went since an edition in
	// which it was known.
	Trees(ctx context.Context, known *sitemap.Tree, since int) (Trees, error)
	SaveOverlay(ctx context.Context, o Overlay, by Planned) error
	BumpPlan(ctx context.Context) (int64, error)
	RemovedEntries(ctx context.Context) ([]RemovedEntry, error)
	SaveShapes(ctx context.Context, w Shapes) error
	AddAct(ctx context.Context, a Act) error
	// AddAuthors records who made what, and makes drafts of what of it was on its way out, which it gives. Where an act is
	// undone or redone, since is when it was done: what was discarded since has its authors again.
	AddAuthors(ctx context.Context, by Planned, since time.Time, list []Authored) ([]Fallen, error)
	ActSideEffects(ctx context.Context, id int64) (SideEffects, error)
	ActByKey(ctx context.Context, key string) (Act, error)
	NextUndo(ctx context.Context, person string) (Act, error)
	NextRedo(ctx context.Context, person string) (Act, error)
	SetActState(ctx context.Context, id int64, s ActState, version int64) error
	DropUndone(ctx context.Context, person string) error
	// ActsAfter gives up to n acts after a version of the plan, in their order.
	ActsAfter(ctx context.Context, version int64, n int) ([]Act, error)
	// ActOn gives the latest act of others than a person since a version of the
	// plan that changed one of the entries, or took one away.
	ActOn(ctx context.Context, since int64, notBy string, entries []string, gone bool) (Act, error)
	Decisions(ctx context.Context) (map[string]redirect.Decision, error)
	PutDecision(ctx context.Context, entry string, d redirect.Decision, person string) error
	DropDecision(ctx context.Context, entry string) error
	Templates(ctx context.Context) ([]content.Template, error)
	Draft(ctx context.Context, entry string) (PageVersion, error)
	// Excerpts gives the summaries of pages by entry, of the drafts where next.
	Excerpts(ctx context.Context, entries []string, next bool) (map[string]string, error)
	PagesOf(ctx context.Context, entries []string, drafts bool) ([]PageVersion, error)
	// ExcerptsAt and PagesAt give the summaries and the texts of pages as an edition shows them.
	ExcerptsAt(ctx context.Context, entries []string, edition int) (map[string]string, error)
	PagesAt(ctx context.Context, edition int, entries []string) ([]PageVersion, error)
	// BodiesAt gives the texts of entries as an edition shows them.
	BodiesAt(ctx context.Context, edition int, entries []string) (map[string]LiveBody, error)
	// TellWork announces to every instance that something of the work in the studio changed.
	TellWork(ctx context.Context, what string) error
	// Locks gives the locks that hold at a time, by entry.
	Locks(ctx context.Context, now time.Time) (map[string]workflow.Lock, error)
	PersonByLogin(ctx context.Context, login string) (Person, error)
	SaveDraft(ctx context.Context, v PageVersion, base int) error
	// LockDraft holds the draft of a page until the transaction ends, LockDrafts
	// all of them.
	LockDraft(ctx context.Context, entry string) error
	DropDraft(ctx context.Context, entry string, at time.Time) error
	// LiveSummaries gives the live versions that came after an edition, and the pages
	// whose version ended after it.
	LiveSummaries(ctx context.Context, after int) (came []PageSummary, ended []string, err error)
	// DraftStamps gives the versions of the rows of all drafts, by draft.
	DraftStamps(ctx context.Context) (map[string]string, error)
	// DraftSummaries gives the drafts of some versions.
	DraftSummaries(ctx context.Context, versions []string) ([]PageSummary, error)
	// PagesLinking gives the pages whose draft or live text links to an entry.
	PagesLinking(ctx context.Context, entry string) ([]string, error)
	Lock(ctx context.Context, entry string) (workflow.Lock, error)
	Table(ctx context.Context) ([]redirect.Row, error)
	// PlannedRedirects gives the redirects that are planned by hand, in the order of their
	// addresses.
	PlannedRedirects(ctx context.Context) ([]PlannedRedirect, error)
	PutRedirects(ctx context.Context, rows []redirect.Row, by Planned) error
	DropRedirects(ctx context.Context, keys []redirect.Key) error
	// FilesByID gives the files of some ids that the site keeps.
	FilesByID(ctx context.Context, ids []string) ([]KeptFile, error)
	PutFile(ctx context.Context, f KeptFile) error
	// Notify tells people something, and what they have not read yet not twice.
	Notify(ctx context.Context, list []Notice) error
	// KeepTemplateDraft makes a draft of a template where the person has none,
	// ForgetTemplateDraft takes it away where it is still that.
	KeepTemplateDraft(ctx context.Context, d TemplateDraft) error
	ForgetTemplateDraft(ctx context.Context, d TemplateDraft) error
	// LockFiles waits until nobody sweeps the storage of files; alone, until nobody brings a
	// file either.
	LockFiles(ctx context.Context, alone bool) error
	// File gives a file that the site keeps; ErrNotFound if there is none.
	File(ctx context.Context, id string) (KeptFile, error)
}
