package addresses

import (
	"context"
	"fmt"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// ReleaseAddress plans to give an address up, with a reason: from the next edition
// on it answers nothing. A row that answers below it, too, ends with it.
func (a *Addresses) ReleaseAddress(ctx context.Context, who plan.Person, addr, why string) error {
	why = strings.TrimSpace(why)
	normal, err := address.Normal(strings.TrimSpace(addr))
	switch {
	case err != nil || addr == "":
		return plan.Refuse("address", "Write the address as it stands after the host, like /tea/menu.")
	case why == "" || len([]rune(why)) > 300:
		return plan.Refuse("why", "Give a reason why nobody needs this address any more.")
	}
	return a.Governing(ctx, who, func(tx Tx, s plan.Site) error {
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if i := trees.Next.PageAt(normal); i != sitemap.None {
			return plan.Refuse("address", fmt.Sprintf("%q is at this address. An address can be released once no page has it.", trees.Next.Ref(i).Title))
		}
		ever, err := tx.EverAnswered(ctx, normal)
		if err != nil {
			return err
		}
		if !ever {
			return plan.Refuse("address", "Nothing ever answered at this address, so there is nothing to release.")
		}
		return tx.PutRelease(ctx, plan.ReleasedAddress{Address: normal, Why: why, PersonID: who.ID, At: a.Now()})
	})
}

// KeepAddress takes a planned release back.
func (a *Addresses) KeepAddress(ctx context.Context, who plan.Person, addr string) error {
	return a.Governing(ctx, who, func(tx Tx, _ plan.Site) error { return tx.DropRelease(ctx, addr) })
}

// RedirectList is all redirects, live and planned, and the addresses that were given up or
// are planned to be.
type RedirectList struct {
	Rows     []redirect.Listed
	Released []plan.ReleasedAddress
	Trees    plan.Trees
	Today    string // as 2026-11-26
}

// Redirects lists the redirects of Live with those that are planned by hand.
func (a *Addresses) Redirects(ctx context.Context, who plan.Person) (out RedirectList, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, trees plan.Trees) error {
		out.Trees, out.Today = trees, a.Now().Format(time.DateOnly)
		table, err := tx.Table(ctx)
		if err != nil {
			return err
		}
		planned, err := tx.PlannedRedirects(ctx)
		if err != nil {
			return err
		}
		rows := make([]redirect.Row, len(planned))
		for i, p := range planned {
			rows[i] = p.Row
		}
		out.Rows = redirect.List(table, rows)
		out.Released, err = tx.Releases(ctx)
		return err
	})
	return out, err
}
