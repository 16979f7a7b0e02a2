package sitemap

import (
	"fmt"
	"net/http"
	"strings"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type similarView struct {
	shell.Frame
	Action string
	Total  string
	More   string
	Rows   []similarRow

	Working bool // pages changed and are being compared
	Self    string
	Since   part.Moment // of what is shown meanwhile
}

type similarRow struct {
	A, B     similarPage
	Says     string
	MergeURL string
}

type similarPage struct{ ID, Title, Address, URL, Visits string }

const similarShown = 200

// alike lists pages that are nearly the same, to work through.
func (s *Screens) similar(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Similar pages")
	if err != nil {
		return err
	}
	found, err := s.App.Similar(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := similarView{Frame: f, Action: urls.Similar, Self: urls.Similar, Working: found.Working, Since: part.At(found.At)}
	v.fill(found.Pairs, found.Outline)
	return s.Show(r, http.StatusOK, "similar", v)
}

// different takes a pair off the list.
func (s *Screens) different(r *shell.Request) error {
	if err := s.App.SayDifferent(r.Ctx(), r.Who, r.PostForm("a"), r.PostForm("b")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Similar)
	return nil
}

// Both are the two pages.
func (r similarRow) Both() []similarPage { return []similarPage{r.A, r.B} }

func (v *similarView) fill(pairs []appsitemap.SimilarPair, o plan.Outline) {
	t := o.Trees.Next
	v.Total = part.Count(len(pairs), "pair of pages", "pairs of pages")
	page := func(i int) similarPage {
		e := t.Ref(i)
		p := similarPage{ID: e.ID, Title: e.Title, Address: address.Written(t.Address(i)), URL: urls.Page(e.ID)}
		if n := o.Visits[e.ID]; n > 0 {
			p.Visits = part.Count(n, "visit", "visits") + " in 30 days"
		}
		return p
	}
	for _, p := range pairs[:min(len(pairs), similarShown)] {
		row := similarRow{A: page(p.A), B: page(p.B), MergeURL: urls.Merging(t.Ref(p.A).ID, t.Ref(p.B).ID)}
		switch {
		case p.Share == 1:
			row.Says = "The texts are the same."
		case p.Share > 0:
			row.Says = fmt.Sprintf("About %d %% of the text is the same.", int(p.Share*100+0.5))
		}
		if p.SameTitle {
			row.Says = strings.TrimSpace("The titles are the same. " + row.Says)
		}
		v.Rows = append(v.Rows, row)
	}
	if n := len(pairs) - similarShown; n > 0 {
		v.More = part.Thousands(n) + " more; they come up as these are dealt with."
	}
}
