package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/app/port"
	"candlepath/internal/core/content"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// writer writes drafts as part of an act on Next, and notes what it did, so that
// the act can be undone.
type writer struct {
	a         *App
	tx        port.Tx
	who       port.Person
	next      *sitemap.Tree
	templates []content.Template
	people    map[string]port.Person
	also      port.Also
}

func (a *App) writer(ctx context.Context, tx port.Tx, who port.Person, next *sitemap.Tree) (*writer, error) {
	w := &writer{a: a, tx: tx, who: who, next: next}
	var err error
	if w.templates, err = tx.Templates(ctx); err != nil {
		return nil, fmt.Errorf("load templates: %w", err)
	}
	w.people, err = peopleByID(ctx, tx)
	return w, err
}

func (w *writer) template(entry string) content.Template {
	key := ""
	if i := w.next.Find(entry); i != sitemap.None {
		key = w.next.Ref(i).Template
	}
	return templateOf(w.templates, key)
}

// set makes the draft of an entry hold a page; nil drops it.
func (w *writer) set(ctx context.Context, entry string, page *content.Page) error {
	was, base, id, err := w.draft(ctx, entry)
	if err != nil {
		return err
	}
	if page == nil {
		return w.tx.DropDraft(ctx, entry)
	}
	v, err := w.a.rendered(w.template(entry), *page, w.people)
	if err != nil {
		return err
	}
	v.ID, v.EntryID, v.Version, v.PersonID, v.At = id, entry, base+1, w.who.ID, w.a.now()
	if err := w.tx.SaveDraft(ctx, v, base); err != nil {
		return fmt.Errorf("save the text of a page: %w", err)
	}
	w.also.Texts = append(w.also.Texts, port.TextPatch{EntryID: entry, Before: was, After: page})
	return nil
}

// draft gives the draft of an entry, if it has one, its version, and the id that
// a next one has.
func (w *writer) draft(ctx context.Context, entry string) (page *content.Page, version int, id string, err error) {
	if err := w.tx.LockDraft(ctx, entry); err != nil {
		return nil, 0, "", err
	}
	d, err := w.tx.Draft(ctx, entry)
	switch {
	case errors.Is(err, port.ErrNotFound):
		return nil, 0, newID(), nil
	case err != nil:
		return nil, 0, "", err
	}
	return &d.Content, d.Version, d.ID, nil
}

// decide sets where the visitors of an entry belong; nil takes that back.
func (w *writer) decide(ctx context.Context, entry string, was, now *redirect.Decision) error {
	w.also.Decisions = append(w.also.Decisions, port.DecisionPatch{EntryID: entry, Before: was, After: now})
	if now == nil {
		return w.tx.DropDecision(ctx, entry)
	}
	return w.tx.PutDecision(ctx, entry, *now, w.who.ID)
}

// relink rewrites the links of every page that links to an entry, in drafts; to
// gets the page that holds the link.
func (w *writer) relink(ctx context.Context, entry string, to func(holder, link string) string, except ...string) (pages int, err error) {
	return w.rewrite(ctx, entry, func(holder string, p content.Page) content.Page {
		return content.Rewritten(p, func(link string) string { return to(holder, link) })
	}, except...)
}

// rewrite writes drafts of the pages of Next that link to an entry.
func (w *writer) rewrite(ctx context.Context, entry string, with func(holder string, p content.Page) content.Page, except ...string) (pages int, err error) {
	holders, err := w.tx.PagesLinking(ctx, entry)
	if err != nil {
		return 0, err
	}
	holders = slices.DeleteFunc(holders, func(id string) bool {
		return slices.Contains(except, id) || w.next.Find(id) == sitemap.None
	})
	texts, err := latestTexts(ctx, w.tx, holders)
	if err != nil {
		return 0, err
	}
	for _, id := range holders {
		page := with(id, texts[id].Content)
		if content.Same(page, texts[id].Content) {
			continue
		}
		if err := w.set(ctx, id, &page); err != nil {
			return pages, err
		}
		pages++
	}
	return pages, nil
}

// unlink makes the links of every page to an entry plain words, in drafts.
func (w *writer) unlink(ctx context.Context, entry, title string) (pages int, err error) {
	return w.rewrite(ctx, entry, func(_ string, p content.Page) content.Page { return content.Unlinked(p, entry, title) })
}

// latestTexts gives the text of each entry that has one: its draft, else what is
// live.
func latestTexts(ctx context.Context, tx port.Tx, entries []string) (map[string]port.PageVersion, error) {
	out := make(map[string]port.PageVersion, len(entries))
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

// turn takes what an act did to drafts and decisions back, or does it again.
// Where somebody changed one of them since, it says so and does nothing.
// It gives the ways as they are then.
func (a *App) turn(ctx context.Context, tx port.Tx, who port.Person, trees port.Trees, next *sitemap.Tree, act port.Act, again bool) (port.Ways, error) {
	also, err := tx.ActAlso(ctx, act.ID)
	if err != nil {
		return trees.Ways, err
	}
	if len(also.Texts)+len(also.Decisions) > 0 {
		if err := a.turnTexts(ctx, tx, who, next, also, again); err != nil {
			return trees.Ways, err
		}
	}
	return a.turnWays(ctx, tx, who, trees, also.Ways, again)
}

func (a *App) turnTexts(ctx context.Context, tx port.Tx, who port.Person, next *sitemap.Tree, also port.Also, again bool) error {
	w, err := a.writer(ctx, tx, who, next)
	if err != nil {
		return err
	}
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return err
	}
	for _, p := range slices.Backward(also.Texts) {
		from, to := p.After, p.Before
		if again {
			from, to = to, from
		}
		now, _, _, err := w.draft(ctx, p.EntryID)
		if err != nil {
			return err
		}
		if (now == nil) != (from == nil) || now != nil && !content.Same(*now, *from) {
			return &sitemap.ConflictError{ID: p.EntryID, Title: "The text of " + titleOf(next, p.EntryID)}
		}
		if err := w.set(ctx, p.EntryID, to); err != nil {
			return err
		}
	}
	for _, p := range slices.Backward(also.Decisions) {
		from, to := p.After, p.Before
		if again {
			from, to = to, from
		}
		if now, ok := decisions[p.EntryID]; ok != (from != nil) || ok && now != *from {
			return &sitemap.ConflictError{ID: p.EntryID, Title: "Where the visitors of " + titleOf(next, p.EntryID) + " belong"}
		}
		if err := w.decide(ctx, p.EntryID, from, to); err != nil {
			return err
		}
	}
	return nil
}
