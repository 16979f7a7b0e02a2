package editions

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
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
		n, err := a.workOut(ctx, tx, s, who, Select{restore: to})
		if err != nil {
			return err
		}
		out, err = a.release(ctx, tx, n.judge(who, workflow.ByRestore, a.Now()), plan.Edition{
			Number: s.Edition + 1, At: a.Now(), PersonID: who.ID, Why: why, ActKey: key, BackTo: to,
		}, nil)
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
