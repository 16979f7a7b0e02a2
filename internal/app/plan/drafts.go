package plan

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/content"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/markup"
)

// Writer writes drafts as part of an act on Next, and notes what it did, so that
// the act can be undone.
type Writer struct {
	Floor       *Floor
	Tx          Tx
	who         Person
	Next        *sitemap.Tree
	templates   []content.Template
	around      markup.Around
	SideEffects SideEffects
}

// Writer prepares a Writer for drafts of one person on Next.
func (a *Floor) Writer(ctx context.Context, tx Tx, who Person, next *sitemap.Tree) (*Writer, error) {
	w := &Writer{Floor: a, Tx: tx, who: who, Next: next}
	var err error
	if w.templates, err = tx.Templates(ctx); err != nil {
		return nil, fmt.Errorf("load templates: %w", err)
	}
	w.around, err = a.Around(ctx, tx)
	return w, err
}

// LatestTexts gives the text of each entry that has one: its draft, else what is
// live.
func LatestTexts(ctx context.Context, tx Tx, entries []string) (map[string]PageVersion, error) {
	out := make(map[string]PageVersion, len(entries))
	for _, drafts := range []bool{false, true} {
		list, err := tx.PagesOf(ctx, entries, drafts)
		if err != nil {
			return nil, fmt.Errorf("load pages: %w", err)
		}
		for _, v := range list {
			out[v.EntryID] = v
		}
	}
	return out, nil
}

// Template gives the template of an entry of Next; the zero Template if it has none.
func (w *Writer) Template(entry string) content.Template {
	key := ""
	if i := w.Next.Find(entry); i != sitemap.None {
		key = w.Next.Ref(i).Template
	}
	return content.TemplateOf(w.templates, key)
}

// Set makes the draft of an entry hold a page; nil drops it.
func (w *Writer) Set(ctx context.Context, entry string, page *content.Page) error {
	was, base, id, err := w.draft(ctx, entry)
	if err != nil {
		return err
	}
	if page == nil {
		return w.Tx.DropDraft(ctx, entry, w.Floor.Now())
	}
	v, err := w.Floor.Rendered(w.Template(entry), *page, w.around)
	if err != nil {
		return err
	}
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = id, entry, base+1, w.who.ID, w.Floor.Now()
	if err := w.Tx.SaveDraft(ctx, v, base); err != nil {
		return fmt.Errorf("save the text of a page: %w", err)
	}
	w.SideEffects.Texts = append(w.SideEffects.Texts, TextPatch{EntryID: entry, Before: was, After: page})
	return nil
}

// draft gives the draft of an entry, if it has one, its version, and the id that
// a next one has.
func (w *Writer) draft(ctx context.Context, entry string) (page *content.Page, version int, id string, err error) {
	if err := w.Tx.LockDraft(ctx, entry); err != nil {
		return nil, 0, "", err
	}
	d, err := w.Tx.Draft(ctx, entry)
	switch {
	case errors.Is(err, ErrNotFound):
		return nil, 0, NewID(), nil
	case err != nil:
		return nil, 0, "", err
	}
	return &d.Content, d.Version, d.ID, nil
}

// Decide sets where the visitors of an entry belong; nil takes that back.
func (w *Writer) Decide(ctx context.Context, entry string, was, now *redirect.Decision) error {
	w.SideEffects.Decisions = append(w.SideEffects.Decisions, DecisionPatch{EntryID: entry, Before: was, After: now})
	if now == nil {
		return w.Tx.DropDecision(ctx, entry)
	}
	return w.Tx.PutDecision(ctx, entry, *now, w.who.ID)
}

// Relink rewrites the links of every page that links to an entry, in drafts; to
// gets the page that holds the link.
func (w *Writer) Relink(ctx context.Context, entry string, to func(holder, link string) string, except ...string) (pages int, err error) {
	return w.rewrite(ctx, entry, func(holder string, p content.Page) content.Page {
		return content.Rewritten(p, func(link string) string { return to(holder, link) })
	}, except...)
}

// rewrite writes drafts of the pages of Next that link to an entry.
func (w *Writer) rewrite(ctx context.Context, entry string, with func(holder string, p content.Page) content.Page, except ...string) (pages int, err error) {
	holders, err := w.Tx.PagesLinking(ctx, entry)
	if err != nil {
		return 0, err
	}
	holders = slices.DeleteFunc(holders, func(id string) bool {
		return slices.Contains(except, id) || w.Next.Find(id) == sitemap.None
	})
	texts, err := LatestTexts(ctx, w.Tx, holders)
	if err != nil {
		return 0, err
	}
	for _, id := range holders {
		page := with(id, texts[id].Content)
		if content.Same(page, texts[id].Content) {
			continue
		}
		if err := w.Set(ctx, id, &page); err != nil {
			return pages, err
		}
		pages++
	}
	return pages, nil
}

// Unlink makes the links of every page to an entry plain words, in drafts.
func (w *Writer) Unlink(ctx context.Context, entry, title string) (pages int, err error) {
	return w.rewrite(ctx, entry, func(_ string, p content.Page) content.Page { return content.Unlinked(p, entry, title) })
}

// LockOf gives the lock of a page; the zero one where nobody has it.
func LockOf(ctx context.Context, tx Tx, entry string) (workflow.Lock, error) {
	l, err := tx.Lock(ctx, entry)
	if errors.Is(err, ErrNotFound) {
		return workflow.Lock{}, nil
	}
	return l, err
}

// OpenElsewhere says who has one of the pages open.
func (a *Floor) OpenElsewhere(ctx context.Context, tx Tx, who Person, t *sitemap.Tree, entries ...string) error {
	people, err := PeopleByID(ctx, tx)
	if err != nil {
		return err
	}
	for _, id := range entries {
		l, err := LockOf(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.Held(a.Now()) && l.Person != who.ID {
			return Refuse("", fmt.Sprintf("%s has %q open and may be editing it. Ask them, or try again later.", people[l.Person].Name, TitleOf(t, id)))
		}
	}
	return nil
}

// MarkOf names the state of a text, so that one that was changed since is known.
func MarkOf(v PageVersion) string {
	if v.ID == "" {
		return "none"
	}
	return fmt.Sprintf("%s.%d", v.ID, v.Version)
}
