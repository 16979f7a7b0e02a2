package pages

import (
	"context"
	"sync"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// StateLine is an earlier state of a draft in their list.
type StateLine struct {
	workflow.DraftState
	By string // who wrote it
}

// saveState saves a draft and keeps it as a state. The newest state goes on for a while; where it does not, it stays as
// it is, another begins, and old ones are thinned out.
func (a *Pages) saveState(ctx context.Context, tx Tx, draft, v plan.PageVersion, base int) error {
	states, err := tx.DraftStates(ctx, v.EntryID)
	if err != nil {
		return err
	}
	from, err := a.goesOnFrom(ctx, tx, draft, v.EntryID, base)
	if err != nil {
		return err
	}
	takes := content.TakesAway(content.Identified(from.Content, v.EntryID), v.Content)
	now := workflow.DraftState{ID: plan.NewID(), Person: v.PersonID, At: v.At, Begun: v.At}
	known := from.ID == "" || len(states) > 0 && states[0].At.Equal(from.At)
	if base > 0 && known && len(states) > 0 && states[0].GoesOn(v.PersonID, v.At, takes) {
		now.ID, now.Begun = states[0].ID, states[0].Begun
		return tx.SaveState(ctx, v, base, now)
	}
	if !known { // it is live, or came of a merge, say
		was := workflow.DraftState{ID: plan.NewID(), Person: from.PersonID, At: from.At}
		if len(states) > 0 && !was.At.After(states[0].At) {
			was.At = v.At.Add(-time.Millisecond) // before the draft, behind all that is older
		}
		was.Begun = was.At
		if err := tx.PutDraftState(ctx, v.EntryID, was, from.Content); err != nil {
			return err
		}
		states = append([]workflow.DraftState{was}, states...)
	}
	if takes && len(states) > 0 {
		states[0].Lost = true
		if err := tx.LoseState(ctx, states[0].ID); err != nil {
			return err
		}
	}
	if err := tx.SaveState(ctx, v, base, now); err != nil {
		return err
	}
	return tx.DropDraftStates(ctx, workflow.Thinned(append(states, now), v.At))
}

// goesOnFrom gives the text that a save goes on from: of the draft or, where it begins, what is live; without an id
// there is none.
func (a *Pages) goesOnFrom(ctx context.Context, tx Tx, draft plan.PageVersion, entry string, base int) (plan.PageVersion, error) {
	if text, ok := a.saved.of(draft); ok && base > 0 {
		return text, nil
	}
	texts, err := tx.BareTextsOf(ctx, []string{entry}, base > 0)
	if err != nil || len(texts) == 0 {
		return plan.PageVersion{}, err
	}
	return texts[0], nil
}

// savedTexts are drafts that this instance saved last, so that the next save need not read what it goes on from. A
// version of a draft never holds another text.
type savedTexts struct {
	mu     sync.Mutex
	latest map[string]plan.PageVersion // by the draft's id
}

const mostSaved = 100 // drafts

func (s *savedTexts) of(draft plan.PageVersion) (plan.PageVersion, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	v, ok := s.latest[draft.ID]
	return v, ok && draft.ID != "" && v.Version == draft.Version && v.At.Equal(draft.At)
}

func (s *savedTexts) put(v plan.PageVersion) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.latest == nil || len(s.latest) >= mostSaved {
		s.latest = map[string]plan.PageVersion{}
	}
	s.latest[v.ID] = v
}

// States lists the earlier states of a page's draft, the newest first.
func (a *Pages) States(ctx context.Context, who plan.Person, entry string) (out []StateLine, err error) {
	err = a.onPage(ctx, who, entry, func(tx Tx, _ plan.Site, _ plan.Trees, _ content.Template) error {
		states, err := tx.DraftStates(ctx, entry)
		if err != nil {
			return err
		}
		people, err := plan.PeopleByID(ctx, tx)
		for _, s := range states {
			out = append(out, StateLine{s, people[s.Person].Name})
		}
		return err
	})
	return out, err
}

// StateView is one earlier state, and how what stands there now differs from it.
type StateView struct {
	Content content.Page
	HTML    string
	Changes []content.BlockChange
	Trees   plan.Trees
}

// State gives an earlier state of a draft beside the text that is saved now.
func (a *Pages) State(ctx context.Context, who plan.Person, entry, id string) (v StateView, err error) {
	err = a.onPage(ctx, who, entry, func(tx Tx, s plan.Site, trees plan.Trees, t content.Template) error {
		was, err := tx.DraftState(ctx, entry, id)
		if err != nil {
			return err
		}
		texts, err := plan.LatestTexts(ctx, tx, []string{entry})
		if err != nil {
			return err
		}
		v.Trees, v.Content = trees, content.Identified(content.Clean(was), entry)
		v.Changes = content.Changes(v.Content, content.Identified(content.Clean(texts[entry].Content), entry))
		v.HTML, err = a.drawn(ctx, tx, s, trees, entry, t, v.Content)
		return err
	})
	return v, err
}

// onPage runs f on a page of Next for somebody who may write.
func (a *Pages) onPage(ctx context.Context, who plan.Person, entry string, f func(Tx, plan.Site, plan.Trees, content.Template) error) error {
	return a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		if err := plan.May(s, who, workflow.Write); err != nil {
			return err
		}
		i := trees.Next.Find(entry)
		if i == sitemap.None || !trees.Next.Ref(i).Kind.IsPage() {
			return plan.ErrNotFound
		}
		templates, err := tx.Templates(ctx)
		if err != nil {
			return err
		}
		return f(tx, s, trees, content.TemplateOf(templates, trees.Next.Ref(i).Template))
	})
}

// drawn gives the HTML of a text of a page, with what it lists from Next.
func (a *Pages) drawn(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, entry string, t content.Template, p content.Page) (string, error) {
	around, err := a.Around(ctx, tx)
	if err != nil {
		return "", err
	}
	art, err := a.Markup.Article(t, p, around)
	if err != nil {
		return "", err
	}
	html, _, err := a.Composed(ctx, tx, s, art.HTML, plan.Listing{Tree: trees.Next, Entry: entry, Next: true})
	return html, err
}
