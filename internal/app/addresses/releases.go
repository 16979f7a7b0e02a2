package addresses

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// ReleaseAddresses plans to give addresses up, with one reason: from the next edition
// on they answer nothing. A row that answers below one, too, ends with it.
func (a *Addresses) ReleaseAddresses(ctx context.Context, who plan.Person, addrs []string, why string) error {
	why = strings.TrimSpace(why)
	if len(addrs) == 0 {
		return plan.Refuse("address", "Tick the addresses first.")
	}
	if why == "" || len([]rune(why)) > 300 {
		return plan.Refuse("why", "Give a reason why nobody needs this address any more.")
	}
	return a.Governing(ctx, who, func(tx Tx, s plan.Site) error {
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		keys, err := releasedKeys(ctx, tx, s, addrs)
		if err != nil {
			return err
		}
		for _, normal := range keys {
			if err := a.release(ctx, tx, who, trees, normal, why); err != nil {
				return err
			}
		}
		return nil
	})
}

func (a *Addresses) release(ctx context.Context, tx Tx, who plan.Person, trees plan.Trees, normal, why string) error {
	if i := trees.Next.PageAt(normal); i != sitemap.None {
		return plan.Refuse("address", fmt.Sprintf("%q is at this address. An address can be released once no page has it.", trees.Next.Ref(i).Title))
	}
	ever, err := tx.EverAnswered(ctx, normal)
	if err != nil {
		return err
	}
	if !ever {
		return plan.Refuse("address", fmt.Sprintf("Nothing ever answered at %s, so there is nothing to release.", redirect.WrittenFrom(normal)))
	}
	return tx.PutRelease(ctx, plan.ReleasedAddress{Address: normal, Why: why, PersonID: who.ID, At: a.Now()})
}

// releasedKeys reads addresses as people write them. A URL on a name of the site is an address of the
// site, one on another name is that of the redirects for this name alone; a name without an address
// stands for all of them.
func releasedKeys(ctx context.Context, tx Tx, s plan.Site, addrs []string) (keys []string, err error) {
	var hosts []plan.HostRows
	for _, addr := range addrs {
		addr = strings.TrimSpace(addr)
		url := addr
		if strings.HasPrefix(addr, "//") {
			url = "https:" + addr
		}
		host, rest, named := address.HostOf(url)
		if named && slices.ContainsFunc(s.Hosts, func(own string) bool { return strings.EqualFold(own, host) }) {
			host, addr, named = "", rest, false
		}
		if named {
			if addr = rest; hosts == nil {
				if hosts, err = tx.HostRows(ctx); err != nil {
					return nil, err
				}
			}
		}
		if named && strings.Count(url, "/") == 2 {
			at := slices.IndexFunc(hosts, func(h plan.HostRows) bool { return h.Host == host })
			if at < 0 {
				return nil, plan.Refuse("address", fmt.Sprintf("No redirect is for %s alone, so there is nothing to release.", host))
			}
			keys = append(keys, hosts[at].Addresses...)
			continue
		}
		key, err := address.Options{}.Key(addr)
		if err != nil || !strings.HasPrefix(addr, "/") {
			return nil, plan.Refuse("address", "Write the address as it stands after the host, like /tea/menu.")
		}
		keys = append(keys, address.OnHost(host, key))
	}
	return keys, nil
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
	Now      redirect.Moment
}

// Redirects lists the redirects of Live with those that are planned by hand.
func (a *Addresses) Redirects(ctx context.Context, who plan.Person) (out RedirectList, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		now := a.Now()
		out.Trees, out.Now = trees, redirect.MomentOf(now)
		table, err := a.RedirectsOf(ctx, tx, s)
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
		used, err := tx.Hits(ctx, now.AddDate(0, 0, 1-HitsFor))
		if err != nil {
			return err
		}
		out.Now.Used = len(used) > 0
		for i := range out.Rows {
			l := &out.Rows[i]
			l.Use, l.Lost = used[l.Key()], l.Row.Lost(trees.Next)
		}
		out.Released, err = tx.Releases(ctx)
		return err
	})
	return out, err
}

// MostCovered is how many addresses that a redirect covers are told.
const MostCovered = 2000

// Covered is an address that ever answered below a redirect of a whole branch, with what answers
// there now.
type Covered struct {
	Address string
	Answer  redirect.Answer
}

// Covers tells which addresses that ever answered are at or below a redirect, and what each
// answers in Next.
func (a *Addresses) Covers(ctx context.Context, who plan.Person, key redirect.Key) (out []Covered, trees plan.Trees, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, t plan.Trees) error {
		trees = t
		table, _, err := a.nextTable(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		ever, err := tx.AddressesBelow(ctx, key.From, MostCovered)
		for _, at := range ever {
			out = append(out, Covered{at, table.Proven(at)})
		}
		return err
	})
	return out, trees, err
}

// AddressesOf gives every address that a page had in an edition, and since when until when.
func (a *Addresses) AddressesOf(ctx context.Context, who plan.Person, entry string) (out []HadAddress, trees plan.Trees, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, t plan.Trees) error {
		trees = t
		table, _, err := a.nextTable(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		if out, err = tx.AddressesOf(ctx, entry); err != nil {
			return err
		}
		for i := range out {
			out[i].Answer = table.Proven(out[i].Address)
		}
		return nil
	})
	return out, trees, err
}

// HadAddress is an address that a page had, from one edition until another.
type HadAddress struct {
	Address                string
	FromEdition, ToEdition int             // ToEdition 0: it has it still
	Answer                 redirect.Answer // in Next
}

// ChangeMany plans some redirects anew, with another code or date.
func (a *Addresses) ChangeMany(ctx context.Context, who plan.Person, key string, ids []string, code, review string) (plan.PlanResult, error) {
	list, err := a.Redirects(ctx, who)
	if err != nil {
		return plan.PlanResult{}, err
	}
	var wishes []redirect.Wish
	for _, l := range list.Rows {
		if !slices.Contains(ids, l.Key().ID()) {
			continue
		}
		w := l.AsWish(list.Trees.Next)
		if code != "" {
			w.Code = code
			if code == "gone" {
				w.To = ""
			}
		}
		if review != "" {
			w.Review = review
		}
		wishes = append(wishes, w)
	}
	if len(wishes) == 0 {
		return plan.PlanResult{}, plan.Refuse("", "Tick the redirects first.")
	}
	return a.PlanRedirects(ctx, who, key, wishes)
}
