package files

import (
	"bytes"
	"strings"

	"golang.org/x/net/html"
)

// Rewriter takes a page of the site to another place: below another address, or into a folder.
// What it leaves alone stays byte for byte.
type Rewriter struct {
	Link   func(address string) string // where an address of the site leads there
	Within func(address string) string // HTML at the end of a link to an address of the site
	Top    string                      // HTML at the head of the page
	Symbol func(id string) string      // a drawing in place of one that is referred to; nil: it stays
}

// addressed are the attributes that hold an address, by element.
var addressed = map[string]string{
	"a": "href", "link": "href", "script": "src", "img": "src", "use": "href", "form": "action", "source": "src",
}

// Page gives a page as it is there.
func (rw Rewriter) Page(body []byte) []byte {
	out := bytes.NewBuffer(make([]byte, 0, len(body)+len(body)/8))
	z := html.NewTokenizer(bytes.NewReader(body))
	var open []string // what stands at the end of the links that are open
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			return out.Bytes()
		}
		raw := z.Raw()
		switch kind {
		case html.StartTagToken, html.SelfClosingTagToken:
			raw = bytes.Clone(raw)
			name, more := z.TagName()
			tag := string(name)
			if _, ok := addressed[tag]; !ok && tag != "body" {
				out.Write(raw)
				continue
			}
			open = rw.tag(out, z, tag, raw, more, open)
		case html.EndTagToken:
			raw = bytes.Clone(raw)
			if name, _ := z.TagName(); string(name) == "a" && len(open) > 0 {
				out.WriteString(open[len(open)-1])
				open = open[:len(open)-1]
			}
			out.Write(raw)
		default:
			out.Write(raw)
		}
	}
}

// tag writes a start tag with its addresses as they are there.
func (rw Rewriter) tag(out *bytes.Buffer, z *html.Tokenizer, tag string, raw []byte, more bool, open []string) []string {
	if tag == "body" {
		out.Write(raw)
		out.WriteString(rw.Top)
		return open
	}
	t := html.Token{Type: html.StartTagToken, Data: tag}
	var at, end string
	changed := false
	for more {
		var k, v []byte
		k, v, more = z.TagAttr()
		key, value := string(k), string(v)
		is := value
		switch {
		case key == addressed[tag] && Local(value):
			at, is = value, rw.Link(value)
		case key == "srcset":
			is = rw.srcset(value)
		}
		changed = changed || is != value
		t.Attr = append(t.Attr, html.Attribute{Key: key, Val: is})
	}
	if tag == "a" {
		if rw.Within != nil && at != "" {
			end = rw.Within(at)
		}
		open = append(open, end)
	}
	if tag == "use" && rw.Symbol != nil && strings.HasPrefix(at, "/assets/symbols.svg#") {
		_, id, _ := strings.Cut(at, "#")
		out.WriteString(rw.Symbol(id) + "<use>")
		return open
	}
	if !changed {
		out.Write(raw)
		return open
	}
	if bytes.HasSuffix(raw, []byte("/>")) {
		t.Type = html.SelfClosingTagToken
	}
	out.WriteString(t.String())
	return open
}

// srcset rewrites the addresses of a list of pictures.
func (rw Rewriter) srcset(value string) string {
	parts := strings.Split(value, ",")
	for i, p := range parts {
		at, size, sized := strings.Cut(strings.TrimSpace(p), " ")
		if Local(at) {
			at = rw.Link(at)
		}
		if sized {
			at += " " + size
		}
		parts[i] = at
	}
	return strings.Join(parts, ", ")
}

// Local tells whether an address is one of this host.
func Local(at string) bool { return strings.HasPrefix(at, "/") && !strings.HasPrefix(at, "//") }
