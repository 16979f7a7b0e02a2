package redirect_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"candlepath/internal/core/redirect"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
)

// situation is a random Live and Next, a table with all kinds of rows, and
// decisions on some of the pages.
type situation struct {
	live, next *sitemap.Tree
	table      []redirect.Row
	decisions  map[string]redirect.Decision
}

func newSituation(t *rapid.T) situation {
	var author sitemaptest.Author
	s := situation{live: author.Small(t, rapid.IntRange(0, 10).Draw(t, "entries")), decisions: map[string]redirect.Decision{}}
	s.next = s.live
	for range rapid.IntRange(0, 12).Draw(t, "edits") {
		if next := author.Edit(t, s.next); len(next.Clashes()) == 0 {
			s.next = next
		}
	}
	s.table = randomTable(t, s.live, s.next)
	for i := range s.live.Len() {
		switch id := s.live.At(i).ID; rapid.IntRange(0, 5).Draw(t, "decision") {
		case 0:
			s.decisions[id] = redirect.Decision{Code: redirect.Gone}
		case 1:
			s.decisions[id] = redirect.Decision{To: redirect.Target{Entry: "home"}, Code: 302}
		case 2:
			s.decisions[id] = redirect.Decision{To: redirect.Target{URL: "https://archive.quillmere.example/" + id}}
		}
	}
	return s
}

// randomTable draws rows whose targets are pages, other rows, or elsewhere;
// tables that contradict themselves are drawn again without their last rows.
func randomTable(t *rapid.T, live, next *sitemap.Tree) []redirect.Row {
	var known []string
	for _, tree := range []*sitemap.Tree{live, next} {
		for i := range tree.Len() {
			if a := tree.Address(i); a != "" {
				known = append(known, a)
			}
		}
	}
	froms := append([]string{"/o", "/o/p", "/o/p/q", "/r", "/page.php?id=1", "//old.quillmere.example/", "//old.quillmere.example/o", "//old.quillmere.example/o/p?id=1"}, known...)
	froms = append(froms, address.OnHost("old.quillmere.example", known[0]))
	var rows []redirect.Row
	for range rapid.IntRange(0, 6).Draw(t, "rows") {
		r := redirect.Row{
			From: rapid.SampledFrom(froms).Draw(t, "from"), Code: rapid.SampledFrom([]int{301, 302, 307, 308, 410}).Draw(t, "code"),
			Match: rapid.SampledFrom([]redirect.Match{redirect.Exact, redirect.Exact, redirect.Prefix, redirect.Branch}).Draw(t, "match"),
		}
		if r.Match != redirect.Exact { // rows that spread over each other have cases of their own
			r.From = rapid.SampledFrom([]string{"/o", "/r", "//old.quillmere.example/o", "//old.quillmere.example/r"}).Draw(t, "spread")
		}
		switch to := rapid.IntRange(0, 9).Draw(t, "to"); {
		case r.Code == redirect.Gone:
		case to == 0:
			r.To = redirect.Target{URL: "https://elsewhere.quillmere.example/x"}
		case to <= 3:
			r.To = redirect.Target{Address: rapid.SampledFrom([]string{"/r", "/r/s"}).Draw(t, "other")}
		default:
			r.To = redirect.Target{Address: rapid.SampledFrom(known).Draw(t, "page")}
		}
		if _, err := redirect.Plan(redirect.Input{Live: live, Next: live, Table: append(rows, r)}); err == nil {
			rows = append(rows, r)
		}
	}
	return rows
}

// addresses gives what is worth asking for: all pages and froms, and what lies
// below prefix and branch rows.
func (s situation) addresses() []string {
	seen := map[string]bool{"/nowhere": true}
	for _, tree := range []*sitemap.Tree{s.live, s.next} {
		for i := range tree.Len() {
			if a := tree.Address(i); a != "" {
				seen[a] = true
			}
		}
	}
	for _, r := range s.table {
		seen[r.From] = true
	}
	for _, a := range slices.Sorted(maps.Keys(seen)) {
		for _, r := range s.table {
			if r.Match != redirect.Exact && a != "/" {
				seen[address.Join(r.From, a)] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(seen))
}

// What every address answers in Next, told from what it answers in Live by a
// few plain sentences: the oracle knows nothing of how the plan is made.
func TestPlanKeepsItsPromises(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := newSituation(t)
		plan, err := redirect.Plan(redirect.Input{Live: s.live, Next: s.next, Table: s.table, Decisions: s.decisions})
		require.NoError(t, err)
		before, err := redirect.NewTable(s.table, s.live)
		require.NoError(t, err)
		after, err := redirect.NewTable(plan, s.next)
		require.NoError(t, err)
		dangling := map[string]bool{} // froms and targets: what leads nowhere is told, and stays so
		for _, r := range plan {
			if r.Status == redirect.Dangling {
				dangling[r.From], dangling[r.To.Address] = true, true
			}
			require.False(t, r.Status != redirect.Dangling && !r.Status.IsReport() && r.To.Address != "" && s.next.PageAt(r.To.Address) != sitemap.None, "R4: %+v", r)
		}
		for _, a := range s.addresses() {
			was := before.Resolve(redirect.WrittenFrom(a))
			if was.Location != "" && was.Location[0] == '/' && before.Resolve(was.Location).Code == 404 {
				continue // it led nowhere
			}
			s.holds(t, a, was, after.Resolve(redirect.WrittenFrom(a)), after, dangling)
		}
		again, err := redirect.Plan(redirect.Input{Live: s.next, Next: s.next, Table: plan})
		require.NoError(t, err)
		settled, err := redirect.NewTable(again, s.next)
		require.NoError(t, err)
		for _, a := range s.addresses() {
			was, is := after.Resolve(redirect.WrittenFrom(a)), settled.Resolve(redirect.WrittenFrom(a))
			if was.Code == 404 || dangling[was.Rule] || dangling[pathOnly(was.Location)] {
				continue
			}
			require.Equal(t, [2]string{was.Location, fmt.Sprint(was.Code)}, [2]string{is.Location, fmt.Sprint(is.Code)}, "nothing changes, and %s answers as before", a)
		}
	})
}

func (s situation) holds(t *rapid.T, a string, was, is redirect.Answer, after *redirect.Table, dangling map[string]bool) {
	if s.next.PageAt(a) != sitemap.None {
		require.Equal(t, 200, is.Code, "R2: a page answers at %s", a)
		return
	}
	if is.Location != "" && is.Location[0] == '/' && !dangling[is.Rule] && !dangling[pathOnly(is.Location)] {
		require.Equal(t, 200, after.Resolve(is.Location).Code, "R3: one hop from %s to %s", a, is.Location)
	}
	if is.By == redirect.ByPrefix && s.live.PageAt(pathOnly(is.Location)) == sitemap.None {
		return // a page came to where the rule leads
	}
	var page string // whose visitors ask for it
	switch {
	case was.Code == 404 || was.Code == redirect.Gone:
		if was.Code == redirect.Gone {
			require.NotEqual(t, 404, is.Code, "R1: %s was gone on purpose", a)
		}
		return
	case was.Code == 200:
		page = s.live.At(was.Page).ID
	case was.Location != "" && was.Location[0] != '/':
		require.Equal(t, was.Location, is.Location, "%s leads elsewhere still", a)
		return
	default:
		i := s.live.PageAt(pathOnly(was.Location))
		if i == sitemap.None { // a chain in the given table
			require.NotEqual(t, 404, is.Code, "R1: %s answered %s", a, was.Location)
			return
		}
		page = s.live.At(i).ID
	}
	require.NotEqual(t, 404, is.Code, "R1: %s answered", a)
	n := s.next.Find(page)
	d, decided := s.decisions[page]
	switch {
	case n != sitemap.None && s.next.Served(n) != "":
		require.Equal(t, page, is.EntryOf(), "%s leads to its page", a)
	case decided && d.Code == redirect.Gone:
		require.Equal(t, redirect.Gone, is.Code, "%s as decided", a)
	case decided && d.To.URL != "":
		require.Equal(t, d.To.URL, pathOnly(is.Location), "%s as decided", a)
	case decided && s.next.Served(s.next.Find("home")) != "":
		require.Equal(t, "home", is.EntryOf(), "%s as decided", a)
	}
}

func pathOnly(location string) string {
	for i, c := range location {
		if c == '?' || c == '#' {
			return location[:i]
		}
	}
	return location
}
