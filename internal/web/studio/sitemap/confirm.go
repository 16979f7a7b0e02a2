package sitemap

import (
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/reach"
	"candlepath/internal/web/studio/part"
)

// confirmView is the consequences of an act that waits for confirmation.
type confirmView struct {
	Title, Verb, Confirm string
	OldLive, NewAddress  string
	Points               []point
	Act                  actForm
}

// confirmWords says for each act that asks first what is asked.
var confirmWords = map[string]struct{ verb, confirm string }{
	"move":     {"What this move changes", "Move it"},
	"step":     {"What this move changes", "Move it"},
	"remove":   {"What this removal changes", "Remove it"},
	"withdraw": {"What withdrawing changes", "Withdraw it"},
	"fact":     {"What else this changes", "Change it"},
	"facts":    {"What else this changes", "Change it"},
	"mend":     {"What this fix changes", "Fix it"},
	"refer":    {"What making it a reference changes", "Make it a reference"},
}

// mostFiles is how many files are named.
const mostFiles = 5

// point is one consequence; Mark is planned, fine or wrong.
type point struct{ Mark, Strong, Text string }

func newConfirm(f actForm, res plan.PlanResult) confirmView {
	of := res.Confirm
	words := confirmWords[f.Do]
	v := confirmView{Title: part.TitleIn(res.ID, res.Trees.Next), OldLive: of.OldLive, NewAddress: of.NewAddress, Act: f, Verb: words.verb, Confirm: words.confirm}
	if n := max(len(f.IDs), len(f.Values)); n > 1 {
		v.Title, v.Confirm = part.Count(n, "entry", "entries"), strings.TrimSuffix(v.Confirm, " it")+" them"
	}
	if of.Leaves() {
		v.Points = append(v.Points, point{"planned", part.Count(of.FromLive, "page leaves", "pages leave"), "the site with the next edition"})
	} else {
		v.Points = append(v.Points, point{"planned", part.Count(of.FromLive, "address changes", "addresses change"), "and " + part.Count(of.Redirects, "redirect is added", "redirects are added")})
	}
	if n := len(of.Undecided); n > 0 {
		v.Points = append(v.Points, point{"wrong", part.Count(n, "address", "addresses"), part.Verb(n, "then needs", "then need") + " a decision: where do the visitors belong?"})
	}
	switch {
	case res.Links == 0:
		v.Points = append(v.Points, point{"fine", "No link", "on other pages leads there"})
	case of.Leaves():
		v.Points = append(v.Points, point{"wrong", part.Count(res.Links, "link", "links"), "on " + part.Count(res.LinkPages, "page", "pages") + part.Verb(res.Links, " leads there and has to go", " lead there and have to go")})
	default:
		v.Points = append(v.Points, point{"fine", part.Count(res.Links, "link", "links"), "on " + part.Count(res.LinkPages, "page", "pages") + part.Verb(res.Links, " follows by itself", " follow by themselves")})
	}
	if len(of.TopAfter) > 0 {
		v.Points = append(v.Points, point{"planned", "Top menu", "shows " + strings.Join(of.TopAfter, ", ")})
	} else {
		v.Points = append(v.Points, point{"fine", "Top menu", "stays as it is"})
	}
	if of.SideMenus > 0 && !of.Leaves() {
		v.Points = append(v.Points, point{"planned", part.Count(of.SideMenus, "menu shows", "menus show"), "the change of place"})
	}
	v.reach(res.Reach)
	if len(res.Losing) > 0 {
		v.Points = append(v.Points, point{"wrong", strings.Join(res.Losing, ", "), part.Verb(len(res.Losing), "leads", "lead") + " to what goes; menu items to it have to be taken out before this is published"})
	}
	if n := len(res.Files); n > 0 {
		names := strings.Join(res.Files[:min(n, mostFiles)], ", ")
		if more := n - mostFiles; more > 0 {
			names += " and " + part.Thousands(more) + " more"
		}
		v.Points = append(v.Points, point{"wrong", part.Count(n, "file stops", "files stop"), "working, because no other page shows " + part.Verb(n, "it", "them") + ": " + names})
	}
	if of.NoOwner > 0 {
		v.Points = append(v.Points, point{"planned", part.Count(of.NoOwner, "page", "pages"), "among them without an owner"})
	}
	return v
}

// reach says what an act does to how far pages are from home.
func (v *confirmView) reach(m reach.Moved) {
	for _, p := range []struct {
		n    int
		mark string
		text string
	}{
		{m.Nearer, "fine", "nearer to home"}, {m.Farther, "planned", "farther from home"}, {m.Lost, "wrong", "out of reach: no click leads there"}, {m.Found, "fine", "into reach"},
	} {
		if p.n > 0 {
			v.Points = append(v.Points, point{p.mark, part.Count(p.n, "page comes", "pages come"), p.text})
		}
	}
}
