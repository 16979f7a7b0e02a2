package files

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
)

// readOPML reads an OPML outline (opml.org, 2.0): each outline element is an
// entry, its text the title; our columns stand in attributes of their names. An
// outline of type link is an outside link.
func readOPML(r io.Reader, o Options) ([]sheet.Record, error) {
	data, err := readNested(r)
	if err != nil {
		return nil, err
	}
	d := xml.NewDecoder(bytes.NewReader(data))
	root, body := "", false
	var open []*nested
	top := &nested{}
	for depth := 0; ; {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := d.InputPos()
		if err != nil {
			return nil, refuse(line, "this is not well-formed XML", "export the outline again")
		}
		if err := o.ended(); err != nil {
			return nil, err
		}
		switch tok.(type) {
		case xml.StartElement:
			if depth++; depth > deepestXML {
				return nil, tooDeep(line)
			}
		case xml.EndElement:
			depth--
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			if root == "" {
				if root = tok.Name.Local; root != "opml" {
					return nil, refuse(line, fmt.Sprintf("the file begins with <%s>, not <opml>", root), "export the outline as OPML")
				}
			}
			if tok.Name.Local == "body" {
				body = true
			}
			if tok.Name.Local == "outline" && body {
				n := &nested{line: line, cells: outlineCells(tok.Attr)}
				if open = append(open, n); len(open) > sitemap.MaxLevels+1 {
					return nil, tooDeep(line)
				}
			}
		case xml.EndElement:
			if tok.Name.Local == "outline" && len(open) > 0 {
				done, into := open[len(open)-1], top
				if open = open[:len(open)-1]; len(open) > 0 {
					into = open[len(open)-1]
				}
				into.below = append(into.below, *done)
			}
		}
	}
	if root == "" {
		return nil, refuse(0, "the file is empty", "export the outline as OPML")
	}
	return flatten(top.below, o)
}

func outlineCells(attrs []xml.Attr) map[string]string {
	cells := map[string]string{}
	for _, a := range attrs {
		switch name := strings.ToLower(a.Name.Local); name {
		case "text":
			cells["title"] = a.Value
		case "title":
			if cells["title"] == "" {
				cells["title"] = a.Value
			}
		case "_note":
			cells["notes"] = a.Value
		case "type":
			if a.Value == "link" {
				cells["kind"] = string(sitemap.Outside)
			}
		case "url", "htmlurl":
			cells["target"] = a.Value
		default:
			if slices.Contains(sheet.Columns, name) {
				cells[name] = a.Value
			}
		}
	}
	if cells["kind"] == "" && cells["target"] != "" {
		cells["kind"] = string(sitemap.Outside)
	}
	return cells
}

// writeOPML writes what readOPML reads.
func writeOPML(w io.Writer, t *sitemap.Tree) error {
	var b bytes.Buffer
	b.WriteString(xml.Header + "<opml version=\"2.0\">\n<head><title>Sitemap</title></head>\n<body>\n")
	var put func(i int) error
	put = func(i int) error {
		indent := strings.Repeat("  ", t.Level(i))
		b.WriteString(indent + "<outline")
		for c, v := range sheet.Row(t, i) {
			name := sheet.Columns[c]
			switch {
			case name == "title":
				name = "text"
			case v == "" || name == "parent" || name == "level" || name == "listed" && v == "yes" || name == "kind" && v == string(sitemap.Page) && t.Ref(i).Target == "":
				continue
			}
			b.WriteString(" " + name + `="`)
			if err := xml.EscapeText(&b, []byte(v)); err != nil {
				return err
			}
			b.WriteByte('"')
		}
		if !t.HasChildren(i) {
			b.WriteString("/>\n")
			return nil
		}
		b.WriteString(">\n")
		for c := range t.Children(i) {
			if err := put(c); err != nil {
				return err
			}
		}
		b.WriteString(indent + "</outline>\n")
		return nil
	}
	for i := 0; i < t.Len(); i = t.End(i) {
		if err := put(i); err != nil {
			return err
		}
	}
	b.WriteString("</body>\n</opml>\n")
	_, err := w.Write(b.Bytes())
	return err
}
