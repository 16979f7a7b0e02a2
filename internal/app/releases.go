package app

import (
	"context"
	"fmt"
	"strings"

	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// ReleaseAddress plans to give an address up, with a reason: from the next edition
// on it answers nothing. A row that answers below it, too, ends with it.
func (a *App) ReleaseAddress(ctx context.Context, who port.Person, addr, why string) error {
	why = strings.TrimSpace(why)
	normal, err := address.Normal(strings.TrimSpace(addr))
	switch {
	case err != nil || addr == "":
		return &Invalid{"address", "Write the address as it stands after the host, like /tea/menu."}
	case why == "" || len([]rune(why)) > 300:
		return &Invalid{"why", "Say in a sentence why nobody needs this address any more."}
	}
	return a.governing(ctx, who, func(tx port.Tx, s port.Site) error {
		trees, err := a.treesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if i := trees.Next.PageAt(normal); i != sitemap.None {
			return &Invalid{"address", fmt.Sprintf("%q is at this address. An address can be released once no page has it.", trees.Next.Ref(i).Title)}
		}
		ever, err := tx.EverAnswered(ctx, normal)
		if err != nil {
			return err
		}
		if !ever {
			return &Invalid{"address", "Nothing ever answered at this address, so there is nothing to release."}
		}
		return tx.PutRelease(ctx, port.ReleasedAddress{Address: normal, Why: why, PersonID: who.ID, At: a.now()})
	})
}

// KeepAddress takes a planned release back.
func (a *App) KeepAddress(ctx context.Context, who port.Person, addr string) error {
	return a.governing(ctx, who, func(tx port.Tx, _ port.Site) error { return tx.DropRelease(ctx, addr) })
}

// Redirects lists the live redirects, and the addresses that were given up or are
// planned to be.
func (a *App) Redirects(ctx context.Context, who port.Person) (table []redirect.Row, released []port.ReleasedAddress, err error) {
	err = a.store.Read(ctx, func(tx port.Tx, s port.Site) error {
		if err := may(s, who, workflow.Plan); err != nil {
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

// releaseChanges are the planned releases as changes of the next edition.
func releaseChanges(list []port.ReleasedAddress) []change.Change {
	var out []change.Change
	for _, r := range list {
		if r.Edition == 0 {
			out = append(out, change.Change{Key: change.Key{ID: r.Address, Aspect: change.Released}, Because: r.Why})
		}
	}
	return out
}

// released gives the addresses that an edition gives up.
func (n *NextEdition) released() map[string]bool {
	out := map[string]bool{}
	for k := range n.Chosen {
		if k.Aspect == change.Released {
			out[k.ID] = true
		}
	}
	return out
}
