package pages

import (
	"context"
	"errors"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// SavedPage is the answer to a save.
type SavedPage struct {
	Version  int
	At       time.Time
	Problems []content.Problem // what is to mend on it
	Clash    *Clash            // set: the text was kept, not saved
}

// Clash is a text that met a newer one or a lost lock. Nothing is lost: the
// text is kept under KeptID until its author chose.
type Clash struct {
	KeptID  string
	Holder  string // who has the lock now, or empty
	By      string // whose text stands in the draft
	At      time.Time
	Theirs  content.Page
	Version int // of the draft that stands
}

// KeptText is a text that met another and waits for a choice.
type KeptText struct {
	ID, EntryID, PersonID string
	Content               content.Page
	At                    time.Time
}

// SavePage saves a draft over the version it was made from. If somebody else
// saved since, or the lock is lost, the text is kept beside and both are told.
func (a *Pages) SavePage(ctx context.Context, who plan.Person, entry, window string, p content.Page, base int) (SavedPage, error) {
	p = content.Identified(content.Clean(p), entry)
	var out SavedPage
	save := func() error {
		return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
			l, err := forWriting(ctx, tx, s, who, entry)
			if err != nil {
				return err
			}
			base, draft, err := goesOn(ctx, tx, l, entry, window, base)
			if err != nil {
				return err
			}
			lock, mine := l.Take(who.ID, window, a.Now(), false)
			if !mine {
				return plan.ErrStale
			}
			v, err := a.version(ctx, tx, s, who, entry, p, base, draft, func(head plan.PageVersion) error {
				if err := a.keepState(ctx, tx, head); err != nil {
					return err
				}
				return tx.PutLock(ctx, entry, lock)
			})
			if err != nil {
				return err
			}
			out = SavedPage{Version: v.Version, At: v.At, Problems: v.Report.Problems}
			return tx.SaveDraft(ctx, v, base)
		})
	}
	err := save()
	if errors.Is(err, plan.ErrStale) {
		out.Clash, err = a.keepText(ctx, who, entry, p)
	}
	return out, err
}

// goesOn gives the draft's version that a save goes on from. It is the one that
// the window knows, or a later one that only this window can have made: its
// answer was lost on the way, or the draft was published meanwhile. It gives the id of the
// draft, too; empty if there is none.
func goesOn(ctx context.Context, tx Tx, l workflow.Lock, entry, window string, base int) (version int, id string, err error) {
	draft, err := tx.DraftHead(ctx, entry)
	switch {
	case err == nil && l.SavedHere(window, draft.PersonID, draft.At):
		return draft.Version, draft.ID, nil
	case err == nil || base == 0:
		return base, draft.ID, nil
	case !errors.Is(err, plan.ErrNotFound):
		return base, "", err
	}
	live, err := tx.LivePage(ctx, entry)
	if err == nil && l.SavedHere(window, live.PersonID, live.At) {
		return 0, "", nil
	}
	if errors.Is(err, plan.ErrNotFound) {
		return base, "", nil
	}
	return base, "", err
}

// version renders a draft for saving over a version of the draft of an id. Meanwhile what needs
// only its text and head is written.
func (a *Pages) version(ctx context.Context, tx Tx, s plan.Site, who plan.Person, entry string, p content.Page, base int, draft string,
	meanwhile func(head plan.PageVersion) error,
) (plan.PageVersion, error) {
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return plan.PageVersion{}, err
	}
	if trees.Next.Find(entry) == sitemap.None {
		return plan.PageVersion{}, plan.ErrNotFound
	}
	template := trees.TemplateOf(entry)
	around, err := a.AroundAll(ctx, tx, append(content.FilesOf(p), template.FixedFiles()...))
	if err != nil {
		return plan.PageVersion{}, err
	}
	id := plan.NewID()
	if base > 0 {
		if id = draft; id == "" { // it was published or dropped
			return plan.PageVersion{}, plan.ErrStale
		}
	}
	var failed error
	rendered := plan.Beside(func() (v plan.PageVersion) {
		v, failed = a.Rendered(template, p, around)
		return v
	})
	head := plan.PageVersion{ID: id, EntryID: entry, Version: base + 1, PersonID: who.ID, At: a.Now(), Content: p}
	err = meanwhile(head)
	v := rendered()
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = head.ID, head.EntryID, head.Version, head.PersonID, head.At
	return v, errors.Join(err, failed)
}

const (
	wordsAtOnce = 20          // drafts whose words are found in one transaction, which others may wait for
	wordsAfter  = time.Minute // since somebody wrote on it
)

// FindWords works out the words of drafts that nobody writes on any more, for the search, so
// that neither who writes nor who publishes waits for them.
func (a *Pages) FindWords(ctx context.Context) error {
	for {
		var found int64
		err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) (err error) {
			if s.ID != "" {
				found, err = tx.FindWords(ctx, a.Now().Add(-wordsAfter), wordsAtOnce)
			}
			return err
		})
		if err != nil || found < wordsAtOnce {
			return err
		}
	}
}

// keepText stores a text beside the draft that it met.
func (a *Pages) keepText(ctx context.Context, who plan.Person, entry string, p content.Page) (*Clash, error) {
	c := &Clash{KeptID: plan.NewID()}
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := tx.Keep(ctx, KeptText{ID: c.KeptID, EntryID: entry, PersonID: who.ID, Content: p, At: a.Now()}); err != nil {
			return err
		}
		var v PageView
		if err := a.pageView(ctx, tx, s, entry, &v); err != nil {
			return err
		}
		c.By, c.At, c.Theirs, c.Version = v.ChangedBy, v.ChangedAt, v.Content, v.Base
		l, err := plan.LockOf(ctx, tx, entry)
		if l.Held(a.Now()) && l.Person != who.ID {
			for _, person := range v.People {
				if person.ID == l.Person {
					c.Holder = person.Name
				}
			}
		}
		return err
	})
	return c, err
}

// DropKept forgets a kept text after its author chose.
func (a *Pages) DropKept(ctx context.Context, who plan.Person, id string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error { return tx.DropKept(ctx, id, who.ID) })
}
