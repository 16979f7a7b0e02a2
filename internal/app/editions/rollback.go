package editions

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/workflow"
)

// Rollback makes a new edition equal to an earlier one. What it takes back
// returns to the plan.
func (a *Editions) Rollback(ctx context.Context, who plan.Person, key string, to int, why string) (plan.Edition, error) {
	why = strings.TrimSpace(why)
	if err := plan.CheckKey(key); err != nil {
		return plan.Edition{}, err
	}
	var out plan.Edition
	err := a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if done, err := tx.EditionByKey(ctx, key); err == nil {
			out = done
			return nil
		}
		if !s.Rights().May(who.Role, workflow.Publish) {
			return plan.ErrForbidden
		}
		if why == "" {
			return plan.Refuse("why", "Enter a reason for restoring this edition.")
		}
		if to < 1 || to >= s.Edition {
			return plan.Refuse("to", "Choose an edition earlier than the live one.")
		}
		var err error
		if s.Work, err = tx.LockDrafts(ctx); err != nil {
			return err
		}
		n, err := a.prepareRollback(ctx, tx, s, who, to)
		if err != nil {
			return err
		}
		out, err = a.release(ctx, tx, n.Judge(who, workflow.ByRestore), plan.Edition{
			Number: s.Edition + 1, At: a.Now(), PersonID: who.ID, Why: why, ActKey: key, BackTo: to,
			Changes: n.summaries(n.Chosen),
		})
		if err != nil || n.Frozen == nil {
			return err
		}
		return tx.Notify(ctx, a.restoredInFreeze(ctx, tx, who, *n.Frozen, out))
	})
	return out, err
}

// restoredInFreeze tells who laid a freeze, and the other site managers, that an edition was restored during it.
func (a *Editions) restoredInFreeze(ctx context.Context, tx Tx, who plan.Person, f workflow.Freeze, e plan.Edition) (out []plan.Notice) {
	people, err := tx.People(ctx)
	if err != nil {
		return nil
	}
	for _, p := range people {
		if p.ID != who.ID && !p.Inactive && (p.ID == f.Person || p.Role == workflow.Manager) {
			out = append(out, plan.Notice{PersonID: p.ID, Kind: plan.NoticeEdition, Subject: fmt.Sprint(e.Number), At: a.Now(), Words: fmt.Sprintf(
				"%s restored edition %d as edition %d during the freeze “%s”: %s", who.Name, e.BackTo, e.Number, f.Why, e.Why)})
		}
	}
	return out
}

// prepareRollback prepares the edition that equals an earlier one.
func (a *Editions) prepareRollback(ctx context.Context, tx Tx, s plan.Site, who plan.Person, to int) (NextEdition, error) {
	n := NextEdition{Site: s, backTo: to}
	var err error
	if n.Trees, err = a.TreesOf(ctx, tx, s); err != nil {
		return n, err
	}
	earlier, err := tx.TreeAt(ctx, to)
	if err != nil {
		return n, fmt.Errorf("load edition %d: %w", to, err)
	}
	if n.Table, err = a.RedirectsOf(ctx, tx, s); err != nil {
		return n, err
	}
	if n.Decisions, err = tx.Decisions(ctx); err != nil {
		return n, err
	}
	live := edition.Live{Tree: n.Trees.Live, Table: n.Table}
	if n.Draft, err = edition.Rollback(live, earlier, n.Trees.Next, n.Decisions, s.Answers()); err != nil {
		return n, fmt.Errorf("prepare edition: %w", err)
	}
	summaries, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return n, err
	}
	n.Planned = plan.PlannedChanges(n.Trees, summaries)
	n.All = change.Diff(n.Trees.Live, n.Draft.Tree)
	if err := n.restoreTexts(ctx, tx, summaries, to); err != nil {
		return n, err
	}
	n.All = append(n.All, plan.ContentChanges(n.texts.Entries(), n.Trees.Live, n.Draft.Tree)...)
	then, err := tx.ShapesAt(ctx, to)
	if err != nil {
		return n, err
	}
	n.Shapes = shape.Back(n.Trees.Shapes.Live, then)
	n.All = append(n.All, shape.Diff(n.Trees.Shapes.Live, n.Shapes)...)
	n.Decisions = nil // they are about Next, which stays
	n.Chosen = change.All(n.All)
	if n.freezes, err = tx.Freezes(ctx); err != nil {
		return n, err
	}
	n.Frozen = workflow.Frozen(n.freezes, a.Now())
	return n, a.preflight(ctx, tx, &n, nil, true)
}

// restoreTexts works out which texts are live again.
func (n *NextEdition) restoreTexts(ctx context.Context, tx Tx, summaries plan.Summaries, to int) error {
	then, err := tx.TextsAt(ctx, to)
	if err != nil {
		return err
	}
	now, err := tx.TextsAt(ctx, n.Site.Edition)
	if err != nil {
		return err
	}
	drafted := map[string]bool{}
	for i := range summaries.Drafts {
		drafted[summaries.Drafts[i].EntryID] = true
	}
	n.texts = edition.RestoreTexts(then, now, drafted)
	return nil
}
