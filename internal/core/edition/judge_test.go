package edition_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/link"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/review"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/sitemap/sitemaptest"
	"candlepath/internal/core/workflow"
)

// noPages is a site of which no page has a text.
type noPages struct{}

func (noPages) Live() []edition.PageSummary                { return nil }
func (noPages) LiveOf(string) (*edition.PageSummary, bool) { return nil, false }
func (noPages) Links(live *sitemap.Tree) *link.Map         { return link.New(live, nil, nil) }
func noFile(string) bool                                   { return false }
func anybody(string) bool                                  { return true }
func someone(t *rapid.T, label string) string              { return rapid.SampledFrom(team).Draw(t, label) }

var (
	team  = []string{"ines", "gwen", "anselm", "marta"}
	noon  = time.Date(2026, 12, 1, 12, 0, 0, 0, time.UTC)
	roles = map[string]workflow.Role{"ines": workflow.Editor, "gwen": workflow.Editor, "anselm": workflow.Approver, "marta": workflow.Manager}
)

// planned is random work, with what is known of it otherwise.
type planned struct {
	*edition.Work
	live     edition.Live
	approved map[change.Key]string // by whom, as it is now
}

func plannedWork(t *rapid.T) planned {
	var author sitemaptest.Author
	live := author.Small(t, rapid.IntRange(1, 8).Draw(t, "pages"))
	next := live
	for range rapid.IntRange(0, 8).Draw(t, "acts") {
		next = author.Edit(t, next)
	}
	in := edition.Input{
		Trees: edition.Trees{Live: live, Next: next, Planned: map[string]change.Planned{}}, Pages: noPages{}, IsMark: noFile, Authors: review.Authors{},
		Rights:         workflow.Site{EditorsPublish: rapid.Bool().Draw(t, "editors publish"), OwnWork: rapid.Bool().Draw(t, "own work")},
		Rules:          review.Rules{Site: rapid.SampledFrom(workflow.ApprovalPolicies()).Draw(t, "asks"), Branches: map[string]workflow.ApprovalPolicy{}},
		Decisions:      map[string]redirect.Decision{},
		ApprovalStates: map[change.Key]review.ApprovalState{},
	}
	if rapid.IntRange(0, 4).Draw(t, "frozen") == 0 {
		in.Freezes = []workflow.Freeze{{ID: "f", Begins: noon.Add(-time.Hour), Ends: noon.Add(time.Hour)}}
	}
	for i := range live.Len() {
		id := live.Ref(i).ID
		if rapid.IntRange(0, 3).Draw(t, "branch asks") == 0 {
			in.Rules.Branches[id] = rapid.SampledFrom(workflow.ApprovalPolicies()).Draw(t, "of the branch")
		}
		if next.Find(id) == sitemap.None || next.Ref(next.Find(id)).Withdrawn {
			in.Decisions[id] = redirect.Decision{Code: redirect.Gone}
		}
	}
	p := planned{live: edition.Live{Tree: live}, approved: map[change.Key]string{}}
	bare := edition.NewWork(in)
	for _, c := range bare.All {
		for range rapid.IntRange(1, 2).Draw(t, "authors") {
			in.Authors[c.Key] = append(in.Authors[c.Key], someone(t, "author"))
		}
		by := someone(t, "approver")
		s := review.ApprovalState{ApprovalState: workflow.ApprovalState{State: workflow.Ready, Stamp: bare.Stamp(c), Person: by}, Approved: true}
		switch rapid.SampledFrom([]string{"ready", "ready", "scheduled", "scheduled draft", "edited", "in review", "draft"}).Draw(t, "stands") {
		case "ready":
			p.approved[c.Key] = by
		case "scheduled":
			s.State, p.approved[c.Key] = workflow.Scheduled, by
		case "scheduled draft":
			s.State, s.Approved = workflow.Scheduled, false
		case "edited":
			s.Stamp = "of earlier"
		case "in review":
			s.State = workflow.InReview
		case "draft":
			continue
		}
		in.ApprovalStates[c.Key] = s
	}
	p.Work = edition.NewWork(in)
	return p
}

// selection selects something of the work.
func (p planned) selection(t *rapid.T) (sel edition.Selection, named change.Set) {
	named = change.Set{}
	for _, c := range p.All {
		if c.Aspect != change.Readdressed && rapid.Bool().Draw(t, "goes") {
			named[c.Key] = true
		}
	}
	switch rapid.IntRange(0, 3).Draw(t, "selection") {
	case 0:
		return edition.Selection{Exactly: named}, named
	case 1:
		return edition.Selection{Every: true}, change.All(p.All)
	case 2:
		return edition.Selection{}, nil
	}
	for k := range named {
		sel.Only = append(sel.Only, k.ID)
	}
	for _, c := range p.All { // whatever is planned of them
		if slices.Contains(sel.Only, c.ID) && c.Aspect != change.Readdressed {
			named[c.Key] = true
		}
	}
	if len(sel.Only) == 0 {
		return edition.Selection{Exactly: named}, named
	}
	return sel, named
}

func (p planned) checked(t *rapid.T, sel edition.Selection) (*edition.Proposal, edition.Checks) {
	got, err := edition.Propose(p.Work, p.live, sel)
	require.NoError(t, err)
	table, err := redirect.NewTable(nil, p.live.Tree)
	require.NoError(t, err)
	history := &edition.History{Live: table, Pages: redirect.NewReplay(table, nil), Older: redirect.NewReplay(table, nil)}
	return got, edition.Check(got, edition.Evidence{History: history, HasPerson: anybody})
}

func said(w *edition.Work, p *edition.Proposal, c edition.Checks) string {
	entries := func(t *sitemap.Tree) (out []sitemap.Entry) {
		for i := range t.Len() {
			out = append(out, t.At(i))
		}
		return out
	}
	return fmt.Sprint(w.All, w.ApprovalStates, entries(w.Trees.Live), entries(w.Trees.Next), w.Decisions, p.Chosen, p.Dependencies, p.Draft.Plan, entries(p.Draft.Tree), p.UsedUp, p.Undecided, c.Findings)
}

// TestWhatGoesOutMay holds verdicts on random work against the rules, said once more in other words.
func TestWhatGoesOutMay(t *testing.T) {
	allowed := 0
	for range 15 { // some ways around a rule are rare
		rapid.Check(t, func(t *rapid.T) { allowed += whatGoesOutMay(t) })
	}
	require.NotZero(t, allowed, "something goes out at times")
}

// whatGoesOutMay tells whether one random proposal may go out: 1 if it may.
func whatGoesOutMay(t *rapid.T) int {
	p := plannedWork(t)
	sel, named := p.selection(t)
	got, checks := p.checked(t, sel)
	for k := range named {
		require.True(t, got.Chosen[k], "%v was selected", k)
	}
	told := map[change.Key]bool{}
	for _, d := range got.Dependencies {
		require.True(t, got.Chosen[d.Key])
		told[d.Key] = true
	}
	for k := range got.Chosen {
		require.True(t, named == nil || named[k] || told[k], "%v comes along without a reason", k)
	}
	again, same := p.checked(t, sel)
	require.Equal(t, said(p.Work, got, checks), said(p.Work, again, same), "the same of the same")

	who := someone(t, "publisher")
	road := rapid.SampledFrom([]workflow.Road{workflow.ByHand, workflow.ByDate}).Draw(t, "road")
	v := edition.Judge(got, checks, edition.Publisher{ID: who, Role: roles[who]}, road, noon)
	require.False(t, v.Allows(again), "it lets nothing out but what it judged")
	if !v.Allows(got) {
		require.NotEqual(t, workflow.None, v.Hindrance)
		return 0
	}
	errs, _ := check.Count(checks.Findings)
	require.NotEmpty(t, got.Chosen)
	require.Zero(t, errs)
	require.Empty(t, p.Freezes)
	require.True(t, road == workflow.ByDate || p.Rights.May(roles[who], workflow.Publish))
	for _, c := range p.All {
		if !got.Chosen[c.Key] {
			continue
		}
		by, approved := p.approved[c.Key]
		asks := p.Rules.Of(p.Trees.Live, p.Trees.Next, c.Key)
		require.True(t, asks == workflow.NoApproval || approved, "%v lacks an approval", c.Key)
		require.False(t, asks == workflow.FourEyes && slices.Contains(p.AuthorsOf(c.Key), by), "%v was approved by who made it", c.Key)
		own := slices.Contains(p.AuthorsOf(c.Key), who) && (!approved || by == who)
		require.False(t, own && road == workflow.ByHand && roles[who] != workflow.Manager && !p.Rights.OwnWork, "%v is their own", c.Key)
	}
	return 1
}

// TestEverythingThatComesAlongSaysWhy selects a page below a new one, and a redirect to another new page: each of the
// two new ones is told with what needs it.
func TestEverythingThatComesAlongSaysWhy(t *testing.T) {
	live, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}})
	require.NoError(t, err)
	next := live
	for _, e := range []sitemap.Entry{{ID: "tea", Title: "Tea"}, {ID: "herbs", Title: "Herbs", Parent: "tea"}, {ID: "ponds", Title: "Ponds"}} {
		e.Kind = sitemap.Page
		next, err = next.Add(e, sitemap.Spot{Parent: e.Parent})
		require.NoError(t, err)
	}
	row := redirect.Row{From: "/pools", To: redirect.Target{Entry: "ponds"}, Code: 301, Match: redirect.Exact}
	w := edition.NewWork(edition.Input{Trees: edition.Trees{Live: live, Next: next}, Pages: noPages{}, Redirects: []edition.PlannedRedirect{{Row: row}}})
	herbs := change.Key{ID: "herbs", Aspect: change.Added}
	closed, needed, _ := w.Close(change.Set{herbs: true, edition.RedirectKey(row): true})
	require.Len(t, closed, 4)
	by := map[change.Key]change.Key{}
	for _, d := range needed {
		by[d.Key] = d.Needs
	}
	require.Equal(t, map[change.Key]change.Key{{ID: "tea", Aspect: change.Added}: herbs, {ID: "ponds", Aspect: change.Added}: edition.RedirectKey(row)}, by)
}

// TestRestoreIsJudgedToo says what a restore may that no other road does, and what it may not.
func TestRestoreIsJudgedToo(t *testing.T) {
	before, err := sitemap.New([]sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", SlugHeld: true, Kind: sitemap.Page, Rank: "a"}, {ID: "ponds", Title: "Ponds", Slug: "ponds", SlugHeld: true, Kind: sitemap.Page, Rank: "b"}})
	require.NoError(t, err)
	live, err := before.Retitle("ponds", "Pools")
	require.NoError(t, err)
	next, err := live.Retitle("home", "Start")
	require.NoError(t, err)
	frozen := []workflow.Freeze{{ID: "f", Begins: noon.Add(-time.Hour), Ends: noon.Add(time.Hour)}}
	for _, c := range []struct {
		who     string
		freezes []workflow.Freeze
		to      *sitemap.Tree
		want    workflow.Hindrance
	}{
		{"marta", nil, before, workflow.None},
		{"marta", frozen, before, workflow.None},
		{"anselm", nil, before, workflow.None},
		{"anselm", frozen, before, workflow.Froze},
		{"ines", nil, before, workflow.NoRight},
		{"marta", nil, live, workflow.Empty},
	} {
		w := edition.NewWork(edition.Input{
			Trees: edition.Trees{Live: live, Next: next}, Pages: noPages{}, IsMark: noFile, Freezes: c.freezes,
			Rules: review.Rules{Site: workflow.FourEyes}, // what was live was approved once
		})
		p, err := edition.Propose(w, edition.Live{Tree: live}, edition.Selection{Restore: &edition.Earlier{Number: 1, Tree: c.to}})
		require.NoError(t, err)
		table, err := redirect.NewTable(nil, live)
		require.NoError(t, err)
		history := &edition.History{Live: table, Pages: redirect.NewReplay(table, []string{"/ponds"}), Older: redirect.NewReplay(table, nil)}
		v := edition.Judge(p, edition.Check(p, edition.Evidence{History: history}), edition.Publisher{ID: c.who, Role: roles[c.who]}, workflow.ByRestore, noon)
		require.Equal(t, c.want, v.Hindrance, "%s, frozen: %t", c.who, c.freezes != nil)
		require.Equal(t, c.want == workflow.None, v.Allows(p))
		require.Empty(t, p.Carries(), "what is planned stays where it stands")
		require.Equal(t, "Start", p.Draft.Next.Ref(p.Draft.Next.Find("home")).Title)
	}
}
