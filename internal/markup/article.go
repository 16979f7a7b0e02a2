package markup

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"html"
	"io"
	"slices"
	"strings"

	"candlepath/internal/core/content"
)

// Article is a page rendered for readers, but for its title and menus.
type Article struct {
	HTML     string // links to pages have the form page:ID
	Headings []Heading
	Slots    Slots
	Trees    map[string][]content.Node // what its texts were parsed into
}

// Article renders a page inside its template. What is worked out for each reader is left
// for Compose.
func (m *Markup) Article(t content.Template, p content.Page, around Around) (Article, error) {
	return m.Relaid(t, p, around, nil)
}

// Relaid is Article with what slots hold of the same page as it was rendered before. Their
// headings keep their addresses.
func (m *Markup) Relaid(t content.Template, p content.Page, around Around, kept map[string]KeptSlot) (Article, error) {
	r := articleWriter{m: m, around: around, trees: map[string][]content.Node{}, kept: kept}
	for _, s := range kept {
		for _, h := range s.headings {
			r.headings.take(h.ID)
		}
	}
	var lead, main, side []content.Part
	for _, part := range t.Parts {
		switch {
		case part.Side:
			side = append(side, part)
		case part.Kind == content.Lead && len(main) == 0:
			lead = append(lead, part)
		default:
			main = append(main, part)
		}
	}
	if err := r.parts(lead, p, ""); err != nil {
		return Article{}, err
	}
	if len(side) == 0 {
		err := r.parts(main, p, "")
		return r.article(), err
	}
	r.b.WriteString("<div class=\"with-side\">\n")
	err := errors.Join(r.parts(main, p, "main-column"), r.parts(side, p, "side-column"))
	r.b.WriteString("</div>\n")
	return r.article(), err
}

func (r *articleWriter) article() Article {
	return Article{HTML: r.b.String(), Headings: r.headings.Found, Slots: Slots{By: r.m.build, List: r.slots}, Trees: r.trees}
}

// parts writes parts one below the other, in a column of a class if there is one.
func (r *articleWriter) parts(parts []content.Part, p content.Page, column string) error {
	if column != "" {
		fmt.Fprintf(&r.b, "<div class=\"%s\">\n", column)
		defer r.b.WriteString("</div>\n")
	}
	for _, part := range parts {
		if err := r.part(part, p); err != nil {
			return err
		}
	}
	return nil
}

type articleWriter struct {
	m        *Markup
	b        strings.Builder
	headings Headings
	around   Around
	kept     map[string]KeptSlot
	slots    []SlotSpan
	trees    map[string][]content.Node // of texts; nil: nobody wants them
}

func (r *articleWriter) part(part content.Part, p content.Page) error {
	switch part.Kind {
	case content.Lead:
		for _, f := range part.Fields {
			if v := p.Fields[f.Key]; v != "" {
				fmt.Fprintf(&r.b, "<p class=\"lead\">%s</p>\n", html.EscapeString(v))
			}
		}
	case content.Facts:
		r.facts(part, p)
	case content.Fixed:
		r.b.WriteString("<div class=\"fixed-part\">\n")
		defer r.b.WriteString("</div>\n")
		for _, b := range part.Content {
			if err := r.block(b); err != nil {
				return err
			}
		}
	case content.Slot:
		return r.slot(part, p)
	}
	return nil
}

func (r *articleWriter) facts(part content.Part, p content.Page) {
	open := false
	for _, f := range part.Fields {
		v := p.Fields[f.Key]
		if v == "" {
			continue
		}
		if !open {
			r.b.WriteString("<dl class=\"facts\">\n")
			open = true
		}
		fmt.Fprintf(&r.b, "<div><dt>%s</dt><dd>%s</dd></div>\n", html.EscapeString(f.Label), r.fact(f, v))
	}
	if open {
		r.b.WriteString("</dl>\n")
	}
}

// fact is the HTML of a value.
func (r *articleWriter) fact(f content.Field, v string) string {
	if _, page := (content.FoundLink{To: v}).Entry(); page && f.Type == content.FieldLink {
		var b strings.Builder // its words follow the page, and readers who may not open it get none
		later(&b, content.Block{Type: content.Strip, Items: []content.Values{{"to": v}}})
		return b.String()
	}
	if f.Type == content.FieldLink || f.Type == content.FieldFile {
		if to := safeLink(v); to != "" {
			return fmt.Sprintf("<a href=\"%s\">%s</a>", html.EscapeString(string(to)), html.EscapeString(v[strings.LastIndexByte(v, '/')+1:]))
		}
	}
	v = f.Told(v, func(id string) string { return r.around.person(id) })
	return strings.ReplaceAll(html.EscapeString(v), "\n", "<br>")
}

func (r *articleWriter) slot(part content.Part, p content.Page) error {
	if !slices.ContainsFunc(p.Slots[part.Key], func(b content.Block) bool { return !b.IsEmpty() }) {
		return nil
	}
	if part.Label != "" {
		fmt.Fprintf(&r.b, "<h2 id=\"%s\">%s</h2>\n", r.headings.Add(part.Label, 2), html.EscapeString(part.Label))
	}
	at := SlotSpan{Slot: part.Key, From: r.b.Len(), FromHead: len(r.headings.Found)}
	if kept, ok := r.kept[part.Key]; ok {
		r.b.WriteString(kept.html)
		r.headings.Found = append(r.headings.Found, kept.headings...)
	} else {
		for _, b := range p.Slots[part.Key] {
			if b.IsEmpty() {
				continue
			}
			if err := r.block(b); err != nil {
				return err
			}
		}
	}
	at.To, at.ToHead = r.b.Len(), len(r.headings.Found)
	r.slots = append(r.slots, at)
	return nil
}

// Zip compresses rendered bytes as they are stored and served.
func Zip(b []byte) []byte { return zip(gzip.NewWriter(nil), b) }

// Zip is the function of that name; it keeps what it needs for the next time, which is most of
// what a short text takes.
func (m *Markup) Zip(html string) []byte {
	var w *gzip.Writer
	select {
	case w = <-m.zips:
	default:
		w = gzip.NewWriter(nil)
	}
	out := zip(w, []byte(html))
	select {
	case m.zips <- w:
	default:
	}
	return out
}

func zip(w *gzip.Writer, b []byte) []byte {
	var out bytes.Buffer
	w.Reset(&out)
	if _, err := w.Write(b); err != nil {
		panic(err) // a buffer takes everything
	}
	if err := w.Close(); err != nil {
		panic(err)
	}
	return out.Bytes()
}

// Unzip is the inverse of Zip.
func Unzip(b []byte) ([]byte, error) {
	return unzip(new(gzip.Reader), b)
}

func unzip(r *gzip.Reader, b []byte) ([]byte, error) {
	if err := r.Reset(bytes.NewReader(b)); err != nil {
		return nil, fmt.Errorf("unzip: %w", err)
	}
	return io.ReadAll(r)
}
