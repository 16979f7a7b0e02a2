package pages

import (
	"context"
	"errors"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
	"candlepath/internal/platform/background"
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
	parsed := plan.Beside(func() plan.Parsed { return a.Parsed(p) })
	var out SavedPage
	var saved plan.PageVersion
	save := func() error {
		return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
			draft, l, err := forWriting(ctx, tx, s, who, entry)
			if err != nil {
				return err
			}
			base, err := goesOn(ctx, tx, draft, l, entry, window, base)
			if err != nil {
				return err
			}
			lock, mine := l.Take(who.ID, window, a.Now(), false)
			if !mine {
				return plan.ErrStale
			}
			v, t, err := a.unrendered(ctx, tx, s, who, entry, p, base, draft.ID)
			if err != nil {
				return err
			}
			saved = v
			out = SavedPage{Version: v.Version, At: v.At, Problems: v.Report.Problems}
			if err := a.saveState(ctx, tx, draft, v, base); err != nil {
				return err
			}
			if err := a.authored(ctx, tx, s, who, entry); err != nil {
				return err
			}
			if err := tx.PutLock(ctx, entry, lock); err != nil {
				return err
			}
			return tx.SaveFound(ctx, a.Found(t, v, parsed()))
		})
	}
	err := save()
	if err == nil {
		a.saved.put(saved)
	}
	if errors.Is(err, plan.ErrStale) {
		out.Clash, err = a.keepText(ctx, who, entry, p)
	}
	return out, err
}

// authored records that somebody wrote on a page.
func (a *Pages) authored(ctx context.Context, tx Tx, s plan.Site, who plan.Person, entry string) error {
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return err
	}
	return a.Author(ctx, tx, who, trees.Title, []plan.Authored{{ID: entry, Aspects: []change.Aspect{change.Content}}})
}

// goesOn gives the draft's version that a save goes on from. It is the one that
// the window knows, or a later one that only this window can have made: its
// answer was lost on the way, or the draft was published meanwhile.
func goesOn(ctx context.Context, tx Tx, draft plan.PageVersion, l workflow.Lock, entry, window string, base int) (int, error) {
	switch {
	case draft.ID != "" && l.SavedHere(window, draft.PersonID, draft.At):
		return draft.Version, nil
	case draft.ID != "" || base == 0:
		return base, nil
	}
	live, err := tx.LivePage(ctx, entry)
	if err == nil && l.SavedHere(window, live.PersonID, live.At) {
		return 0, nil
	}
	if errors.Is(err, plan.ErrNotFound) {
		err = nil
	}
	return base, err
}

// unrendered makes a draft for saving over a version of the draft of an id. Readers see it later,
// if at all: it is rendered once nobody writes on it any more or when it is published, whichever
// comes first, and not with each save.
func (a *Pages) unrendered(ctx context.Context, tx Tx, s plan.Site, who plan.Person, entry string, p content.Page, base int, draft string) (v plan.PageVersion, t content.Template, err error) {
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return v, t, err
	}
	if trees.Next.Find(entry) == sitemap.None {
		return v, t, plan.ErrNotFound
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return v, t, err
	}
	head := plan.PageVersion{ID: plan.NewID(), EntryID: entry, Version: base + 1, PersonID: who.ID, At: a.Now()}
	if base > 0 {
		if head.ID = draft; head.ID == "" { // it was published or dropped
			return v, t, plan.ErrStale
		}
	}
	t = trees.TemplateOf(entry)
	return plan.Unrendered(t, p, func(id string) bool { return people[id].Name != "" }).As(head), t, nil
}

const (
	finishedAtOnce = 20              // drafts that are finished in one transaction, which others may wait for
	renderedAfter  = 5 * time.Second // since somebody wrote on it
	wordsAfter     = time.Minute
)

// FinishDrafts renders the drafts that nobody writes on any more and works out their words for the
// search, so that neither who writes nor who publishes waits for that. A draft that cannot be
// rendered is told, and keeps no other one waiting.
func (a *Pages) FinishDrafts(ctx context.Context) error {
	var skipped error
	for _, step := range []struct {
		after  time.Duration
		finish func(ctx context.Context, tx Tx, s plan.Site, before time.Time) (int, error)
	}{
		{renderedAfter, func(ctx context.Context, tx Tx, s plan.Site, before time.Time) (done int, err error) {
			done, skipped, err = a.renderDrafts(ctx, tx, s, before)
			return done, err
		}},
		{wordsAfter, func(ctx context.Context, tx Tx, _ plan.Site, before time.Time) (int, error) {
			return tx.FindWords(ctx, before, finishedAtOnce)
		}},
	} {
		for done := finishedAtOnce; done == finishedAtOnce; {
			err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) (err error) {
				if done = 0; s.ID != "" {
					done, err = step.finish(ctx, tx, s, a.Now().Add(-step.after))
				}
				return err
			})
			if err != nil {
				return err
			}
		}
	}
	return skipped
}

// renderDrafts renders some drafts that were written before a time. It gives how many it did, and
// why it did not render others.
func (a *Pages) renderDrafts(ctx context.Context, tx Tx, s plan.Site, before time.Time) (done int, skipped, err error) {
	bare, err := tx.BareDrafts(ctx, before, finishedAtOnce)
	if err != nil || len(bare) == 0 {
		return 0, nil, err
	}
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return 0, nil, err
	}
	around, err := a.Around(ctx, tx)
	if err != nil {
		return 0, nil, err
	}
	for _, old := range bare {
		v, err := a.renderedOrNot(trees.TemplateOf(old.EntryID), old, around)
		if err != nil {
			skipped = errors.Join(skipped, err)
			continue
		}
		if err := tx.SaveDraft(ctx, v, old.Version); err != nil {
			return 0, nil, err
		}
		done++
	}
	return done, skipped, nil
}

func (a *Pages) renderedOrNot(t content.Template, old plan.PageVersion, around markup.Around) (v plan.PageVersion, err error) {
	defer background.Recovered(&err)
	if v, err = a.Rendered(t, old.Content, around); err != nil {
		return v, fmt.Errorf("draft of %s: %w", old.EntryID, err)
	}
	return v.As(old), nil
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
