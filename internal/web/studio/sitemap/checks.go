package sitemap

import (
	"fmt"
	"net/http"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/check"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type checksView struct {
	shell.Frame
	Total         string
	Pager         part.Pager
	Chips         []part.CountView
	Rows          []checkRow
	Kinds, Owners []part.CountView
	Levels        []levelView
	Longest       []checkRow
	Outline       string
	SimilarURL    string
	Self, Rule    string
	Key           string
	Mends         []string // entries that can be mended, where one rule is shown
	Mending       *mendingView
}

// MendWords say how many are mended in one act.
func (v checksView) MendWords() string {
	if len(v.Mends) == appsitemap.MaxMended {
		return fmt.Sprintf("Fix the first %d of these", appsitemap.MaxMended)
	}
	return fmt.Sprintf("Fix all %d of these", len(v.Mends))
}

type checkRow struct {
	ID, Rule, Key                      string
	Title, URL, Address, Message, Mend string
	Bad                                bool
}

// levelView is one level of the tree; Share is its part of the widest, in
// twentieths, for a bar.
type levelView struct {
	Number, Entries, Broad int
	Below                  string
	Share                  int
}

const ownersShown, longestShown = 8, 4

// checks shows what is wrong with Next, beside a summary of its shape. As JSON it
// tells the outline how much there is to look at, by entry.
func (s *Screens) checks(r *shell.Request) error {
	if r.Query("as") == "json" {
		checked, err := s.App.Checks(r.Ctx(), r.Who)
		if err != nil {
			return err
		}
		found := map[string]int{}
		for _, f := range checked.Found {
			if f.ID != "" {
				found[f.ID]++
			}
		}
		r.JSON(http.StatusOK, map[string]any{"found": found})
		return nil
	}
	return s.checksPage(r, http.StatusOK, r.Query("rule"), nil)
}

func (s *Screens) checksPage(r *shell.Request, status int, rule string, mending *mendingView) error {
	f, _, err := s.FrameFor(r, "Checks")
	if err != nil {
		return err
	}
	checked, err := s.App.Checks(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := checksView{Frame: f, Outline: urls.Outline, SimilarURL: urls.Similar, Self: urls.Checks, Rule: rule, Key: part.NewKey(), Mending: mending}
	v.fill(checked, rule, r.Page())
	return s.Show(r, status, "checks", v)
}

// mendingView is a mend that waits until what it does was seen.
type mendingView struct {
	confirmView
	Rule, Key string
	IDs       []string
}

// mend mends what a rule found in one entry, or in all that are ticked.
func (s *Screens) mend(r *shell.Request) error {
	act := appsitemap.PlanAct{Key: r.PostForm("key"), Do: "mend", Field: r.PostForm("rule"), IDs: r.PostFormArray("id"), Confirmed: r.PostForm("confirmed") != ""}
	if one := r.PostForm("one"); one != "" {
		act.IDs = []string{one}
	}
	if len(act.IDs) == 0 {
		return plan.Refuse("id", "Nothing is selected.")
	}
	act.ID = act.IDs[0]
	res, err := s.App.Plan(r.Ctx(), r.Who, act)
	if err != nil {
		return err
	}
	if res.Confirm != nil {
		form := actForm{Do: act.Do, ID: act.ID, IDs: act.IDs}
		return s.checksPage(r, http.StatusOK, act.Field, &mendingView{newConfirm(form, res), act.Field, part.NewKey(), act.IDs})
	}
	r.Redirect(http.StatusSeeOther, urls.ChecksOf(r.PostForm("shown")))
	return nil
}

func (v *checksView) fill(checked appsitemap.Checked, rule string, page int) {
	t := checked.Tree
	v.Total = part.Count(len(checked.Found), "finding", "findings")
	counts, shown := map[check.Rule]int{}, []check.Finding{}
	for _, f := range checked.Found {
		counts[f.Rule]++
		if rule != "" && rule != string(f.Rule) {
			continue
		}
		if shown = append(shown, f); rule != "" && len(v.Mends) < appsitemap.MaxMended && checked.Mend(f) != "" {
			v.Mends = append(v.Mends, f.ID)
		}
	}
	v.Pager = part.NewPager(page, len(shown), func(page int) string { return urls.ChecksPage(rule, page) })
	for _, f := range shown[v.Pager.First-1 : v.Pager.Last] {
		row := checkRow{ID: f.ID, Rule: string(f.Rule), Key: part.NewKey(), Message: f.Message, Bad: f.Severity == check.Error}
		if i := t.Find(f.ID); i != sitemap.None {
			row.Title, row.URL, row.Address = t.Ref(i).Title, urls.At(f.ID), address.Written(t.Claim(i))
		}
		row.Mend = checked.Mend(f)
		v.Rows = append(v.Rows, row)
	}
	v.Chips = []part.CountView{{Words: "All", N: part.Thousands(len(checked.Found)), URL: urls.Checks, Here: rule == ""}}
	for _, r := range sitemap.Rules() {
		if n := counts[r.Rule]; n > 0 {
			v.Chips = append(v.Chips, part.CountView{Words: r.Words, N: part.Thousands(n), URL: urls.ChecksOf(string(r.Rule)), Here: rule == string(r.Rule)})
		}
	}
	v.shape(t)
}

func (v *checksView) shape(t *sitemap.Tree) {
	s := sitemap.ShapeOf(t, longestShown)
	for _, k := range s.Kinds {
		v.Kinds = append(v.Kinds, part.CountView{Words: part.Verb(k.N, k.Name, k.Name+"s"), N: part.Thousands(k.N)})
	}
	for _, o := range s.Owners[:min(ownersShown, len(s.Owners))] {
		if o.Name == "" {
			o.Name = "nobody"
		}
		v.Owners = append(v.Owners, part.CountView{Words: o.Name, N: part.Thousands(o.N)})
	}
	widest := 1
	for _, l := range s.Levels {
		widest = max(widest, l.Entries)
	}
	for _, l := range s.Levels {
		lv := levelView{Number: l.Number, Entries: l.Entries, Broad: max(l.Broad, 1), Share: (l.Entries*20 + widest - 1) / widest}
		if l.Below != sitemap.None && l.Broad > 1 {
			lv.Below = t.Ref(l.Below).Title
		}
		v.Levels = append(v.Levels, lv)
	}
	for _, i := range s.Longest {
		v.Longest = append(v.Longest, checkRow{Title: t.Ref(i).Title, URL: urls.At(t.Ref(i).ID), Address: address.Written(t.Address(i))})
	}
}
