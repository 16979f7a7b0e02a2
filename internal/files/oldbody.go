package files

import (
	"bytes"
	"fmt"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/JohannesKaufmann/html-to-markdown/v2/converter"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/base"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/commonmark"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/table"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
)

// Body reads the text of a page and cleans it to our blocks: what is neither
// text, list, table, picture nor note goes, and so do all styles, scripts and
// forms. title is the title of its entry, which a heading need not say again.
func (o *OldSite) Body(file, title string, links content.OldLinks) (content.OldBody, error) {
	d, err := o.document(file)
	if err != nil {
		return content.OldBody{}, err
	}
	w := bodyWriter{o: o, file: file, links: links, out: content.OldBody{Source: d.html, Summary: summary(d)}, anchors: anchors(d.text)}
	if h := heading(d.text); h != nil && strings.EqualFold(words(h), title) {
		h.Parent.RemoveChild(h)
	}
	if err := w.prepare(d.text); err != nil {
		return content.OldBody{}, err
	}
	return w.out, w.write(d.text)
}

// summary is the description that a page gives of itself, else its first
// paragraph.
func summary(d document) string {
	for n := range d.root.Descendants() {
		if n.DataAtom == atom.Meta && strings.EqualFold(attr(n, "name"), "description") && strings.TrimSpace(attr(n, "content")) != "" {
			return cleanText(attr(n, "content"))
		}
	}
	for n := range d.text.Descendants() {
		if n.DataAtom == atom.P && words(n) != "" && toneOf(n.Parent) == "" {
			return cleanText(words(n))
		}
	}
	return ""
}

type bodyWriter struct {
	o       *OldSite
	file    string
	links   content.OldLinks
	anchors map[string]string // old ids → ids that the headings get here
	out     content.OldBody
}

// anchors finds which heading each id of a page stands at.
func anchors(text *html.Node) map[string]string {
	ids, waiting := map[string]string{}, []string{}
	for n := range text.Descendants() {
		if n.Type != html.ElementNode {
			continue
		}
		for _, name := range []string{attr(n, "id"), attr(n, "name")} {
			if name != "" {
				waiting = append(waiting, name)
			}
		}
		if level(n) > 0 {
			for _, id := range waiting {
				ids[id] = address.Slug(words(n))
			}
		}
		if level(n) > 0 || n.DataAtom == atom.P {
			waiting = waiting[:0]
		}
	}
	return ids
}

// level of a heading, or 0.
func level(n *html.Node) int {
	switch n.DataAtom {
	case atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6:
		return int(n.Data[1] - '0')
	}
	return 0
}

// prepare rewrites links, pictures and headings in place.
func (w *bodyWriter) prepare(text *html.Node) error {
	var all []*html.Node
	for n := range text.Descendants() {
		if n.Type == html.ElementNode {
			all = append(all, n)
		}
	}
	for _, n := range all {
		switch {
		case n.DataAtom == atom.A:
			w.link(n)
		case n.DataAtom == atom.Img:
			if err := w.picture(n); err != nil {
				return err
			}
		case n.DataAtom == atom.Table:
			boundSpans(n)
		case level(n) == 1:
			n.DataAtom, n.Data = atom.H2, "h2"
		case n.DataAtom == atom.Caption || n.DataAtom == atom.Figcaption || n.DataAtom == atom.Dt || n.DataAtom == atom.Summary:
			strong(n)
		}
	}
	return nil
}

// maxSpread is how many cells those of one table may spread over.
const maxSpread = 5_000

// boundSpans takes from a table the spans that would blow it up.
func boundSpans(table *html.Node) {
	spread, cells := 0, []*html.Node{}
	for n := range table.Descendants() {
		if n.DataAtom == atom.Td || n.DataAtom == atom.Th {
			cells = append(cells, n)
			spread += span(n, "rowspan") * span(n, "colspan")
		}
	}
	if spread <= maxSpread {
		return
	}
	for _, n := range cells {
		n.Attr = slices.DeleteFunc(n.Attr, func(a html.Attribute) bool { return a.Key == "rowspan" || a.Key == "colspan" })
	}
}

func span(n *html.Node, name string) int {
	v, err := strconv.Atoi(attr(n, name))
	if err != nil && attr(n, name) != "" {
		return maxSpread + 1
	}
	return min(max(v, 1), maxSpread+1)
}

// strong makes a line of its own of what stands above something.
func strong(n *html.Node) {
	b := &html.Node{Type: html.ElementNode, DataAtom: atom.Strong, Data: "strong"}
	for c := n.FirstChild; c != nil; c = n.FirstChild {
		n.RemoveChild(c)
		b.AppendChild(c)
	}
	n.AppendChild(b)
	if n.DataAtom == atom.Caption && n.Parent != nil && n.Parent.Parent != nil { // above its table
		at := n.Parent
		at.RemoveChild(n)
		n.DataAtom, n.Data = atom.P, "p"
		at.Parent.InsertBefore(n, at)
		return
	}
	n.DataAtom, n.Data = atom.P, "p"
}

func (w *bodyWriter) link(a *html.Node) {
	href := strings.TrimSpace(attr(a, "href"))
	u, err := url.Parse(href)
	to := ""
	switch {
	case err != nil || href == "":
	case address.IsURL(href):
		to = href
	case u.IsAbs() || u.Host != "":
	case u.Path == "" && u.Fragment != "":
		if id, ok := w.anchors[u.Fragment]; ok {
			to = "#" + id
		}
	default:
		if file := w.o.beside(w.file, u.Path); file != "" {
			if id, ok := w.links.Page(file); ok {
				to = content.Scheme + id
			}
		}
		if to == "" {
			w.lose(fmt.Sprintf("a link to %s, which is not here", href))
		}
	}
	a.Attr = nil
	if to != "" {
		a.Attr = []html.Attribute{{Key: "href", Val: to}}
		return
	}
	a.DataAtom, a.Data = atom.Span, "span"
}

func (w *bodyWriter) lose(what string) {
	if len(w.out.Lost) < 50 {
		w.out.Lost = append(w.out.Lost, what)
	}
}

// picture takes a picture along that is one by its bytes, whatever its name.
func (w *bodyWriter) picture(img *html.Node) error {
	src, alt := strings.TrimSpace(attr(img, "src")), strings.Join(strings.Fields(attr(img, "alt")), " ")
	img.Attr = nil
	u, err := url.Parse(src)
	file := ""
	if err == nil && !u.IsAbs() && u.Host == "" && u.Path != "" {
		file = w.o.beside(w.file, u.Path)
	}
	data, err := w.o.read(file, maxPicture)
	picture := content.PictureFile{}
	if err == nil {
		picture, err = Prepare(path.Base(file), bytes.NewReader(data))
	}
	if err != nil || picture.Width == 0 {
		w.lose(fmt.Sprintf("the picture %s", path.Base(src)))
		*img = html.Node{Parent: img.Parent, PrevSibling: img.PrevSibling, NextSibling: img.NextSibling, Type: html.TextNode, Data: alt}
		return nil
	}
	to, err := w.links.Picture(picture)
	if err != nil {
		return err
	}
	img.Attr = []html.Attribute{{Key: "src", Val: to}, {Key: "alt", Val: alt}}
	return nil
}

// noteTones are classes by which many sites mark notes.
var noteTones = map[string]string{
	"note": "plain", "info": "plain", "admonition": "plain", "seealso": "plain", "tip": "tip", "hint": "tip",
	"important": "warning", "warning": "warning", "caution": "warning", "danger": "warning", "attention": "warning",
}

func toneOf(n *html.Node) string {
	if n.DataAtom != atom.Div && n.DataAtom != atom.Aside && n.DataAtom != atom.Blockquote {
		return ""
	}
	best := ""
	for c := range strings.FieldsSeq(strings.ToLower(attr(n, "class"))) {
		if t := noteTones[c]; t != "" && (best == "" || t != "plain") {
			best = t
		}
	}
	return best
}

var toMarkdown = converter.NewConverter(converter.WithPlugins(
	base.NewBasePlugin(), commonmark.NewCommonmarkPlugin(),
	table.NewTablePlugin(table.WithHeaderPromotion(true), table.WithSkipEmptyRows(true), table.WithNewlineBehavior(table.NewlineBehaviorPreserve), table.WithCellPaddingBehavior(table.CellPaddingBehaviorMinimal)),
))

// write makes blocks of a text. Notes become blocks of their own; they are
// looked for as far as only divisions lie around them.
func (w *bodyWriter) write(text *html.Node) error {
	plain := &html.Node{Type: html.ElementNode, DataAtom: atom.Div, Data: "div"}
	flush := func(kind content.BlockType, tone string) error {
		md, err := toMarkdown.ConvertNode(plain)
		if err != nil {
			return fmt.Errorf("%s: %w", w.file, err)
		}
		if s := cleanText(string(md)); s != "" {
			w.out.Blocks = append(w.out.Blocks, content.Block{Type: kind, Text: s, Set: toned(tone)})
		}
		plain = &html.Node{Type: html.ElementNode, DataAtom: atom.Div, Data: "div"}
		return nil
	}
	var put func(n *html.Node) error
	put = func(n *html.Node) error {
		for c := n.FirstChild; c != nil; {
			next := c.NextSibling
			tone := toneOf(c)
			switch {
			case tone != "":
				if err := flush(content.Text, ""); err != nil {
					return err
				}
				n.RemoveChild(c)
				plain.AppendChild(c)
				if err := flush(content.Note, tone); err != nil {
					return err
				}
			case holdsNote(c):
				if err := put(c); err != nil {
					return err
				}
			default:
				n.RemoveChild(c)
				plain.AppendChild(c)
			}
			c = next
		}
		return nil
	}
	if err := put(text); err != nil {
		return err
	}
	return flush(content.Text, "")
}

// holdsNote tells whether a note stands somewhere in a division.
func holdsNote(n *html.Node) bool {
	if n.DataAtom != atom.Div && n.DataAtom != atom.Section && n.DataAtom != atom.Article && n.DataAtom != atom.Main {
		return false
	}
	for d := range n.Descendants() {
		if d.Type == html.ElementNode && toneOf(d) != "" {
			return true
		}
	}
	return false
}

// cleanText drops what no text may hold, and white space around it.
func cleanText(s string) string {
	s = strings.Map(func(r rune) rune {
		if r != '\n' && r != '\t' && !Drawable(r) {
			return -1
		}
		return r
	}, s)
	return strings.TrimSpace(s)
}

// toned is what is set of a notice; of others nothing.
func toned(tone string) content.Values {
	if tone == "" || tone == content.Tones()[0] {
		return nil
	}
	return content.Values{"tone": tone}
}

// Drawable tells whether a character can be drawn and is no control or
// direction mark.
func Drawable(r rune) bool {
	switch {
	case r < 0x20, r >= 0x7F && r < 0xA0, r == 0xFFFD, r == 0xFFFE, r == 0xFFFF:
		return false
	case r >= 0x200B && r <= 0x200F, r >= 0x2028 && r <= 0x202E, r >= 0x2060 && r <= 0x206F, r == 0xFEFF:
		return false
	}
	return true
}
