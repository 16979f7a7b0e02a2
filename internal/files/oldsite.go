package files

import (
	"bytes"
	"fmt"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	"golang.org/x/net/html/charset"

	"candlepath/internal/core/check"
	"candlepath/internal/core/sheet"
)

// ReadOldSite reads titles, headings and links of all pages of an older site,
// and makes a sitemap of them.
func ReadOldSite(o *OldSite, opts Options) (*sheet.Sheet, error) {
	pages, findings := make([]sheet.OldPage, len(o.names)), make([]*check.Finding, len(o.names))
	var next, done atomic.Int64
	var wait sync.WaitGroup
	var told sync.Mutex
	for range 2 {
		wait.Go(func() {
			for i := next.Add(1) - 1; int(i) < len(o.names); i = next.Add(1) - 1 {
				p, err := o.pageOf(o.names[i])
				if err != nil {
					findings[i] = &check.Finding{Line: int(i) + 1, Severity: check.Error, Rule: "bad-page", From: o.names[i], Message: "The page cannot be read and is left out: " + err.Error() + "."}
				}
				pages[i] = p
				if n := done.Add(1); opts.Progress != nil && n%25 == 0 {
					told.Lock()
					opts.Progress(int(n))
					told.Unlock()
				}
			}
		})
	}
	wait.Wait()
	pages = slices.DeleteFunc(pages, func(p sheet.OldPage) bool { return p.File == "" })
	if len(pages) == 0 {
		return nil, refuse(0, "no HTML page in it can be read", "pack the folder again")
	}
	s, err := sheet.ReadPages(pages)
	if err != nil {
		return nil, err
	}
	for _, f := range findings {
		if f != nil {
			s.Findings = append(s.Findings, *f)
		}
	}
	return s, nil
}

// pageOf is page; a page that trips a parser up is left out like any that cannot be read.
func (o *OldSite) pageOf(file string) (p sheet.OldPage, err error) {
	defer func() {
		if r := recover(); r != nil {
			p, err = sheet.OldPage{}, fmt.Errorf("reading it failed (%v)", r)
		}
	}()
	return o.page(file)
}

func (o *OldSite) page(file string) (sheet.OldPage, error) {
	d, err := o.document(file)
	if err != nil {
		return sheet.OldPage{}, err
	}
	p := sheet.OldPage{File: file, Title: words(first(d.root, atom.Title))}
	if h := heading(d.text); h != nil {
		p.Heading = words(h)
	}
	inText := map[*html.Node]bool{}
	for a := range d.text.Descendants() {
		inText[a] = true
	}
	for a := range d.root.Descendants() {
		to, _, ok := o.linkOf(file, a)
		switch {
		case !ok || leadsOn(a):
		case inText[a]:
			p.Links = append(p.Links, to)
		default:
			p.Around = append(p.Around, to)
		}
	}
	return p, nil
}

// document is a parsed page.
type document struct {
	root *html.Node
	text *html.Node // within which its text stands
	html string     // as UTF-8
}

func (o *OldSite) document(file string) (document, error) {
	data, err := o.read(file, maxPage)
	if err != nil {
		return document{}, err
	}
	enc, _, _ := charset.DetermineEncoding(data, "")
	utf8, err := enc.NewDecoder().Bytes(data)
	if err != nil {
		return document{}, fmt.Errorf("its text is in no encoding that is known")
	}
	root, err := html.Parse(bytes.NewReader(utf8))
	if err != nil {
		return document{}, fmt.Errorf("it is no HTML: %w", err)
	}
	d := document{root: root, html: string(utf8), text: textOf(root)}
	dropAround(d.text)
	return d, nil
}

// textOf finds where the text of a page stands: what HTML or ARIA calls the
// main part, else what most sites call it, else all of the body.
func textOf(root *html.Node) *html.Node {
	rank := func(n *html.Node) int {
		id, classes := strings.ToLower(attr(n, "id")), strings.Fields(strings.ToLower(attr(n, "class")))
		switch {
		case n.DataAtom == atom.Main || attr(n, "role") == "main":
			return 1
		case id == "content" || id == "main" || id == "main-content" || id == "bodycontent" || id == "page-content":
			return 2
		case n.DataAtom == atom.Article:
			return 3
		case n.DataAtom == atom.Div && (slices.Contains(classes, "content") || slices.Contains(classes, "document") || slices.Contains(classes, "body")):
			return 4
		case n.DataAtom == atom.Body:
			return 5
		}
		return 0
	}
	best, of, articles := root, 6, 0
	for n := range root.Descendants() {
		if n.Type != html.ElementNode {
			continue
		}
		if n.DataAtom == atom.Article {
			articles++
		}
		if r := rank(n); r > 0 && r < of {
			best, of = n, r
		}
	}
	if of == 3 && articles > 1 { // a list of articles, none of which is the text
		return first(root, atom.Body)
	}
	return best
}

// notText are elements that hold no text of a page.
var notText = map[atom.Atom]bool{
	atom.Script: true, atom.Style: true, atom.Noscript: true, atom.Template: true, atom.Nav: true, atom.Form: true, atom.Input: true,
	atom.Button: true, atom.Select: true, atom.Textarea: true, atom.Iframe: true, atom.Object: true, atom.Embed: true, atom.Canvas: true,
	atom.Svg: true, atom.Link: true, atom.Meta: true, atom.Base: true, atom.Video: true, atom.Audio: true, atom.Map: true,
}

// aroundRoles and aroundClasses are what stands around a text.
var (
	aroundRoles   = []string{"navigation", "banner", "contentinfo", "search", "complementary", "menu", "menubar", "toolbar"}
	aroundClasses = []string{
		"headerlink", "navheader", "navfooter", "breadcrumb", "breadcrumbs", "sphinxsidebar", "related", "sidebar", "navbar", "footer", "site-footer",
		"site-header", "skip-link", "sr-only", "visually-hidden", "edit-link", "permalink",
	}
)

// dropAround takes out of a text what does not belong to it.
func dropAround(text *html.Node) {
	var drop []*html.Node
	for n := range text.Descendants() {
		if n.Type == html.CommentNode || n.Type == html.ElementNode && n != text && isAround(n) {
			drop = append(drop, n)
		}
	}
	for _, n := range drop {
		if n.Parent != nil {
			n.Parent.RemoveChild(n)
		}
	}
}

func isAround(n *html.Node) bool {
	if notText[n.DataAtom] || slices.Contains(aroundRoles, attr(n, "role")) || hasAttr(n, "hidden") || attr(n, "aria-hidden") == "true" && n.DataAtom != atom.Img {
		return true
	}
	if n.DataAtom == atom.Header || n.DataAtom == atom.Footer {
		return n.Parent != nil && n.Parent.DataAtom == atom.Body
	}
	return hasClass(n, aroundClasses...)
}

// heading is the first heading of the highest level that a text has.
func heading(text *html.Node) *html.Node {
	for _, level := range []atom.Atom{atom.H1, atom.H2} {
		if h := first(text, level); h != nil && words(h) != "" {
			return h
		}
	}
	return nil
}

// linkOf gives the file, and the fragment, that a link on a page leads to.
func (o *OldSite) linkOf(file string, a *html.Node) (to, fragment string, ok bool) {
	if a.DataAtom != atom.A && a.DataAtom != atom.Area {
		return "", "", false
	}
	u, err := url.Parse(strings.TrimSpace(attr(a, "href")))
	if err != nil || u.IsAbs() || u.Host != "" || u.Path == "" {
		return "", "", false
	}
	to = o.beside(file, u.Path)
	return to, u.Fragment, to != ""
}

// beside finds the file that a path on a page means, as a server would: a
// folder stands for its front page. Nothing leads outside.
func (o *OldSite) beside(file, to string) string {
	p := path.Join(path.Dir(file), to)
	if strings.HasPrefix(to, "/") {
		p = strings.TrimPrefix(path.Clean(to), "/")
	}
	for _, try := range []string{p, path.Join(p, "index.html"), path.Join(p, "index.htm"), p + ".html"} {
		if o.has[try] {
			return try
		}
	}
	return ""
}

// leadsOn tells links that lead through pages one after another, which say
// nothing of what stands below what.
func leadsOn(a *html.Node) bool {
	for rel := range strings.FieldsSeq(strings.ToLower(attr(a, "rel"))) {
		if rel == "next" || rel == "prev" || rel == "previous" {
			return true
		}
	}
	switch strings.ToLower(strings.Trim(words(a), " «»‹›<>←→")) {
	case "next", "prev", "previous", "up", "back", "home", "top", "contents", "index":
		return true
	}
	return false
}

// --- HTML nodes ---

func attr(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name && a.Namespace == "" {
			return a.Val
		}
	}
	return ""
}

func hasAttr(n *html.Node, name string) bool {
	return slices.ContainsFunc(n.Attr, func(a html.Attribute) bool { return a.Key == name })
}

func hasClass(n *html.Node, names ...string) bool {
	for c := range strings.FieldsSeq(strings.ToLower(attr(n, "class"))) {
		if slices.Contains(names, c) {
			return true
		}
	}
	return false
}

func first(n *html.Node, want atom.Atom) *html.Node {
	for d := range n.Descendants() {
		if d.Type == html.ElementNode && d.DataAtom == want {
			return d
		}
	}
	return nil
}

// words gives the text within a node, without permanent links to headings.
func words(n *html.Node) string {
	if n == nil {
		return ""
	}
	var b strings.Builder
	var put func(*html.Node)
	put = func(n *html.Node) {
		switch {
		case n.Type == html.TextNode:
			b.WriteString(n.Data)
		case n.Type == html.ElementNode && (n.DataAtom == atom.Script || n.DataAtom == atom.Style || hasClass(n, "headerlink", "permalink")):
		default:
			if n.DataAtom == atom.Br {
				b.WriteByte(' ')
			}
			for c := range n.ChildNodes() {
				put(c)
			}
		}
	}
	put(n)
	return strings.TrimRight(strings.Join(strings.Fields(b.String()), " "), "¶#")
}
