package sitemap

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type mergeView struct {
	shell.Frame
	Action, Key, Problem string
	Kept, Gone           mergeSideView
	Facts                []mergeFactView
	Points               []point
	SwapURL, Leave       string
}

type mergeSideView struct {
	ID, Title, Address, Mark, PageURL string
	Blocks                            []mergeBlockView
}

type mergeBlockView struct {
	Value, ID, Slot, Note string
	Body                  template.HTML
	Chosen                bool
}

type mergeFactView struct {
	Field, Words, Kept, Gone string
	FromGone                 bool
}

// merge shows two pages side by side, to choose from.
func (s *Screens) merge(r *shell.Request) error {
	return s.mergePage(r, http.StatusOK, r.Query("keep"), r.Query("gone"), nil, "")
}

// mergePage shows the choice; asked is what was chosen before, if anything.
func (s *Screens) mergePage(r *shell.Request, status int, kept, gone string, asked *appsitemap.MergeAsk, problem string) error {
	f, _, err := s.FrameFor(r, "Merge two pages")
	if err != nil {
		return err
	}
	m, err := s.App.LookAtMerge(r.Ctx(), r.Who, kept, gone)
	if err != nil {
		return err
	}
	v := mergeView{Frame: f, Action: urls.Merge, Key: part.NewKey(), Problem: problem, SwapURL: urls.Merging(gone, kept), Leave: urls.At(kept)}
	v.fill(m, asked)
	return s.Show(r, status, "merge", v)
}

func (v *mergeView) fill(m appsitemap.Merging, asked *appsitemap.MergeAsk) {
	side := func(name string, from appsitemap.MergeSide, chosen func(appsitemap.MergeBlock) bool) mergeSideView {
		out := mergeSideView{ID: from.Entry.ID, Title: from.Entry.Title, Address: address.Written(from.Address), Mark: from.Mark, PageURL: urls.Page(from.Entry.ID)}
		for i, b := range from.Blocks {
			bv := mergeBlockView{Value: fmt.Sprintf("%d:%s", b.Take.Block, b.Slot), ID: name + strconv.Itoa(i), Slot: b.SlotName, Body: part.DraftHTML(b.HTML, m.Trees.Next), Chosen: chosen(b)}
			if b.Double {
				bv.Note = "the page that stays has the same"
			}
			out.Blocks = append(out.Blocks, bv)
		}
		return out
	}
	v.Kept = side("keep", m.Kept, func(b appsitemap.MergeBlock) bool { return asked == nil || slices.Contains(asked.Keep, b.Take) })
	v.Gone = side("take", m.Gone, func(b appsitemap.MergeBlock) bool {
		return asked == nil && !b.Double || asked != nil && slices.Contains(asked.Take, b.Take)
	})
	for _, f := range m.Facts {
		switch f.Field {
		case "template":
			f.Kept, f.Gone = m.Kept.Template.Name, m.Gone.Template.Name
		case "readership":
			f.Kept, f.Gone = part.OrElse(f.Kept, "everybody"), part.OrElse(f.Gone, "everybody")
		}
		v.Facts = append(v.Facts, mergeFactView{f.Field, part.UpperFirst(f.Words), part.OrElse(f.Kept, "none"), part.OrElse(f.Gone, "none"), asked != nil && slices.Contains(asked.Facts, f.Field)})
	}
	v.points(m)
}

// points says what merging does.
func (v *mergeView) points(m appsitemap.Merging) {
	add := func(mark, strong, text string) { v.Points = append(v.Points, point{mark, strong, text}) }
	if m.Gone.Live {
		add("planned", address.Written(m.Trees.Live.Served(m.Trees.Live.Find(m.Gone.Entry.ID))), "leads to "+v.Kept.Address+" with the next edition")
	} else {
		add("fine", "No address", "has to lead anywhere: the page that goes was never live")
	}
	if n := m.Of.FromLive - 1; m.Gone.Live && n > 0 {
		add("planned", part.Count(n, "more address changes", "more addresses change"), "with what is below it, and lead on")
	}
	if len(m.Shapes) > 0 {
		add("fine", strings.Join(m.Shapes, ", "), part.Verb(len(m.Shapes), "leads", "lead")+" to "+v.Kept.Title)
	}
	if m.Moving > 0 {
		add("planned", part.Count(m.Moving, "entry", "entries"), "below "+v.Gone.Title+part.Verb(m.Moving, " goes", " go")+" below "+v.Kept.Title)
	}
	if m.Links > 0 {
		add("fine", part.Count(m.Links, "link", "links"), "on "+part.Count(m.LinkPages, "page", "pages")+part.Verb(m.Links, " follows", " follow")+", in drafts")
	} else {
		add("fine", "No link", "on a live page leads to "+v.Gone.Title)
	}
	add("fine", "Topics, notes and references", "are kept")
	if m.Visits > 0 {
		add("fine", part.Count(m.Visits, "visit", "visits"), "of the last 30 days "+part.Verb(m.Visits, "counts", "count")+" for "+v.Kept.Title)
	}
	if m.Narrows {
		add("wrong", "Fewer may read it:", "only "+m.Readers+". Others who could read "+v.Gone.Title+" cannot read what becomes of it")
	}
}

// doMerge merges two pages as it was chosen.
func (s *Screens) doMerge(r *shell.Request) error {
	if err := r.Request.ParseForm(); err != nil {
		return plan.Refuse("", "The form cannot be read. Load the page again.")
	}
	ask := appsitemap.MergeAsk{
		Key: r.PostForm("key"), Kept: r.PostForm("kept"), Gone: r.PostForm("gone"), KeptMark: r.PostForm("kept-mark"), GoneMark: r.PostForm("gone-mark"),
		Keep: takes(r.PostFormArray("keep")), Take: takes(r.PostFormArray("take")),
	}
	for name, values := range r.Request.PostForm {
		if field, ok := strings.CutPrefix(name, "fact-"); ok && len(values) > 0 && values[0] == "gone" {
			ask.Facts = append(ask.Facts, field)
		}
	}
	slices.Sort(ask.Facts)
	res, err := s.App.Merge(r.Ctx(), r.Who, ask)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.mergePage(r, http.StatusUnprocessableEntity, ask.Kept, ask.Gone, &ask, invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.At(res.ID))
	return nil
}

// takes reads blocks as they were ticked, "index:slot".
func takes(values []string) []content.Take {
	var out []content.Take
	for _, v := range values {
		n, slot, ok := strings.Cut(v, ":")
		if i, err := strconv.Atoi(n); ok && err == nil {
			out = append(out, content.Take{Slot: slot, Block: i})
		}
	}
	return out
}
