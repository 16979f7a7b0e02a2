package edition_test

import (
	"slices"
	"testing"

	"candlepath/internal/core/edition"
	"candlepath/internal/core/readership"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
	"candlepath/internal/core/change"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

// world is a site lived through in memory, with a simple oracle beside it: the
// set of addresses that ever answered.
type world struct {
	author   sitemaptest.Author
	live     edition.Live
	next     *sitemap.Tree
	past     []*sitemap.Tree
	answered map[string]bool
	holder   map[string]string // address → page that had it last
}

func TestEveryAddressThatAnsweredAnswers(t *testing.T) {
	acts := 300
	if testing.Short() {
		acts = 60
	}
	rapid.Check(t, func(t *rapid.T) {
		w := newWorld(t)
		for range acts {
			w.act(t)
		}
	})
}

func newWorld(t *rapid.T) *world {
	empty, err := sitemap.New(nil)
	require.NoError(t, err)
	w := &world{answered: map[string]bool{}, holder: map[string]string{}}
	w.live.Tree, w.next = empty, w.author.Small(t, 6)
	w.publish(t, change.All(change.Diff(empty, w.next)))
	w.live.Table = []redirect.Row{
		{From: "/former", To: redirect.Target{Address: w.anyAddress(t)}, Code: 301, Match: redirect.Prefix},
		{From: "/estate-of-old", To: redirect.Target{Address: w.anyAddress(t)}, Code: 301, Match: redirect.Branch},
		{From: "/closed", Code: redirect.Gone, Match: redirect.Branch},
		{From: "/shop", To: redirect.Target{URL: "https://shop.quillmere.example/all"}, Code: 302, Match: redirect.Prefix},
		{From: "/shortcut", To: redirect.Target{Address: w.anyAddress(t)}, Code: 302, Match: redirect.Exact},
	}
	w.remember()
	return w
}

func (w *world) anyAddress(t *rapid.T) string {
	i := rapid.IntRange(0, w.live.Tree.Len()-1).Draw(t, "page")
	return w.live.Tree.Address(i)
}

func (w *world) act(t *rapid.T) {
	switch rapid.IntRange(0, 19).Draw(t, "what") {
	case 0:
		w.publish(t, change.All(change.Diff(w.live.Tree, w.next)))
	case 1, 2:
		chosen := change.Set{}
		for _, c := range change.Diff(w.live.Tree, w.next) {
			if rapid.IntRange(0, 2).Draw(t, "goes") == 0 {
				chosen[c.Key] = true
			}
		}
		w.publish(t, chosen)
	case 3:
		to := rapid.SampledFrom(w.past).Draw(t, "edition")
		d, err := edition.Rollback(w.live, nil, nil, readership.State{Tree: to}, w.next, nil, nil)
		require.NoError(t, err)
		w.take(t, d)
		require.Equal(t, addresses(to), addresses(w.live.Tree))
	default:
		if next := w.author.Edit(t, w.next); len(next.Clashes()) == 0 {
			w.next = next
		}
	}
}

// publish decides about removed pages at random, as people do.
func (w *world) publish(t *rapid.T, chosen change.Set) {
	decisions := map[string]redirect.Decision{}
	for i := range w.live.Tree.Len() {
		id := w.live.Tree.At(i).ID
		switch rapid.IntRange(0, 3).Draw(t, "decision") {
		case 0:
			decisions[id] = redirect.Decision{Code: redirect.Gone}
		case 1:
			decisions[id] = redirect.Decision{To: redirect.Target{Entry: w.next.At(0).ID}, Code: 302}
		case 2:
			decisions[id] = redirect.Decision{To: redirect.Target{URL: "https://archive.quillmere.example/" + id}}
		}
	}
	closed, _, applied := change.Closure(w.live.Tree, w.next, change.Diff(w.live.Tree, w.next), chosen)
	released := map[string]bool{}
	if rapid.IntRange(0, 9).Draw(t, "release") == 0 {
		w.release(t, released)
	}
	d, err := edition.Publish(w.live, w.next, closed, applied, decisions, nil, released)
	require.NoError(t, err)
	w.take(t, d)
}

// release gives an address up that answers by a row, exact or with all below it.
func (w *world) release(t *rapid.T, released map[string]bool) {
	if len(w.live.Table) == 0 {
		return
	}
	r := rapid.SampledFrom(w.live.Table).Draw(t, "row")
	if w.live.Tree.PageAt(r.From) != sitemap.None || w.next.PageAt(r.From) != sitemap.None {
		return
	}
	released[r.From] = true
	spreads := slices.ContainsFunc(w.live.Table, func(o redirect.Row) bool { return o.From == r.From && o.Match != redirect.Exact })
	for a := range w.answered {
		if _, below := address.Below(r.From, a); a == r.From || below && spreads {
			delete(w.answered, a)
		}
	}
}

func (w *world) take(t *rapid.T, d edition.Draft) {
	before := w.live.Tree
	w.live, w.next = d.Live, d.Next
	w.past = append(w.past, d.Tree)
	w.remember()
	table, err := redirect.NewTable(w.live.Table, w.live.Tree)
	require.NoError(t, err)
	for a := range w.answered {
		got := table.Resolve(a)
		require.NotEqual(t, 404, got.Code, "R1: %s answered once", a)
		if page := w.live.Tree.PageAt(a); page != sitemap.None {
			require.Equal(t, 200, got.Code, "R2: a live page is not hidden: %s", a)
		}
		if got.Location != "" && got.Location[0] == '/' {
			require.Equal(t, 200, table.Resolve(got.Location).Code, "R3: one hop from %s to %s", a, got.Location)
			require.NotEmpty(t, got.EntryOf(), "R4: kept as the entry: %s", got.Location)
		}
	}
	for i := range before.Len() { // a page that moved is found from where it was
		a, id := before.Served(i), before.At(i).ID
		n := w.live.Tree.Find(id)
		if a == "" || n == sitemap.None || w.live.Tree.Served(n) == "" || w.live.Tree.PageAt(a) != sitemap.None {
			continue
		}
		require.Equal(t, id, table.Resolve(a).EntryOf(), "the old address %s leads to its page", a)
	}
}

// remember is the oracle: it only ever adds.
func (w *world) remember() {
	for a := range addresses(w.live.Tree) {
		w.answered[a] = true
		for _, row := range []string{"/former", "/estate-of-old", "/closed", "/shop"} {
			w.answered[row+a] = w.answered[row+a] || w.resolves(row+a)
		}
	}
	for _, r := range w.live.Table {
		w.answered[r.From] = true
	}
	for a, ok := range w.answered {
		if !ok {
			delete(w.answered, a)
		}
	}
}

func (w *world) resolves(a string) bool {
	table, err := redirect.NewTable(w.live.Table, w.live.Tree)
	return err == nil && table.Resolve(a).Code != 404
}

func addresses(t *sitemap.Tree) map[string]string {
	m := map[string]string{}
	for i := range t.Len() {
		if a := t.Served(i); a != "" {
			m[a] = t.At(i).ID
		}
	}
	return m
}
