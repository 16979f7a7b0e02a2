package addresses

import (
	"context"
	"fmt"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
)

// TellDue tells the site managers which redirects are to be looked at again: those that were
// decided until a day. Nobody is told twice before they read it.
func (a *Addresses) TellDue(ctx context.Context) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if s.ID == "" {
			return nil
		}
		rows, err := a.RedirectsOf(ctx, tx, s)
		if err != nil {
			return err
		}
		today, since, err := a.dueSince(ctx, tx)
		if err != nil {
			return err
		}
		var fresh []string
		for _, r := range rows {
			if r.Review != "" && r.Review <= today && r.Review > since {
				fresh = append(fresh, redirect.WrittenFrom(r.From))
			}
		}
		if len(fresh) == 0 {
			return nil
		}
		people, err := tx.People(ctx)
		if err != nil {
			return err
		}
		var list []plan.Notice
		for _, p := range plan.Managers(people) {
			list = append(list, plan.Notice{PersonID: p.ID, Kind: plan.NoticeDue, Subject: today, At: a.Now(), Words: dueWords(fresh)})
		}
		return tx.Notify(ctx, list)
	})
}

// dueSince gives today, and the last day of which it was told.
func (a *Addresses) dueSince(ctx context.Context, tx Tx) (today, since string, err error) {
	since, err = tx.LastNotice(ctx, plan.NoticeDue)
	return a.Now().Format(time.DateOnly), since, err
}

func dueWords(addresses []string) string {
	const most = 3
	told := strings.Join(addresses[:min(len(addresses), most)], ", ")
	if n := len(addresses) - most; n > 0 {
		told += fmt.Sprintf(" and %d more", n)
	}
	return fmt.Sprintf("%d %s to be looked at again: %s.", len(addresses), plan.Plural(len(addresses), "redirect is", "redirects are"), told)
}
