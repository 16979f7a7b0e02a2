package markup

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"html"
	"io"
	"strings"

	"candlepath/internal/core/content"
)

// Article is a page rendered for readers, but for its title and menus.
type Article struct {
	HTML     string // links to pages have the form page:ID
	Headings []Heading
	Trees    map[string][]content.Node // what its texts were parsed into
}

// Article renders a page inside its template. What is worked out for each reader is left
// for Compose.
func (m *Markup) Article(t content.Template, p content.Page, around Around) (Article, error) {
	r := articleWriter{m: m, around: around, trees: map[string][]content.Node{}}
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
	return Article{HTML: r.b.String(), Headings: r.headings.Found, Trees: r.trees}
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
	shown := false
	for _, b := range p.Slots[part.Key] {
		if b.IsEmpty() {
			continue
		}
		if !shown && part.Label != "" {
			fmt.Fprintf(&r.b, "<h2 id=\"%s\">%s</h2>\n", r.headings.Add(part.Label, 2), html.EscapeString(part.Label))
		}
		shown = true
		if err := r.block(b); err != nil {
			return err
		}
	}
	return nil
}

// Zip compresses rendered bytes as they are stored and served.
func Zip(b []byte) []byte { return zip(gzip.NewWriter(nil), b) }

// Zip is the function of that name; it keeps what it needs for the next time, which is most of
// what a short text takes.
func (m *Markup) Zip(html string) []byte {
	w, kept := m.zips.Get().(*gzip.Writer)
	if !kept {
		w = gzip.NewWriter(nil)
	}
	defer m.zips.Put(w)
	return zip(w, []byte(html))
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
	r, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, fmt.Errorf("unzip: %w", err)
	}
	return io.ReadAll(r)
}
