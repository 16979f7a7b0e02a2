package files

import (
	"bytes"
	"html"
	"strings"
)

// Rewriter takes a page of the site to another place: below another address, or into a folder.
// What it leaves alone stays byte for byte. It reads pages as this program writes them, with every
// value of an attribute in double quotes; it does not read HTML of others.
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

const longestName = 6 // of these elements

// Page gives a page as it is there.
func (rw Rewriter) Page(body []byte) []byte {
	out := make([]byte, 0, len(body)+len(body)/8)
	var open []string // what stands at the end of the links that are open
	for len(body) > 0 {
		at := bytes.IndexByte(body, '<')
		if at < 0 {
			break
		}
		out = append(out, body[:at]...)
		body = body[at:]
		tag, rest := cutTag(body)
		name := nameOf(tag)
		attr, known := addressed[name]
		switch {
		case name == "body":
			out = append(append(out, tag...), rw.Top...)
		case known:
			out, open = rw.tag(out, string(tag), name, attr, open)
		case len(open) > 0 && bytes.Equal(tag, []byte("</a>")):
			out = append(append(out, open[len(open)-1]...), tag...)
			open = open[:len(open)-1]
		default:
			out = append(out, tag...)
		}
		body = rest
	}
	return append(out, body...)
}

// cutTag cuts a tag or a comment off, which a text begins with. A sign in a value in quotes ends
// nothing.
func cutTag(b []byte) (tag, rest []byte) {
	if bytes.HasPrefix(b, []byte("<!--")) {
		if end := bytes.Index(b, []byte("-->")); end >= 0 {
			return b[:end+3], b[end+3:]
		}
		return b, nil
	}
	for i := 1; i < len(b); i++ {
		switch b[i] {
		case '"':
			end := bytes.IndexByte(b[i+1:], '"')
			if end < 0 {
				return b, nil
			}
			i += end + 1
		case '>':
			return b[:i+1], b[i+1:]
		}
	}
	return b, nil
}

// nameOf gives the name of a start tag, if it is one that matters.
func nameOf(tag []byte) string {
	end := 1
	for end < len(tag) && end <= longestName && tag[end] >= 'a' && tag[end] <= 'z' {
		end++
	}
	if end < len(tag) && (tag[end] == ' ' || tag[end] == '>' || tag[end] == '\n' || tag[end] == '/') {
		return string(tag[1:end])
	}
	return ""
}

// tag writes a start tag with its addresses as they are there.
func (rw Rewriter) tag(out []byte, tag, name, attr string, open []string) ([]byte, []string) {
	at, from, to := valueOf(tag, attr)
	is := at
	if Local(at) {
		is = rw.Link(at)
	} else {
		at = ""
	}
	if name == "use" && rw.Symbol != nil && strings.HasPrefix(at, "/assets/symbols.svg#") {
		_, id, _ := strings.Cut(at, "#")
		return append(append(out, rw.Symbol(id)...), "<use>"...), open
	}
	if name == "a" {
		end := ""
		if rw.Within != nil && at != "" {
			end = rw.Within(at)
		}
		open = append(open, end)
	}
	if at != "" && is != at {
		tag = tag[:from] + html.EscapeString(is) + tag[to:]
	}
	if name == "img" || name == "source" {
		if set, from, to := valueOf(tag, "srcset"); set != "" {
			tag = tag[:from] + html.EscapeString(rw.srcset(set)) + tag[to:]
		}
	}
	return append(out, tag...), open
}

// valueOf gives the value of an attribute of a tag, and where it stands; empty where it has none.
func valueOf(tag, attr string) (value string, from, to int) {
	for at := 0; ; {
		i := strings.Index(tag[at:], attr+`="`)
		if i < 0 {
			return "", 0, 0
		}
		from = at + i + len(attr) + 2
		end := strings.IndexByte(tag[from:], '"')
		if end < 0 {
			return "", 0, 0
		}
		before := tag[at+i-1]
		if at = from + end + 1; before != ' ' && before != '\n' || strings.Count(tag[:from-1], `"`)%2 != 0 {
			continue // another attribute, or the value of one
		}
		return html.UnescapeString(tag[from : from+end]), from, from + end
	}
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
