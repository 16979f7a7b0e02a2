package addresses

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// OlderHost is an older site.
type OlderHost struct {
	Host string
	N    int // addresses
}

// OlderWork is an older site with how each of its addresses stands, the most visited first.
type OlderWork struct {
	Hosts  []OlderHost
	Host   string
	Lines  []match.Line
	States []match.State
	Next   []redirect.Answer // what each answers with the next edition
	To     []int             // the page to which it leads then
	Found  []match.Matched
	Trees  plan.Trees
}

// At gives the line of an address; -1 if there is none.
func (w OlderWork) At(addr string) int {
	return slices.IndexFunc(w.Lines, func(l match.Line) bool { return l.Address == addr })
}

// Rule tells what one rule for the folder of a line would do.
func (w OlderWork) Rule(line, page int, prefix bool) match.Rule {
	dir := match.FolderOf(w.Lines, w.Lines[line].Address)
	return match.FolderRule(w.Trees.Next, w.Lines, w.States, w.Found, w.To, dir, page, prefix)
}

// ImportedOlder tells what became of a list.
type ImportedOlder struct {
	Host         string // of the most addresses
	Fresh, Known int
	Carried      int // that lead from now on to the pages that were carried from them
	Refused      []match.RefusedLine
}

// ImportOlder takes up the list of an older site. Addresses of which the list does not tell the
// host are those of the host given. Nothing is decided by it, nor forgotten.
func (a *Addresses) ImportOlder(ctx context.Context, who plan.Person, list *match.List, host string) (out ImportedOlder, err error) {
	if host, err = hostOf(host); err != nil {
		return out, err
	}
	lines, count := slices.Clone(list.Lines), map[string]int{}
	for i := range lines {
		if lines[i].Host == "" {
			lines[i].Host = host
		}
		if lines[i].Host == "" {
			return out, plan.Refuse("host", "The list does not tell the host of the older site. Write it, such as staff.quillmere.example.")
		}
		if count[lines[i].Host]++; count[lines[i].Host] > count[out.Host] {
			out.Host = lines[i].Host
		}
	}
	if len(lines) == 0 {
		return out, plan.Refuse("file", "No address was found in it.")
	}
	lines = oneEach(lines)
	out.Refused = list.Refused
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		out.Fresh, err = tx.PutOlder(ctx, lines, a.Now())
		return err
	})
	out.Known = len(lines) - out.Fresh
	if err != nil {
		return out, err
	}
	out.Carried, err = a.linkCarried(ctx, who, lines)
	return out, err
}

// hostOf reads the name of a host, which may be left out.
func hostOf(text string) (string, error) {
	host := strings.ToLower(strings.TrimSpace(text))
	if len(host) > 200 || strings.ContainsAny(host, "/ ?#") {
		return "", plan.Refuse("host", "Write the name of the older site's host, such as staff.quillmere.example.")
	}
	return host, nil
}

// linkCarried plans the redirects of old addresses from which pages of Next were carried.
func (a *Addresses) linkCarried(ctx context.Context, who plan.Person, lines []match.Line) (n int, err error) {
	trees, _, err := a.Planned(ctx, who)
	if err != nil {
		return 0, err
	}
	sources := match.Sources(trees.Next)
	var wishes []redirect.Wish
	for _, l := range lines {
		if i, ok := sources[l.Address]; ok && trees.Next.PageAt(l.Address) == sitemap.None && len(wishes) < redirect.MostLines {
			wishes = append(wishes, olderWish(l.Host, l.Address, "page:"+trees.Next.Ref(i).ID, redirect.Exact))
		}
	}
	if len(wishes) == 0 {
		return 0, nil
	}
	p, err := a.PreviewRedirects(ctx, who, wishes)
	if err != nil || p.Count(redirect.New) == 0 {
		return 0, err
	}
	fresh := wishes[:0]
	for i, d := range p.Judged {
		if d.Verdict == redirect.New { // what was decided otherwise stays
			fresh = append(fresh, wishes[i])
		}
	}
	_, err = a.PlanRedirects(ctx, who, plan.NewID(), fresh)
	return len(fresh), err
}

// oneEach adds up lines of one address and host.
func oneEach(lines []match.Line) []match.Line {
	at, out := map[[2]string]int{}, lines[:0]
	for _, l := range lines {
		k := [2]string{l.Host, l.Address}
		if i, met := at[k]; met {
			out[i].Visits += l.Visits
			continue
		}
		at[k] = len(out)
		out = append(out, l)
	}
	return out
}

// DropOlder forgets the list of an older site. What was decided stays.
func (a *Addresses) DropOlder(ctx context.Context, who plan.Person, host string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		return tx.DropOlder(ctx, host)
	})
}

// Older gives an older site, the first if none is named.
func (a *Addresses) Older(ctx context.Context, who plan.Person, host string) (w OlderWork, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		w, err = a.olderWork(ctx, tx, s, trees, host)
		return err
	})
	return w, err
}

func (a *Addresses) olderWork(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, host string) (OlderWork, error) {
	w := OlderWork{Trees: trees}
	var err error
	if w.Hosts, err = tx.OlderHosts(ctx); err != nil || len(w.Hosts) == 0 {
		return w, err
	}
	at := slices.IndexFunc(w.Hosts, func(h OlderHost) bool { return host == "" || h.Host == host })
	if at < 0 {
		return w, plan.ErrNotFound // never another site than the one that was asked for
	}
	w.Host = w.Hosts[at].Host
	table, _, err := a.nextTable(ctx, tx, s, trees)
	if err != nil {
		return w, err
	}
	known, err := a.olderOf(ctx, tx, s, w.Host, trees.Next)
	if err != nil {
		return w, err
	}
	w.Lines = slices.Clone(known.lines)
	w.answer(table)
	w.Found = known.found(w)
	w.States = make([]match.State, len(w.Lines))
	for i := range w.Lines {
		w.States[i] = match.StateOf(w.Next[i].Code, w.Found[i])
	}
	return w, nil
}

// answer asks what each address answers.
func (w *OlderWork) answer(table *redirect.Table) {
	next := w.Trees.Next
	w.Next, w.To = make([]redirect.Answer, len(w.Lines)), make([]int, len(w.Lines))
	for i := range w.Lines {
		a := table.Proven(address.OnHost(w.Host, w.Lines[i].Address))
		if w.Next[i], w.To[i] = a, a.Page; a.Page == sitemap.None && a.Location != "" {
			if path, _, _ := address.Split(a.Location); path != "" && path[0] == '/' {
				if normal, err := address.Normal(path); err == nil {
					w.To[i] = next.PageAt(normal)
				}
			}
		}
		if w.To[i] != sitemap.None {
			w.Lines[i].To = next.Ref(w.To[i]).ID
		}
	}
}

// DecideOlder plans where some addresses of an older site lead, by "page:ID", an address, a URL
// or "gone".
func (a *Addresses) DecideOlder(ctx context.Context, who plan.Person, key, host string, to map[string]string) (plan.PlanResult, error) {
	if err := a.knowsOlder(ctx, who, host); err != nil {
		return plan.PlanResult{}, err
	}
	wishes := make([]redirect.Wish, 0, len(to))
	for from, where := range to {
		wishes = append(wishes, olderWish(host, from, where, redirect.Exact))
	}
	slices.SortFunc(wishes, func(x, y redirect.Wish) int { return strings.Compare(x.From, y.From) })
	return a.PlanRedirects(ctx, who, key, wishes)
}

func olderWish(host, from, to string, match redirect.Match) redirect.Wish {
	return redirect.Wish{Host: host, From: redirect.WrittenFrom(from), To: to, Match: string(match), Note: "From " + host, Origin: redirect.FromOlder}
}

// AcceptOlder plans the redirects of all addresses of an older site that have a clear winner.
func (a *Addresses) AcceptOlder(ctx context.Context, who plan.Person, key, host string) (plan.PlanResult, error) {
	w, err := a.Older(ctx, who, host)
	if err != nil {
		return plan.PlanResult{}, err
	}
	to := map[string]string{}
	for i, s := range w.States {
		if s == match.Clear && len(to) < redirect.MostLines {
			to[w.Lines[i].Address] = "page:" + w.Trees.Next.Ref(w.Found[i].Best[0].Page).ID
		}
	}
	if len(to) == 0 {
		return plan.PlanResult{}, plan.Refuse("", "No address has a clear winner. Choose one by one.")
	}
	return a.DecideOlder(ctx, who, key, w.Host, to)
}

// DecideFolder plans one redirect for all of a folder of an older site that is not decided.
func (a *Addresses) DecideFolder(ctx context.Context, who plan.Person, key, host, folder, entry string, prefix bool) (plan.PlanResult, error) {
	if strings.Trim(folder, "/") == "" {
		return plan.PlanResult{}, plan.Refuse("folder", "A rule for the whole site would also answer what never was there. Choose a folder.")
	}
	if err := a.knowsOlder(ctx, who, host); err != nil {
		return plan.PlanResult{}, err
	}
	how := redirect.Branch
	if prefix {
		how = redirect.Prefix
	}
	return a.PlanRedirects(ctx, who, key, []redirect.Wish{olderWish(host, strings.TrimSuffix(folder, "/"), "page:"+entry, how)})
}

// knowsOlder refuses the host of no older site.
func (a *Addresses) knowsOlder(ctx context.Context, who plan.Person, host string) error {
	hosts, err := a.OlderHosts(ctx, who)
	if err == nil && !slices.ContainsFunc(hosts, func(h OlderHost) bool { return h.Host == host }) {
		err = plan.ErrNotFound
	}
	return err
}

// OlderWords says how far an older site is: "153 of 231 addresses answer, 9,412 of 10,370
// visits".
func OlderWords(c match.Coverage) string {
	all := func(of map[match.State]int) (answered, n int) {
		for s, k := range of {
			if n += k; s.Answers() {
				answered += k
			}
		}
		return answered, n
	}
	done, n := all(c.Addresses)
	visited, visits := all(c.Visits)
	return fmt.Sprintf("%d of %d addresses answer, %d of %d visits", done, n, visited, visits)
}

// OlderHosts lists the older sites.
func (a *Addresses) OlderHosts(ctx context.Context, who plan.Person) (hosts []OlderHost, err error) {
	err = a.Planning(ctx, who, func(tx Tx, _ plan.Site, _ plan.Trees) error {
		hosts, err = tx.OlderHosts(ctx)
		return err
	})
	return hosts, err
}
