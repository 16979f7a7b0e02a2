package studio

import (
	"net/http"

	"candlepath/internal/core/address"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/urls"
)

type checksView struct {
	frame
	Total, More   string
	Chips         []countView
	Rows          []checkRow
	Kinds, Owners []countView
	Levels        []levelView
	Longest       []checkRow
	Outline       string
	AlikeURL      string
}

type checkRow struct {
	Title, URL, Address, Message string
	Bad                          bool
}

// levelView is one level of the tree; Share is its part of the widest, in
// twentieths, for a bar.
type levelView struct {
	Number, Entries, Broad int
	Below                  string
	Share                  int
}

const ownersShown, longestShown = 8, 4

// checks shows what is wrong with Next, beside a summary of its shape.
func (s *Studio) checks(r *request) error {
	f, next, err := s.frameFor(r, "Sitemap", "Checks", "Checks")
	if err != nil {
		return err
	}
	people, err := s.app.Everyone(r.ctx())
	if err != nil {
		return err
	}
	known := map[string]bool{}
	for _, p := range people {
		known[p.Name] = true
	}
	v := checksView{frame: f, Outline: urls.Outline, AlikeURL: urls.Alike}
	v.fill(next.Trees.Next, sitemap.Check(next.Trees.Next, sitemap.CheckOptions{People: known, Today: s.app.Today()}), r.Query("rule"))
	return s.show(r, http.StatusOK, "checks", v)
}

func (v *checksView) fill(t *sitemap.Tree, found []sitemap.Finding, rule string) {
	v.Total = count(len(found), "thing to look at", "things to look at")
	counts, shown := map[string]int{}, 0
	for _, f := range found {
		counts[f.Rule]++
		if rule != "" && rule != f.Rule {
			continue
		}
		if shown++; shown > entriesShown {
			continue
		}
		row := checkRow{Message: f.Message, Bad: f.Severity == sitemap.Error}
		if i := t.Find(f.ID); i != sitemap.None {
			row.Title, row.URL, row.Address = t.Ref(i).Title, urls.At(f.ID), address.Written(t.Claim(i))
		}
		v.Rows = append(v.Rows, row)
	}
	if shown > entriesShown {
		v.More = thousands(shown-entriesShown) + " more."
	}
	v.Chips = []countView{{Words: "All", N: thousands(len(found)), URL: urls.Checks, Here: rule == ""}}
	for _, r := range sitemap.Rules() {
		if n := counts[string(r.Rule)]; n > 0 {
			v.Chips = append(v.Chips, countView{Words: r.Words, N: thousands(n), URL: urls.ChecksOf(string(r.Rule)), Here: rule == string(r.Rule)})
		}
	}
	v.shape(t)
}

func (v *checksView) shape(t *sitemap.Tree) {
	s := sitemap.ShapeOf(t, longestShown)
	for _, k := range s.Kinds {
		v.Kinds = append(v.Kinds, countView{Words: verb(k.N, k.Name, k.Name+"s"), N: thousands(k.N)})
	}
	for _, o := range s.Owners[:min(ownersShown, len(s.Owners))] {
		if o.Name == "" {
			o.Name = "nobody"
		}
		v.Owners = append(v.Owners, countView{Words: o.Name, N: thousands(o.N)})
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
