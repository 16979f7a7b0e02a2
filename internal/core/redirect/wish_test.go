package redirect_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

func ground(t testing.TB) redirect.Ground {
	next := pages(t, "/", "/new", "/new/a", "/new/b", "/tea")
	live := pages(t, "/", "/new", "/new/a", "/new/b", "/tea", "/leaving")
	return redirect.Ground{Live: live, Next: next, Hosts: []string{"inside.quillmere.example", "staff.quillmere.example"}, OldHosts: []string{"staff.quillmere.example"}, Table: []redirect.Row{
		row("/was", "/tea", 301, redirect.Exact), row("/cards", "/new", 301, redirect.Prefix), row("/shed", "/tea", 301, redirect.Branch), row("/over", "", 410, redirect.Exact),
		row("//archive.quillmere.example/übersicht", "/tea", 301, redirect.Exact),
	}}
}

// What one line of a list does, and what is said of it.
func TestWishesAreJudged(t *testing.T) {
	for _, c := range []struct {
		line    string
		verdict redirect.Verdict
		to      string // where the row leads
		said    string
	}{
		{"/menu /tea", redirect.New, "/tea", ""},
		{"/Menu/ -> /TEA/index.html#cakes", redirect.New, "/tea#cakes", ""},
		{"https://inside.quillmere.example/menu\thttps://inside.quillmere.example/tea", redirect.New, "/tea", ""},
		{"/menu,https://tea.quillmere.example/now?x=1,temporary", redirect.New, "https://tea.quillmere.example/now?x=1", ""},
		{"/menu → /was", redirect.New, "/tea", ""},
		{"/menu;gone", redirect.New, "", ""},
		{"/menu;;410", redirect.New, "", ""},
		{"/menu.php?id=7&b=2 /tea", redirect.New, "/tea", ""},
		{"/m.*nu /tea", redirect.New, "/tea", "literally"},
		{"/menu /new prefix", redirect.New, "/new", ""},
		{"/new/old /tea branch", redirect.New, "/tea", ""},
		{"/new /tea branch", redirect.New, "/tea", "stay as they are"},
		{"/menu /files/00112233445566778899aabbccddeeff/menu.pdf", redirect.New, "/files/00112233445566778899aabbccddeeff/menu.pdf", ""},
		{"/was /new/a", redirect.Changes, "/new/a", ""},
		{"/was /tea 302", redirect.Changes, "/tea", ""},
		{"/was /tea", redirect.Nothing, "/tea", "there already"},
		{"/cards/a /new/a", redirect.Nothing, "/new/a", "/cards does this already"},
		{"/menu /menu", redirect.Refused, "", "leads to itself"},
		{"/menu /MENU/", redirect.Refused, "", "leads to itself"},
		{"/menu /leaving", redirect.Refused, "", "removed with the next edition"},
		{"/menu /over", redirect.Refused, "", "is gone"},
		{"/menu /nowhere", redirect.Refused, "", "Nothing answers at /nowhere"},
		{"/menu page:nobody", redirect.Refused, "", "not there any more"},
		{"/tea /new", redirect.Refused, "", "is at this address"},
		{"/ /tea", redirect.Refused, "", "home page"},
		{"/ /tea branch", redirect.Refused, "", "home page"},
		{"/studio/x /tea", redirect.Refused, "", "program itself"},
		{"/menu //elsewhere.quillmere.example", redirect.Refused, "", "two slashes"},
		{"/menu javascript:alert(1)", redirect.Refused, "", "neither an address"},
		{"/menu mailto:gwen@quillmere.example", redirect.Refused, "", "no page that a browser"},
		{"/menu,/te\x01a", redirect.Refused, "", "another character"},
		{"/menu%00 /tea", redirect.Refused, "", "no address"},
		{`/me\nu /tea`, redirect.Refused, "", "no address"},
		{"/menu", redirect.Refused, "", "not said where"},
		{"menu.html /tea", redirect.Refused, "", "begin with a slash"},
		{"https://old.quillmere.example/menu /tea", redirect.Refused, "", "does not point here"},
		{"https://STAFF.quillmere.example/menu/ /tea", redirect.New, "/tea", ""},
		{"//staff.quillmere.example/menu /tea", redirect.New, "/tea", "for staff.quillmere.example alone"},
		{"http://staff.quillmere.example/new/a /tea", redirect.New, "/tea", "for staff.quillmere.example alone"},
		{"https://staff.quillmere.example/tea /tea", redirect.Nothing, "/tea", "page at this address answers"},
		{"https://staff.quillmere.example/ /tea", redirect.New, "/tea", "for staff.quillmere.example alone"},
		{"https://staff.quillmere.example/ /tea branch", redirect.Refused, "", "covers the whole site"},
		{"//staff.quillmere.example/was /tea", redirect.Nothing, "/tea", "/was does this already"},
		{"//staff.quillmere.example/new /tea branch", redirect.New, "/tea", "for staff.quillmere.example alone"},
		{"//staff.quillmere.example/search /tea", redirect.Refused, "", "program itself"},
		{"//archive.quillmere.example/%C3%9Cbersicht /new/a", redirect.Changes, "/new/a", "for archive.quillmere.example alone"},
		{"https://archive.quillmere.example/%C3%BCbersicht /new/a", redirect.Changes, "/new/a", "for archive.quillmere.example alone"},
		{"https://archive.quillmere.example/other /new/a", redirect.Refused, "", "does not point here"},
		{"//menu//list /tea", redirect.New, "/tea", ""},
		{"https://inside.quillmere.example/tea /new", redirect.Refused, "", "is at this address"},
		{"/menu#x /tea", redirect.Refused, "", "never reaches"},
		{"/menu?x=1 /tea prefix", redirect.Refused, "", "Only an exact"},
		{"/menu /tea gone", redirect.Refused, "", "leads nowhere"},
		{"/menu,gone,302", redirect.Refused, "", "has the code 410"},
		{"/new/x /new/x/y prefix", redirect.Refused, "", "Nothing answers"},
		{"/new /new/a prefix", redirect.Refused, "", "in a ring"},
		{"/shed /tea prefix", redirect.Refused, "", "Keep it a branch"},
		{"/cards /tea prefix", redirect.Refused, "", "2 addresses, as /cards/a, would stop"},
		{"/cards /tea branch", redirect.Changes, "/tea", ""},
		{"/menu /tea 303", redirect.Refused, "", `"303" is not a redirect type`},
		{"/menu /tea 999", redirect.Refused, "", `"999" is not a redirect type`},
		{"/menu,/tea,wrong", redirect.Refused, "", `"wrong" is not a redirect type`},
		{"/menu /tea prefix 303", redirect.Refused, "", `"303" is not a redirect type`},
		{"/menu\t/tea\tthe old list", redirect.New, "/tea", ""},
		{"/menu/* /tea", redirect.New, "/tea", "The star is read as: this address and below (prefix)."},
		{"/menu/*,/tea/*,302", redirect.New, "/tea", "The star is read"},
		{"/menu/* /tea/* exact", redirect.Refused, "", ""},
	} {
		g := ground(t)
		wishes := redirect.ParseLines("# a list\n\n" + c.line)
		require.Len(t, wishes, 1, c.line)
		require.Equal(t, 3, wishes[0].Line)
		got, err := g.Judge(wishes)
		require.NoError(t, err)
		require.Equal(t, c.verdict, got[0].Verdict, "%s: %s", c.line, got[0].Said)
		require.Contains(t, got[0].Said, c.said, c.line)
		if c.verdict == redirect.New || c.verdict == redirect.Changes {
			require.Equal(t, c.to, redirect.WrittenTo(got[0].Row.To, g.Next), c.line)
			require.Equal(t, redirect.ByHand, got[0].Row.Origin)
		}
	}
}

// Lines of a list can lead to each other, whatever their order; rings and addresses that
// stand twice are refused.
func TestWishesOfOneListMeet(t *testing.T) {
	g := ground(t)
	got, err := g.Judge(redirect.ParseLines("old address,new address\n/x1,/x2\n/x2,/x3\n/x3,/tea\n/y1,/y2\n/y2,/y1\n/x3,/new\n/was,/new/a\n/z,/was"))
	require.NoError(t, err)
	var told []string
	for _, d := range got {
		to := ""
		if d.Verdict != redirect.Refused {
			to = redirect.WrittenTo(d.Row.To, g.Next)
		}
		told = append(told, d.From+" "+string(d.Verdict)+" "+to)
	}
	require.Equal(t, []string{"/x1 new /tea", "/x2 new /tea", "/x3 new /tea", "/y1 refused ", "/y2 refused ", "/x3 refused ", "/was changes one /new/a", "/z new /new/a"}, told)
	require.Equal(t, "It leads in a ring with line 6. Point one of them to a page.", got[3].Said)
	require.Contains(t, got[5].Said, "Line 4 has this address already")
}

// Whatever is wished and not refused, no address that answered stops, nothing needs two hops,
// and the reasoning ends where resolving does.
func TestWishesKeepThePromise(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := newSituation(t)
		plan, err := redirect.Plan(redirect.Input{Live: s.live, Next: s.next, Table: s.table, Decisions: s.decisions})
		require.NoError(t, err)
		table := plan[:0]
		for _, r := range plan {
			if !r.Status.IsReport() && r.Status != redirect.Dangling && (r.Match != redirect.Exact || s.next.PageAt(r.From) == sitemap.None) {
				table = append(table, r)
			}
		}
		before, err := redirect.NewTable(table, s.next)
		require.NoError(t, err)
		asked := append(s.addresses(), "/o/p/x", "/fresh", "/fresh/a", "//old.quillmere.example/fresh")
		var list strings.Builder
		for range rapid.IntRange(0, 8).Draw(t, "wishes") {
			from, to := rapid.SampledFrom(asked).Draw(t, "from"), rapid.SampledFrom(append(asked, "gone", "https://away.quillmere.example/x")).Draw(t, "to")
			list.WriteString(from + "\t" + to + "\t" + rapid.SampledFrom([]string{"", "302", "308", "prefix", "branch"}).Draw(t, "how") + "\n")
		}
		judged, err := redirect.Ground{Live: s.next, Next: s.next, Table: table, OldHosts: []string{"old.quillmere.example"}}.Judge(redirect.ParseLines(list.String()))
		require.NoError(t, err)
		var put []redirect.Row
		for _, d := range judged {
			if d.Verdict == redirect.New || d.Verdict == redirect.Changes {
				put = append(put, d.Row)
			}
		}
		now, err := redirect.Plan(redirect.Input{Live: s.next, Next: s.next, Table: redirect.With(table, put)})
		require.NoError(t, err, "%s", list.String())
		after, err := redirect.NewTable(now, s.next)
		require.NoError(t, err)
		var answered []string
		for _, a := range asked {
			if len(redirect.Unanswered(before, []string{a})) == 0 {
				answered = append(answered, a)
			}
			got, steps := after.Explain(redirect.WrittenFrom(a))
			require.Equal(t, after.Resolve(redirect.WrittenFrom(a)), got)
			require.True(t, steps[len(steps)-1].Ends)
			if row := steps[len(steps)-1].Row; row != nil {
				require.Equal(t, got.Rule, row.From, a)
			} else {
				require.Contains(t, []int{200, 404}, got.Code, a)
			}
		}
		require.Empty(t, redirect.Unanswered(after, answered), "%s", list.String())
		for _, r := range put {
			if r.Match == redirect.Exact && !strings.Contains(r.From, "?") {
				require.Equal(t, r.Code, after.Resolve(redirect.WrittenFrom(r.From)).Code, "%s", list.String())
			}
		}
	})
}
