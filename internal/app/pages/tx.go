package pages

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/workflow"
)

// Tx is what pages need inside a transaction.
type Tx interface {
	plan.Tx
	// LinkedBefore gives the pages that linked to each entry until an edition.
	LinkedBefore(ctx context.Context, until map[string]int) (map[string][]string, error)
	DeleteEntries(ctx context.Context, entries []string, person string, at time.Time) error
	// HoldDraft holds the draft of an entry until the transaction ends and gives its id,
	// version, who and when; plan.ErrNotFound if there is none.
	HoldDraft(ctx context.Context, entry string) (plan.PageVersion, error)
	LivePage(ctx context.Context, entry string) (plan.PageVersion, error)
	BringDraftsBack(ctx context.Context, entries []string) error
	// HoldLock gives who has a page open, the zero lock if nobody has, and lets nobody change
	// it until the transaction ends.
	HoldLock(ctx context.Context, entry string) (workflow.Lock, error)
	PutLock(ctx context.Context, entry string, l workflow.Lock) error
	DropLock(ctx context.Context, entry, person, window string) error
	Keep(ctx context.Context, k KeptText) error
	Kept(ctx context.Context, entry, person string) ([]KeptText, error)
	DropKept(ctx context.Context, id, person string) error
	// DraftStates lists the states that are kept of a page's draft, the newest first.
	DraftStates(ctx context.Context, entry string) ([]workflow.DraftState, error)
	DraftState(ctx context.Context, entry, id string) (content.Page, error)
	// PutDraftState keeps a text as a state beside the draft; LoseState notes that the next one lacks some of it.
	PutDraftState(ctx context.Context, entry string, s workflow.DraftState, text content.Page) error
	LoseState(ctx context.Context, id string) error
	DropDraftStates(ctx context.Context, ids []string) error
	// BareTextsOf gives drafts or live texts without links and outlines.
	BareTextsOf(ctx context.Context, entries []string, drafts bool) ([]plan.PageVersion, error)
	// Files gives files whose name has the words, the newest first.
	Files(ctx context.Context, words string, pictures bool, from, n int) ([]plan.KeptFile, error)
	// FileUses gives the pages whose live text or draft shows each file, and whether any
	// version ever did.
	FileUses(ctx context.Context, ids []string) (now map[string][]string, ever map[string]bool, err error)
	// OldFiles gives files of which the database still holds what they hold.
	OldFiles(ctx context.Context, n int) (map[string][]byte, error)
	FileMoved(ctx context.Context, id string) error
	// FileReplaced notes which file took the place of another.
	FileReplaced(ctx context.Context, id, by string) error
	DropFile(ctx context.Context, id string) error
	// KnownFiles tells which ids are those of files that some site keeps.
	KnownFiles(ctx context.Context, ids []string) (map[string]bool, error)
	TemplateDraft(ctx context.Context, person, key string) (plan.TemplateDraft, error)
	TemplateDrafts(ctx context.Context) ([]plan.TemplateDraft, error)
	// SaveTemplateDraft writes version n over version n-1; plan.ErrStale where another one
	// stands there.
	SaveTemplateDraft(ctx context.Context, d plan.TemplateDraft) error
	DropTemplateDraft(ctx context.Context, person, key string) error
	// ShapeVersions gives what a template was in every edition, the latest first.
	ShapeVersions(ctx context.Context, id string) ([]plan.ShapeVersion, error)
	// SaveState is the first half of SaveDraft and keeps the text as a state of the draft, too;
	// SaveFound is the second half: links, words, files.
	SaveState(ctx context.Context, v plan.PageVersion, base int, s workflow.DraftState) error
	SaveFound(ctx context.Context, v plan.PageVersion) error
	// BareDrafts holds and gives up to n drafts that were written before a time and are not
	// rendered yet. It passes over those that are being saved.
	BareDrafts(ctx context.Context, before time.Time, n int) ([]plan.PageVersion, error)
	// FindWords works out the words of up to n drafts that were written before a time, and
	// gives how many it found.
	FindWords(ctx context.Context, before time.Time, n int) (int, error)
	Source(ctx context.Context, entry string, html bool) (plan.PageSource, error)
}
