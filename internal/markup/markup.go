// Package markup turns CommonMark with tables into the document tree of package
// content and into safe HTML. Nothing else in the program makes HTML out of
// what people write.
package markup

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"html/template"
	"regexp"
	"runtime"
	"strings"
	"sync"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	east "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/renderer"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
)

// Markup parses and renders. It is safe for concurrent use.
type Markup struct {
	md     goldmark.Markdown
	policy *bluemonday.Policy
	blocks *template.Template
	zips   chan *gzip.Writer // a sync.Pool forgets them when memory is cleaned up, and each takes 800 KB
	unzips sync.Pool         // of *gzip.Reader
	build  string
}

// pictureSrc is the address of a picture that the site keeps itself; no page
// shows any other.
var pictureSrc = regexp.MustCompile(`^/files/[0-9a-f]{32}/[a-z0-9.-]+$`)

// New makes a Markup.
func New() *Markup {
	policy := bluemonday.NewPolicy()
	policy.AllowElements("p", "br", "hr", "strong", "em", "del", "code", "pre", "blockquote", "ul", "ol", "li", "sup", "sub",
		"h2", "h3", "h4", "h5", "h6", "table", "thead", "tbody", "tr", "th", "td", "a")
	policy.AllowAttrs("id").Matching(regexp.MustCompile(`^[\p{L}\p{N}-]+$`)).OnElements("h2", "h3", "h4", "h5", "h6")
	policy.AllowAttrs("start").Matching(bluemonday.Integer).OnElements("ol")
	policy.AllowAttrs("href").OnElements("a")
	policy.AllowAttrs("scope").Matching(regexp.MustCompile(`^(row|col)$`)).OnElements("th")
	policy.AllowAttrs("class").Matching(regexp.MustCompile(`^at-(middle|right)$`)).OnElements("th", "td")
	policy.AllowAttrs("class").Matching(regexp.MustCompile(`^(task|task task-done|sr-only)$`)).OnElements("span")
	policy.AllowAttrs("loading").Matching(regexp.MustCompile(`^lazy$`)).OnElements("img")
	policy.AllowAttrs("src").Matching(pictureSrc).OnElements("img")
	policy.AllowAttrs("alt").OnElements("img")
	policy.AllowURLSchemes("http", "https", "mailto", "tel", "page")
	policy.AllowRelativeURLs(true)
	policy.RequireParseableURLs(true)
	return &Markup{
		md: goldmark.New(goldmark.WithExtensions(extension.Table, extension.Strikethrough, extension.TaskList),
			goldmark.WithRendererOptions(renderer.WithNodeRenderers(util.Prioritized(cells{}, 100)))),
		policy: policy,
		blocks: parseBlocks(),
		zips:   make(chan *gzip.Writer, runtime.GOMAXPROCS(0)),
		build:  Build(),
	}
}

// Parse gives the document tree of a text.
func (m *Markup) Parse(source string) []content.Node {
	source = parsable(source)
	src := []byte(source)
	return nodes(m.md.Parser().Parse(text.NewReader(src)), source, src)
}

// parsable makes a text that is too costly to parse a block of code, which is shown as it was written.
func parsable(source string) string {
	if content.TooCostly(source) == nil {
		return source
	}
	return "    " + strings.ReplaceAll(source, "\n", "\n    ")
}

// nodes gives what is below a node of a text, which stands in source and, as bytes, in src. Words
// are parts of the source and no copies of it.
func nodes(parent ast.Node, source string, src []byte) []content.Node {
	if parent.ChildCount() == 0 {
		return nil
	}
	out := make([]content.Node, 0, parent.ChildCount())
	for n := parent.FirstChild(); n != nil; n = n.NextSibling() {
		c := content.Node{Kind: content.Other}
		switch n := n.(type) {
		case *ast.Heading:
			c.Kind, c.Level = content.Heading, n.Level
		case *ast.Link:
			c.Kind, c.To = content.Link, string(n.Destination)
		case *ast.AutoLink:
			c.Kind, c.To = content.Link, string(n.URL(src))
			c.Children = []content.Node{{Kind: content.Words, Text: string(n.Label(src))}}
		case *ast.Text:
			c.Kind, c.Text = content.Words, source[n.Segment.Start:n.Segment.Stop]
			if n.Segment.Padding > 0 || n.Segment.ForceNewline {
				c.Text = string(n.Segment.Value(src))
			}
			if n.SoftLineBreak() || n.HardLineBreak() {
				c.Text += " "
			}
		case *ast.String:
			c.Kind, c.Text = content.Words, string(n.Value)
		case *ast.Emphasis, *ast.CodeSpan, *east.Strikethrough:
			c.Kind = content.Words // no end of a word
		case *ast.RawHTML:
			if raises(rawTag(n, src)) {
				c.Kind = content.Words
			}
		case *ast.CodeBlock, *ast.FencedCodeBlock:
			c.Children = []content.Node{{Kind: content.Words, Text: string(n.Lines().Value(src))}}
		}
		if c.Children == nil {
			c.Children = nodes(n, source, src)
		}
		out = append(out, c)
	}
	return out
}

// Headings hands out ids for headings that are unique on one page.
type Headings struct {
	taken map[string]bool
	names address.Namer
	Found []Heading
}

// Heading is one entry of "On this page".
type Heading struct {
	ID    string `json:"id"`
	Text  string `json:"text"`
	Level int    `json:"level"`
}

// Add gives a heading an id.
func (h *Headings) Add(words string, level int) string {
	id := h.names.Unused(address.Slug(words), func(s string) bool { return h.taken[s] || s == "main" || s == "search" })
	h.take(id)
	h.Found = append(h.Found, Heading{id, words, level})
	return id
}

// take lets no other heading have an id.
func (h *Headings) take(id string) {
	if h.taken == nil {
		h.taken = map[string]bool{}
	}
	h.taken[id] = true
}

// HTML renders a text. Headings are shifted below the page's own heading: the
// first level of a text is h2. Links to pages keep the form page:ID.
func (m *Markup) HTML(source string, headings *Headings) (string, error) {
	out, _, err := m.html(source, headings)
	return out, err
}

// html gives the document tree of the text, too, as Parse does.
func (m *Markup) html(source string, headings *Headings) (string, []content.Node, error) {
	source = parsable(source)
	src := []byte(source)
	doc := m.md.Parser().Parse(text.NewReader(src))
	tree := nodes(doc, source, src)
	var foreign []*ast.Image
	err := ast.Walk(doc, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		if h, ok := n.(*ast.Heading); ok && entering {
			h.Level = min(max(h.Level, 2), 6)
			id := headings.Add(content.Plain(nodes(h, source, src)), h.Level)
			h.SetAttributeString("id", []byte(id))
		}
		if img, ok := n.(*ast.Image); ok && entering && !pictureSrc.Match(img.Destination) {
			foreign = append(foreign, img)
		}
		return ast.WalkContinue, nil
	})
	if err != nil {
		return "", nil, fmt.Errorf("walk text: %w", err)
	}
	for _, img := range foreign { // its words stay
		for c := img.FirstChild(); c != nil; c = img.FirstChild() {
			img.Parent().InsertBefore(img.Parent(), img, c)
		}
		img.Parent().RemoveChild(img.Parent(), img)
	}
	var b bytes.Buffer
	if err := m.md.Renderer().Render(&b, src, doc); err != nil {
		return "", nil, fmt.Errorf("render text: %w", err)
	}
	return m.policy.Sanitize(b.String()), tree, nil
}

const hrefPage = `href="` + content.Scheme

// ResolveLinks replaces links of the form page:ID or page:ID#heading in rendered
// HTML by what lookup knows. A link to a page that readers cannot reach loses its target.
func ResolveLinks(html string, lookup func(id string) (href string, ok bool)) string {
	var b strings.Builder
	for {
		before, rest, found := strings.Cut(html, hrefPage)
		b.WriteString(before)
		if !found {
			return b.String()
		}
		id, after, _ := strings.Cut(rest, `"`)
		id, anchor, toHeading := strings.Cut(id, "#")
		if href, ok := lookup(id); ok {
			if toHeading {
				href += "#" + anchor
			}
			b.WriteString(`href="` + href + `"`)
		} else {
			b.WriteString(`data-missing="1"`)
		}
		html = after
	}
}
