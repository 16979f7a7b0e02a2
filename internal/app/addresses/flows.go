package addresses

import (
	"context"
	"net/url"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/flow"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// FlowAsk says of which addresses it is drawn where they lead.
type FlowAsk struct {
	Host  string // of an older site; empty: all redirects
	Below string // only addresses at and below this one; empty: all
}

// Flows gives the addresses of a family with where they lead in Next, and their visits: those
// that the list of the older site tells, else uses of the last days.
func (a *Addresses) Flows(ctx context.Context, who plan.Person, ask FlowAsk) (leads []flow.Lead, err error) {
	below := "/"
	if ask.Below != "" {
		if below, err = address.Normal(ask.Below); err != nil {
			return nil, plan.Refuse("below", "Write the address as it stands after the host, like /tea.")
		}
	}
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		table, rows, err := a.nextTable(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		put := func(at string, visits int) {
			if _, in := address.Below(below, at); in {
				leads = append(leads, flow.Lead{From: at, To: endOf(table.Proven(at), trees.Next), Visits: visits})
			}
		}
		if ask.Host != "" {
			lines, err := tx.Older(ctx, ask.Host)
			for _, l := range lines {
				put(l.Address, l.Visits)
			}
			return err
		}
		used, err := tx.Hits(ctx, a.Now().AddDate(0, 0, 1-HitsFor))
		for _, r := range rows {
			if !r.Status.IsReport() {
				put(r.From, used[r.Key()].N)
			}
		}
		return err
	})
	return leads, err
}

// endOf names where an answer leads.
func endOf(a redirect.Answer, pages *sitemap.Tree) string {
	switch {
	case a.Code == redirect.Gone:
		return "gone"
	case a.Code == 404:
		return "not answered"
	case a.Page != sitemap.None:
		return pages.Served(a.Page)
	}
	if u, err := url.Parse(a.Location); err == nil && u.Host != "" {
		return u.Host
	}
	path, _, _ := address.Split(a.Location)
	if normal, err := address.Normal(path); err == nil {
		return normal
	}
	return path
}
