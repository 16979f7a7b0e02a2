package pages

import (
	"context"
	"errors"
	"fmt"
	"slices"
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
	Fixed     []FixedPart // what each part of the template shows, where it is fixed
	People    []plan.Person
	Content   content.Page
	Base      int // version of the draft that Content is; 0: there is no draft
	HasLive   bool
	ChangedBy string
	ChangedAt time.Time
	Lock      LockState
	Kept      []KeptText
	Problems  []content.Problem // what is to mend on it
	Trees     plan.Trees
	Source    *plan.PageSource // where its text was imported from
}

// OpenPage loads a page for editing and takes its lock if it is free.
func (a *Pages) OpenPage(ctx context.Context, who plan.Person, entry, window string) (PageView, error) {
	var v PageView
	err := a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
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
		if v.Fixed, err = a.fixed(ctx, tx, s, &v); err != nil {
			return err
		}
		v.Lock, err = a.takeLock(ctx, tx, who, entry, LockAsk{Window: window})
		return err
	})
	return v, err
}

// FixedPart is what a fixed part of a template shows.
type FixedPart struct{ HTML, Words string }

// fixed draws the fixed parts of the page's template.
func (a *Pages) fixed(ctx context.Context, tx Tx, s plan.Site, v *PageView) ([]FixedPart, error) {
	out := make([]FixedPart, len(v.Template.Parts))
	alone := content.OneSlot("one")
	for i, p := range v.Template.Parts {
		if p.Kind != content.Fixed {
			continue
		}
		page := content.Page{Slots: map[string][]content.Block{"one": p.Content}}
		html, err := a.drawn(ctx, tx, s, v.Trees, v.Entry.ID, alone, page)
		if err != nil {
			return nil, err
		}
		out[i] = FixedPart{html, content.PlainText(alone, page, a.Markup.Parse)}
	}
	return out, nil
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
	v.Template = content.TemplateOf(v.Templates, v.Entry.Template)
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
	known := func(id string) bool {
		return slices.ContainsFunc(v.People, func(p plan.Person) bool { return p.ID == id })
	}
	v.Problems = content.Problems(v.Template, content.Identified(v.Content, entry), known)
	for _, p := range v.People {
		if p.ID == current.PersonID {
			v.ChangedBy = p.Name
		}
	}
	return nil
}

// ClosePage gives the lock of a window back.
func (a *Pages) ClosePage(ctx context.Context, who plan.Person, entry, window string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		if err := tx.DropLock(ctx, entry, who.ID, window); err != nil {
			return err
		}
		return tellLock(ctx, tx, entry)
	})
}

// DropDraft gives a page's edits up; Live stays as it is. Whoever has the page
// open in another window would lose what they write, so the lock is wanted.
func (a *Pages) DropDraft(ctx context.Context, who plan.Person, entry, window string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		_, l, err := forWriting(ctx, tx, s, who, entry)
		if err != nil {
			return err
		}
		if _, mine := l.Take(who.ID, window, a.Now(), false); !mine {
			return plan.Refuse("", "The page is open in another window. Take it over first.")
		}
		return tx.DropDraft(ctx, entry, a.Now())
	})
}

// forWriting holds the draft of a page for somebody who may write until the
// transaction ends, and gives it without its text, and who has the page open. The draft has no id
// where there is none.
func forWriting(ctx context.Context, tx Tx, s plan.Site, who plan.Person, entry string) (draft plan.PageVersion, l workflow.Lock, err error) {
	if err := plan.May(s, who, workflow.Write); err != nil {
		return draft, l, err
	}
	if draft, err = tx.HoldDraft(ctx, entry); err != nil && !errors.Is(err, plan.ErrNotFound) {
		return draft, l, err
	}
	l, err = tx.HoldLock(ctx, entry)
	return draft, l, err
}

// Page loads a page of Next without opening it for writing.
func (a *Pages) Page(ctx context.Context, who plan.Person, entry string) (v PageView, err error) {
	err = a.onPage(ctx, who, entry, func(tx Tx, s plan.Site, _ plan.Trees, _ content.Template) error {
		return a.pageView(ctx, tx, s, entry, &v)
	})
	return v, err
}
