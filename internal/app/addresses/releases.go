package addresses

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
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

// Redirects lists the live redirects, and the addresses that were given up or are
// planned to be.
func (a *Addresses) Redirects(ctx context.Context, who plan.Person) (table []redirect.Row, released []plan.ReleasedAddress, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		if table, err = tx.Table(ctx); err != nil {
			return err
		}
		released, err = tx.Releases(ctx)
		return err
	})
	return table, released, err
}
