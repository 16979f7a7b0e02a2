package addresses

import (
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
)

// RulesAsk says of which redirects another server is to have the rules.
type RulesAsk struct {
	Live bool   // of Live; else of Next
	Host string // the older site that the server stands for; empty: none
	Base bool   // targets get the address of the site before them
}

// RuleHosts gives the names that another server may stand for: those of older sites, and those that
// redirects are for alone.
func (a *Addresses) RuleHosts(ctx context.Context, who plan.Person) (hosts []string, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, _ plan.Trees) error {
		older, err := tx.OlderHosts(ctx)
		if err != nil {
			return err
		}
		for _, h := range older {
			hosts = append(hosts, h.Host)
		}
		rows, err := tx.HostRows(ctx)
		for _, h := range rows {
			if !slices.Contains(hosts, h.Host) {
				hosts = append(hosts, h.Host)
			}
		}
		return err
	})
	return hosts, err
}

// RulesTable gives the redirects as another server may have them: targets are addresses and
// URLs, and what leads to nothing is left out. Addresses of the older site at which the site
// itself has a page lead there, which only a server with another name can do.
func (a *Addresses) RulesTable(ctx context.Context, who plan.Person, ask RulesAsk) (rows []redirect.Row, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		table, tree := []redirect.Row(nil), trees.Next
		if ask.Live {
			tree = trees.Live
			table, err = a.RedirectsOf(ctx, tx, s)
		} else {
			table, _, err = a.tableOfNext(ctx, tx, s, trees)
		}
		if err != nil {
			return err
		}
		if rows, err = redirect.Addressed(table, tree); err != nil || ask.Host == "" {
			return err
		}
		if rows = redirect.Under(rows, ask.Host); !ask.Base {
			return nil
		}
		lines, err := tx.Older(ctx, ask.Host)
		if err != nil {
			return err
		}
		same := make([]string, len(lines))
		for i := range lines {
			same[i] = lines[i].Address
		}
		rows = redirect.WithPages(rows, tree, same)
		return nil
	})
	return rows, err
}
