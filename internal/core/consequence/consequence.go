// Package consequence tells what a planned act does before it is done: which
// addresses change, which redirects are added, which links follow and which
// menus show something else.
package consequence

import (
	"slices"

	"candlepath/internal/core/menu"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Of is what an act does, in figures and names.
type Of struct {
	Readdressed []string // ids of entries whose address in Next changes
	FromLive    int      // of those, pages that colleagues have at another address now
	Staying     int      // of Readdressed, entries that have an address afterwards
	Redirects   int      // rows that the act adds to Next's table
	Undecided   []string // ids of live pages whose visitors have nowhere to go
	TopBefore   []string // titles of the top menu, where it changes
	TopAfter    []string
	SideMenus   int    // side and foot menus that show something else
	NoOwner     int    // pages among those touched that nobody owns
	OldLive     string // of the one entry that the act is on
	NewAddress  string
}

// Leaves tells whether all that the act touches is without an address
// afterwards, and so leaves the site.
func (o Of) Leaves() bool { return o.Staying == 0 }

// AsksFirst tells whether the act waits until its consequences were seen: it
// changes addresses that colleagues use.
func (o Of) AsksFirst() bool { return o.FromLive > 0 }

// Move compares Next before and after an act on entries, over Live.
func Move(live, before, after *sitemap.Tree, owns menu.Owns, table []redirect.Row, decisions map[string]redirect.Decision, hosts []string, ids ...string) (Of, error) {
	var o Of
	for i := range before.Len() {
		e := before.Ref(i)
		was, now := before.Served(i), ""
		if j := after.Find(e.ID); j != sitemap.None {
			now = after.Served(j)
		}
		if was == now {
			continue
		}
		o.Readdressed = append(o.Readdressed, e.ID)
		if now != "" {
			o.Staying++
		}
		if l := live.Find(e.ID); l != sitemap.None && live.Served(l) != "" && live.Served(l) != now {
			o.FromLive++
		}
		if e.Owner == "" && now != "" {
			o.NoOwner++
		}
	}
	if l := live.Find(ids[0]); l != sitemap.None && len(ids) == 1 {
		o.OldLive = live.Served(l)
	}
	if j := after.Find(ids[0]); j != sitemap.None && len(ids) == 1 {
		o.NewAddress = after.Served(j)
	}
	o.menus(before, after, owns, ids)
	return o, o.redirects(live, before, after, table, decisions, hosts)
}

func (o *Of) redirects(live, before, after *sitemap.Tree, table []redirect.Row, decisions map[string]redirect.Decision, hosts []string) error {
	in := redirect.Input{Live: live, Table: table, Decisions: decisions, Hosts: hosts, Next: before}
	was, err := redirect.Plan(in)
	if err != nil {
		return err
	}
	in.Next = after
	now, err := redirect.Plan(in)
	if err != nil {
		return err
	}
	open := map[string]bool{}
	for _, r := range was {
		if r.Status == redirect.Undecided {
			open[r.From] = true
		}
	}
	o.Redirects = max(0, count(now)-count(was))
	for _, r := range now {
		if i := live.PageAt(r.From); r.Status == redirect.Undecided && i != sitemap.None && !open[r.From] {
			o.Undecided = append(o.Undecided, live.Ref(i).ID)
		}
	}
	return nil
}

func count(rows []redirect.Row) (n int) {
	for _, r := range rows {
		if !r.Status.IsReport() {
			n++
		}
	}
	return n
}

func (o *Of) menus(before, after *sitemap.Tree, owns menu.Owns, ids []string) {
	menus := map[string]bool{}
	var tops [2][]string
	for k, t := range []*sitemap.Tree{before, after} {
		m := menu.For(t, owns)
		tops[k] = titles(m.Top(sitemap.None))
		for _, id := range ids {
			i := t.Find(id)
			if i == sitemap.None || !m.Shown(i) {
				continue
			}
			for _, shows := range m.Of(i) {
				menus[shows] = true
			}
			for t.Level(i) > 1 {
				i = t.Parent(i)
			}
			menus[menu.Side(t.Ref(i).ID)] = true
		}
	}
	if !slices.Equal(tops[0], tops[1]) {
		o.TopBefore, o.TopAfter = tops[0], tops[1]
	}
	delete(menus, menu.Top)
	o.SideMenus = len(menus)
}

func titles(items []menu.Item) []string {
	out := make([]string, len(items))
	for i, it := range items {
		out[i] = it.Title
	}
	return out
}
