package app_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"candlepath/internal/app"
	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// anyAddressAct does one act on addresses at random, and tells whether it could be done.
func (d *desk) anyAddressAct(login string, r *rand.Rand) bool {
	ctx, who, live, next := d.t.Context(), d.people[login], d.live(), d.next()
	page := func(t *sitemap.Tree) sitemap.Entry { return t.At(r.IntN(t.Len())) }
	at := func() string {
		if i := r.IntN(live.Tree.Len()); r.IntN(3) == 0 && live.Tree.Served(i) != "" {
			return live.Tree.Served(i) + []string{"", "/old", "/older/one"}[r.IntN(3)]
		}
		return []string{"/tea", "/cards", "/tea/cups", "/old/shop", "/old", "/old/x?id=3"}[r.IntN(6)]
	}
	wish := func() redirect.Wish {
		w := redirect.Wish{
			From: at(), To: "page:" + page(next).ID, Code: []string{"permanent", "temporary", "gone", "307"}[r.IntN(4)], Match: []string{"exact", "exact", "prefix", "branch"}[r.IntN(4)],
			Review: []string{"", "2026-12-24"}[r.IntN(2)], Origin: []redirect.Origin{redirect.ByHand, redirect.FromOlder}[r.IntN(2)],
		}
		if r.IntN(4) == 0 { // for a host name alone, or where need be
			if w.Host = "old.quillmere.example"; r.IntN(2) == 0 {
				w.From = address.OnHost(w.Host, w.From)
			}
		}
		switch {
		case w.Code == "gone":
			w.To = ""
		case r.IntN(4) == 0:
			w.To = []string{"https://shop.quillmere.example/x", at()}[r.IntN(2)]
		}
		return w
	}
	var err error
	switch r.IntN(8) {
	case 0, 1:
		_, err = d.PlanRedirects(ctx, who, uuid.NewString(), []redirect.Wish{wish()})
	case 2:
		_, err = d.PlanRedirects(ctx, who, uuid.NewString(), []redirect.Wish{wish(), wish(), wish(), wish()})
	case 3:
		var list []plan.PlannedRedirect
		require.NoError(d.t, d.store.Read(ctx, func(tx app.Tx, _ plan.Site) error {
			list, err = tx.PlannedRedirects(ctx)
			return err
		}))
		if len(list) == 0 {
			return false
		}
		_, err = d.DropRedirects(ctx, who, uuid.NewString(), []string{list[r.IntN(len(list))].Key().ID()})
	case 4, 5:
		to := []string{"gone", "https://shop.quillmere.example/", page(next).ID, ""}[r.IntN(4)]
		_, err = d.DecideRemoved(ctx, who, uuid.NewString(), []plan.Destination{
			{Entry: page(live.Tree).ID, To: to, Temporary: r.IntN(3) == 0, Review: []string{"", "2027-01-01"}[r.IntN(2)], Says: "It was"}, {Entry: page(live.Tree).ID, To: to},
		})
	default:
		_, err = d.try(login, appsitemap.PlanAct{Do: "keep", ID: page(next).ID, Value: []string{"", at(), live.Tree.Served(r.IntN(live.Tree.Len()))}[r.IntN(3)]})
	}
	return err == nil
}

// everything is every address of which a history knows that it answered.
type everything map[string]bool

// add takes up what an edition answers: its pages, its rows, and some of what its rows spread
// over.
func (e everything) add(live reading.LiveSite) {
	for i := range live.Tree.Len() {
		if at := live.Tree.Served(i); at != "" {
			e[at] = true
		}
	}
	for _, r := range live.Table.Rows() {
		if r.Match != redirect.Prefix {
			e[r.From] = true
		}
		if r.Match == redirect.Exact || strings.Contains(r.From, "?") {
			continue
		}
		for _, below := range []string{"", "/x", "/cups", "/mowers", "/one/two"} {
			at := strings.TrimSuffix(r.From, "/") + below
			if at != "" && live.Table.ResolveNormal(at, "").Code != 404 {
				e[at] = true
			}
		}
	}
}

// hold makes sure of R1 to R4: each address answers, in one hop; no row hides a page; what leads
// to a page is kept as the entry.
func (e everything) hold(t *testing.T, live reading.LiveSite, said string) {
	t.Helper()
	for at := range e {
		a := live.Table.Proven(at)
		require.NotEqual(t, 404, a.Code, "%s: %s stopped", said, at)
		if strings.HasPrefix(a.Location, "/") {
			path, _, _ := strings.Cut(a.Location, "?")
			next := live.Table.ResolveNormal(path, "")
			require.Equal(t, 200, next.Code, "%s: %s leads to %s, which leads on", said, at, a.Location)
		}
	}
	for i := range live.Tree.Len() {
		if at := live.Tree.Served(i); at != "" {
			require.Equal(t, redirect.ByPage, live.Table.ResolveNormal(at, "").By, "%s: %s is hidden", said, at)
		}
	}
	for _, r := range live.Table.Rows() {
		require.True(t, r.To.Address == "" || live.Tree.PageAt(r.To.Address) == sitemap.None, "%s: %s %s keeps the address %s of a page", said, r.Match, r.From, r.To.Address)
	}
}

// seeds is how many histories are tried; more were by hand.
const seeds = 4

// Whatever is planned of pages, redirects by hand and in lists, rules for branches, decisions for
// good or for now, addresses kept on purpose and addresses given up: after each edition, and
// after going back, every address that ever answered answers, but for those released.
func TestRandomHistoriesOfAddresses(t *testing.T) {
	for seed := range uint64(seeds) {
		d := grown(t)
		r := rand.New(rand.NewPCG(seed, 9))
		ever := everything{}
		ever.add(d.live())
		editions, back := 0, 0
		for round := range 14 {
			for range 9 {
				if r.IntN(2) == 0 {
					d.anyAddressAct("ines", r)
					continue
				}
				tree := d.next()
				if tree.Len() < 9 || r.IntN(6) == 0 {
					res := d.act("ines", appsitemap.PlanAct{Do: "add", Parent: "", Value: fmt.Sprint("Rain ", r.IntN(99))})
					d.write("ines", res.ID, "It rains.")
					continue
				}
				id := tree.At(1 + r.IntN(tree.Len()-1)).ID
				act := []appsitemap.PlanAct{
					{Do: "move", ID: id, Parent: tree.At(r.IntN(tree.Len())).ID, Last: true},
					{Do: "fact", Field: "slug", ID: id, Value: fmt.Sprint("slug-", r.IntN(9))},
					{Do: "withdraw", ID: id},
					{Do: "remove", ID: id},
					{Do: "return", ID: id},
					{Do: "fact", Field: "kind", ID: id, Value: "group"},
					{Do: "move", ID: id, Parent: "", Last: true},
				}[r.IntN(7)]
				_, _ = d.try("ines", act)
			}
			if len(ever) > 5 && r.IntN(4) == 0 {
				for _, at := range shuffled(ever, r) {
					if d.ReleaseAddresses(t.Context(), d.people["marta"], []string{at}, "Nobody asks for it") == nil {
						break
					}
				}
			}
			n := d.look("marta")
			for i := range n.Trees.Live.Len() { // a page that goes wants a decision
				e := n.Trees.Live.At(i)
				if k := n.Trees.Next.Find(e.ID); n.Trees.Live.Served(i) != "" && (k == sitemap.None || n.Trees.Next.Served(k) == "") {
					if _, ok := n.Decisions[e.ID]; !ok {
						_, err := d.DecideMany(t.Context(), d.people["ines"], uuid.NewString(), addresses.DecideAsk{Entries: []string{e.ID}, How: []string{"gone", "above"}[r.IntN(2)], Temporary: r.IntN(2) == 0})
						if err != nil {
							_, err = d.DecideMany(t.Context(), d.people["ines"], uuid.NewString(), addresses.DecideAsk{Entries: []string{e.ID}, How: "gone"})
						}
						require.NoError(t, err)
					}
				}
			}
			released, before := d.releasing(), d.live()
			var leave []change.Key
			for _, c := range d.look("marta").All {
				if r.IntN(5) == 0 {
					leave = append(leave, change.Key{ID: c.ID, Aspect: c.Aspect})
				}
			}
			if _, err := d.tryPublish("marta", "Whatever", leave...); err != nil {
				if err = d.publishLess(); err != nil {
					t.Log(err)
					continue
				}
			}
			editions++
			for _, at := range released { // a rule for a branch ends with its address, and under each name that has no rule of its own
				maps.DeleteFunc(ever, func(known string, _ bool) bool {
					_, rest, _ := address.CutHost(known)
					_, below := address.Below(at, rest)
					return known == at || (below || rest == at) && before.Table.ResolveNormal(known, "").Rule == at
				})
			}
			said := fmt.Sprint("seed ", seed, ", round ", round)
			ever.hold(t, d.live(), said)
			ever.add(d.live())
			if r.IntN(4) == 0 {
				s, err := d.SiteNow(t.Context())
				require.NoError(t, err)
				if _, err := d.Rollback(t.Context(), d.people["marta"], uuid.NewString(), 1+r.IntN(s.Edition), "Back"); err == nil {
					back++
					ever.hold(t, d.live(), said+", taken back")
					ever.add(d.live())
				}
			}
		}
		t.Logf("seed %d: %d editions, %d times back, %d addresses", seed, editions, back, len(ever))
		require.Greater(t, editions, 4)
	}
}

// publishLess publishes, where something stands in the way without the latest acts.
func (d *desk) publishLess() error {
	for range 60 {
		_, err := d.tryPublish("marta", "All of it")
		if err == nil {
			return nil
		}
		if _, undo := d.Undo(d.t.Context(), d.people["ines"]); undo != nil {
			return err
		}
	}
	return nil
}

func shuffled(of everything, r *rand.Rand) []string {
	list := slices.Sorted(maps.Keys(of))
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	return list
}

// releasing gives the addresses that are planned to be given up.
func (d *desk) releasing() (out []string) {
	list, err := d.Redirects(d.t.Context(), d.people["marta"])
	require.NoError(d.t, err)
	for _, one := range list.Released {
		if one.Edition == 0 {
			out = append(out, one.Address)
		}
	}
	return out
}
