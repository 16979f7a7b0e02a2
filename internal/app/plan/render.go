package plan

import (
	"fmt"
	"slices"

	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/markup"
)

// UsedBy gives the pages of a tree by the template that lays them out.
func UsedBy(t *sitemap.Tree, templates []content.Template) map[string][]int {
	out := map[string][]int{}
	for i := range t.Len() {
		if e := t.Ref(i); e.Kind.IsPage() {
			key := content.TemplateOf(templates, e.Template).Key
			out[key] = append(out[key], i)
		}
	}
	return out
}

// Rendered renders a page into the version that an edition will show: its HTML, its
// words for search, its links.
func (a *Floor) Rendered(t content.Template, p content.Page, around markup.Around) (PageVersion, error) {
	art, err := a.Markup.Article(t, p, around)
	if err != nil {
		return PageVersion{}, fmt.Errorf("render: %w", err)
	}
	return a.drawn(a.Found(t, Unrendered(t, p, func(id string) bool { return around.Person(id) != "" }), art.Trees), art), nil
}

// Relaid lays out a version by another template, against which its report holds it already: what
// its slots hold is not rendered again if it was before. What is found in the text is left out
// where it was found by a template that asks for the same.
func (a *Floor) Relaid(t content.Template, old PageVersion, around markup.Around, before RenderedSlots, found bool) (PageVersion, error) {
	var kept map[string]markup.KeptSlot
	if len(before.Body) > 0 {
		html, err := a.Markup.Unzip(before.Body)
		if err != nil {
			return PageVersion{}, err
		}
		kept = a.Markup.Kept(string(html), before.Outline, before.Slots)
	}
	art, err := a.Markup.Relaid(t, old.Content, around, kept)
	if err != nil {
		return PageVersion{}, fmt.Errorf("render: %w", err)
	}
	v := a.drawn(headed(t, old.Content), art).As(old)
	if v.Report = old.Report; !found {
		v = a.Found(t, v, art.Trees)
	}
	return v, nil
}

// RenderedAhead is a version that was laid out by another template before the edition that needs it is written.
type RenderedAhead struct {
	VersionID string
	MadeOf    string       // names the text, the template and the program
	Asked     markup.Asked // of what is around the page
	RenderedSlots
	Links []content.FoundLink // and Plain: what is found in the text, unless that stays
	Plain string
}

// RelaidAhead is Relaid of before the edition is written.
func (a *Floor) RelaidAhead(t content.Template, old PageVersion, around markup.Around, before RenderedSlots, found bool) (RenderedAhead, error) {
	out := RenderedAhead{VersionID: old.ID}
	v, err := a.Relaid(t, old, around.Noting(&out.Asked), before, found)
	out.RenderedSlots, out.Links, out.Plain = RenderedSlots{v.Body, v.Outline, v.Slots}, v.Links, v.Plain
	return out, err
}

// RelaidWith is Relaid where that was done ahead.
func RelaidWith(t content.Template, old PageVersion, r RenderedAhead) PageVersion {
	v := headed(t, old.Content).As(old)
	v.Body, v.Outline, v.Slots, v.Report = r.Body, r.Outline, r.Slots, old.Report
	v.Links, v.Plain = r.Links, r.Plain
	return v
}

func (a *Floor) drawn(v PageVersion, art markup.Article) PageVersion {
	v.Body, v.Outline, v.Slots = a.Markup.Zip(art.HTML), art.Headings, art.Slots
	return v
}

// Unrendered gives the version of a page as far as it is known without parsing its texts.
func Unrendered(t content.Template, p content.Page, person func(id string) bool) PageVersion {
	v := headed(t, p)
	v.Report = content.NewReport(t, p, person)
	return v
}

func headed(t content.Template, p content.Page) PageVersion {
	return PageVersion{
		Content: p, Excerpt: content.Excerpt(t, p), Follows: content.Follows(p), Files: sorted(append(content.FilesOf(p), t.FixedFiles()...)),
	}
}

// Parsed are texts and what they were parsed into.
type Parsed map[string][]content.Node

// Parsed parses the texts of a page.
func (a *Floor) Parsed(p content.Page) Parsed {
	out := Parsed{}
	for _, text := range content.Texts(p) {
		out[text] = a.Markup.Parse(text)
	}
	return out
}

// Found gives a version with what is found in its texts: its links, and its words for the search.
// Those of its texts that are not parsed yet are parsed.
func (a *Floor) Found(t content.Template, v PageVersion, parsed Parsed) PageVersion {
	parse := func(text string) []content.Node {
		tree, known := parsed[text]
		if !known {
			tree = a.Markup.Parse(text)
			parsed[text] = tree
		}
		return tree
	}
	if v.Links = content.Links(t, v.Content, parse); v.Links == nil {
		v.Links = []content.FoundLink{}
	}
	v.Plain = content.PlainText(t, v.Content, parse)
	return v
}

// Beside begins work that goes on beside the caller's. What it gives waits for the result and
// panics where the work did, so that a panic ends in the request and not the program.
func Beside[T any](work func() T) (wait func() T) {
	type outcome struct {
		value    T
		panicked any
	}
	done := make(chan outcome, 1)
	go func() {
		var o outcome
		defer func() {
			o.panicked = recover()
			done <- o
		}()
		o.value = work()
	}()
	return func() T {
		o := <-done
		if o.panicked != nil {
			panic(o.panicked)
		}
		return o.value
	}
}

func sorted(ids []string) []string {
	slices.Sort(ids)
	return slices.Compact(ids)
}
