package pages

import (
	"context"
	"errors"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// PageView is what the page editor shows.
type PageView struct {
	Entry     sitemap.Entry
	Address   string
	Live      string // address in Live, or empty
	Template  content.Template
	Templates []content.Template
	People    []plan.Person
	Content   content.Page
	Base      int // version of the draft that Content is; 0: there is no draft
	HasLive   bool
	ChangedBy string
	ChangedAt time.Time
	Lock      LockState
	Kept      []KeptText
	Trees     plan.Trees
	Source    *plan.PageSource // where its text was brought in from
}

// LockState is who has the page open, as seen from one window.
type LockState struct {
	Mine   bool
	Holder string // name, if not mine
	Self   bool   // the holder is the same person in another window
	Since  time.Time
	Newest *Newest // set where a reading window has become the writing one
}

// Newest is the text from which a window begins to write.
type Newest struct {
	Content content.Page
	Base    int
}

// LockAsk is what a window says with its sign of life.
type LockAsk struct {
	Window  string
	Was     string // the window before it was reloaded, or empty
	Force   bool   // take the lock from whoever has it
	Reading bool   // the window has not got it, and begins from the newest text when it gets it
}

// OpenPage loads a page for editing and takes its lock if it is free.
func (a *Pages) OpenPage(ctx context.Context, who plan.Person, entry, window string) (PageView, error) {
	var v PageView
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		if err := a.pageView(ctx, tx, s, entry, &v); err != nil {
			return err
		}
		var err error
		if v.Kept, err = tx.Kept(ctx, entry, who.ID); err != nil {
			return err
		}
		if source, err := tx.Source(ctx, entry, false); err == nil {
			v.Source = &source
		} else if !errors.Is(err, plan.ErrNotFound) {
			return err
		}
		v.Lock, err = a.takeLock(ctx, tx, who, entry, LockAsk{Window: window})
		return err
	})
	return v, err
}

func (a *Pages) pageView(ctx context.Context, tx Tx, s plan.Site, entry string, v *PageView) error {
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return err
	}
	v.Trees = trees
	i := trees.Next.Find(entry)
	if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
		return plan.ErrNotFound
	}
	v.Entry, v.Address = trees.Next.At(i), trees.Next.Address(i)
	if l := trees.Live.Find(entry); l != sitemap.None {
		v.Live = trees.Live.Served(l)
	}
	if v.Templates, err = tx.Templates(ctx); err != nil {
		return fmt.Errorf("load templates: %w", err)
	}
	v.Template = plan.TemplateOf(v.Templates, v.Entry.Template)
	if v.People, err = tx.People(ctx); err != nil {
		return err
	}
	live, err := tx.LivePage(ctx, entry)
	if err != nil && !errors.Is(err, plan.ErrNotFound) {
		return err
	}
	v.HasLive = err == nil
	current, err := tx.Draft(ctx, entry)
	switch {
	case err == nil:
		v.Base = current.Version
	case errors.Is(err, plan.ErrNotFound):
		current = live
	default:
		return err
	}
	v.Content, v.ChangedAt = content.Clean(current.Content), current.At
	for _, p := range v.People {
		if p.ID == current.PersonID {
			v.ChangedBy = p.Name
		}
	}
	return nil
}

// takeLock takes or keeps a page's lock for a window. By force it is taken
// from whoever has it.
func (a *Pages) takeLock(ctx context.Context, tx Tx, who plan.Person, entry string, ask LockAsk) (LockState, error) {
	l, err := plan.LockOf(ctx, tx, entry)
	if err != nil {
		return LockState{}, err
	}
	l, mine := l.TakeAfter(who.ID, ask.Window, ask.Was, a.Now(), ask.Force)
	if !mine {
		people, err := plan.PeopleByID(ctx, tx)
		return LockState{Holder: people[l.Person].Name, Self: l.Person == who.ID, Since: l.Taken}, err
	}
	return LockState{Mine: true, Since: l.Taken}, tx.PutLock(ctx, entry, l)
}

// KeepLock is the sign of life of a window that has a page open. It takes the
// lock when it has become free, and by force when asked.
func (a *Pages) KeepLock(ctx context.Context, who plan.Person, entry string, ask LockAsk) (LockState, error) {
	var st LockState
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		var err error
		if st, err = a.takeLock(ctx, tx, who, entry, ask); err != nil || !st.Mine || !ask.Reading {
			return err
		}
		var v PageView
		err = a.pageView(ctx, tx, s, entry, &v)
		st.Newest = &Newest{v.Content, v.Base}
		return err
	})
	return st, err
}

// ClosePage gives the lock of a window back.
func (a *Pages) ClosePage(ctx context.Context, entry, window string) error {
	return a.Store.Note(ctx, func(tx Tx, _ plan.Site) error { return tx.DropLock(ctx, entry, window) })
}

// SavedPage is the answer to a save.
type SavedPage struct {
	Version int
	At      time.Time
	Clash   *Clash // set: the text was kept, not saved
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

// SavePage saves a draft over the version it was made from. If somebody else
// saved since, or the lock is lost, the text is kept beside and both are told.
func (a *Pages) SavePage(ctx context.Context, who plan.Person, entry, window string, p content.Page, base int) (SavedPage, error) {
	p = content.Clean(p)
	var out SavedPage
	save := func() error {
		return a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
			if err := plan.May(s, who, workflow.Write); err != nil {
				return err
			}
			if err := tx.LockDraft(ctx, entry); err != nil {
				return err
			}
			l, err := plan.LockOf(ctx, tx, entry)
			if err != nil {
				return err
			}
			base, err := goesOn(ctx, tx, l, entry, window, base)
			if err != nil {
				return err
			}
			lock, mine := l.Take(who.ID, window, a.Now(), false)
			if !mine {
				return plan.ErrStale
			}
			v, err := a.version(ctx, tx, s, who, entry, p, base)
			if err != nil {
				return err
			}
			if err := tx.SaveDraft(ctx, v, base); err != nil {
				return err
			}
			out = SavedPage{Version: v.Version, At: v.At}
			return tx.PutLock(ctx, entry, lock)
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
// answer was lost on the way, or the draft was published meanwhile.
func goesOn(ctx context.Context, tx Tx, l workflow.Lock, entry, window string, base int) (int, error) {
	draft, err := tx.Draft(ctx, entry)
	switch {
	case err == nil && l.SavedHere(window, draft.PersonID, draft.At):
		return draft.Version, nil
	case err == nil || base == 0:
		return base, nil
	case !errors.Is(err, plan.ErrNotFound):
		return base, err
	}
	live, err := tx.LivePage(ctx, entry)
	if err == nil && l.SavedHere(window, live.PersonID, live.At) {
		return 0, nil
	}
	if errors.Is(err, plan.ErrNotFound) {
		return base, nil
	}
	return base, err
}

// version renders a draft for saving.
func (a *Pages) version(ctx context.Context, tx Tx, s plan.Site, who plan.Person, entry string, p content.Page, base int) (plan.PageVersion, error) {
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return plan.PageVersion{}, err
	}
	i := trees.Next.Find(entry)
	if i == sitemap.None {
		return plan.PageVersion{}, plan.ErrNotFound
	}
	list, err := tx.Templates(ctx)
	if err != nil {
		return plan.PageVersion{}, fmt.Errorf("load templates: %w", err)
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return plan.PageVersion{}, err
	}
	id := plan.NewID()
	if base > 0 {
		d, err := tx.Draft(ctx, entry)
		if err != nil {
			return plan.PageVersion{}, staleIfGone(err)
		}
		id = d.ID
	}
	v, err := a.Rendered(plan.TemplateOf(list, trees.Next.Ref(i).Template), p, people)
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = id, entry, base+1, who.ID, a.Now()
	return v, err
}

// staleIfGone treats a draft that was published or dropped as a newer version.
func staleIfGone(err error) error {
	if errors.Is(err, plan.ErrNotFound) {
		return plan.ErrStale
	}
	return err
}

// keepText stores a text beside the draft that it met.
func (a *Pages) keepText(ctx context.Context, who plan.Person, entry string, p content.Page) (*Clash, error) {
	c := &Clash{KeptID: plan.NewID()}
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
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
	return a.Store.Note(ctx, func(tx Tx, _ plan.Site) error { return tx.DropKept(ctx, id, who.ID) })
}

// DropDraft gives a page's edits up; Live stays as it is. Whoever has the page
// open in another window would lose what they write, so the lock is wanted.
func (a *Pages) DropDraft(ctx context.Context, who plan.Person, entry, window string) error {
	return a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		if err := tx.LockDraft(ctx, entry); err != nil {
			return err
		}
		l, err := plan.LockOf(ctx, tx, entry)
		if err != nil {
			return err
		}
		if _, mine := l.Take(who.ID, window, a.Now(), false); !mine {
			return plan.Refuse("", "The page is open in another window. Take it over first.")
		}
		return tx.DropDraft(ctx, entry)
	})
}

// PreviewPage renders what a draft will look like.
func (a *Pages) PreviewPage(ctx context.Context, who plan.Person, entry string) (PageView, string, error) {
	var v PageView
	var html string
	err := a.Store.Note(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		if err := a.pageView(ctx, tx, s, entry, &v); err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		if err != nil {
			return err
		}
		art, err := a.Markup.Article(v.Template, v.Content, func(id string) string { return people[id].Name })
		html = art.HTML
		return err
	})
	return v, html, err
}
