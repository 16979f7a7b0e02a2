package demo

import (
	"context"
	"fmt"
	"io"
	"io/fs"
	"regexp"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sheet"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/files"
)

func readSheet(_ context.Context, name string, r io.Reader, progress func(int)) (*sheet.Sheet, error) {
	return files.ReadSitemap(name, r, files.Options{Progress: progress})
}

// written is the prepared text of one page. In pages.md a page begins with
// "@ ADDRESS", then lines "field: value", then blocks: text as it is, "! tone"
// begins a note box, "+ ADDRESS | line | symbol" is a tile. From a line "::::: slot KEY"
// on it is plain text as the editor reads it, with addresses for pages and "file:NAME" for
// what stands in the folder files.
type written struct {
	fields map[string]string
	blocks []content.Block
	plain  string // instead of blocks: plain text as the editor reads it, with addresses for pages
}

func readPages(dir fs.FS, people map[string]plan.Person, addresses map[string]string) (map[string]written, error) {
	b, err := fs.ReadFile(dir, "pages.md")
	if err != nil {
		return nil, err
	}
	all := "\n" + string(b)
	for name, address := range addresses {
		all = strings.ReplaceAll(all, "file:"+name+"\n", address+"\n")
	}
	out := map[string]written{}
	for _, part := range strings.Split(all, "\n@ ")[1:] {
		head, body, _ := strings.Cut(part, "\n")
		address := strings.TrimSpace(head)
		if _, twice := out[address]; twice {
			return nil, fmt.Errorf("pages.md has %s twice", address)
		}
		out[address] = readPage(body, people)
	}
	return out, nil
}

var fieldLine = regexp.MustCompile(`^([a-z]+(?::day)?): (.+)$`)

func readPage(body string, people map[string]plan.Person) written {
	w := written{fields: map[string]string{}}
	if fields, plain, found := strings.Cut(body, "\n::::: slot "); found {
		w = readPage(fields, people)
		w.plain = "::::: slot " + plain
		return w
	}
	var text []string
	kind, tone := content.Text, ""
	flush := func() {
		if s := strings.TrimSpace(strings.Join(text, "\n")); s != "" {
			w.blocks = append(w.blocks, content.Block{Type: kind, Text: s, Set: content.Values{"tone": tone}})
		}
		text, kind, tone = nil, content.Text, ""
	}
	for _, line := range strings.Split(body, "\n") {
		switch m := fieldLine.FindStringSubmatch(line); {
		case m != nil && len(text) == 0 && len(w.blocks) == 0:
			w.fields[m[1]] = m[2]
			if p, ok := people[m[2]]; ok && m[1] == "contact" {
				w.fields[m[1]] = p.ID
			}
		case strings.HasPrefix(line, "! "):
			flush()
			kind, tone = content.Note, strings.TrimPrefix(line, "! ")
		case strings.HasPrefix(line, "+ "):
			flush()
			w.tile(strings.Split(strings.TrimPrefix(line, "+ "), " | "))
		case line == "" && kind == content.Note:
			flush()
		case line == "" && len(text) == 0:
		default:
			text = append(text, line)
		}
	}
	flush()
	return w
}

func (w *written) tile(parts []string) {
	t := content.Values{"to": parts[0]}
	if len(parts) > 1 {
		t["line"] = parts[1]
	}
	if len(parts) > 2 {
		t["symbol"] = parts[2]
	}
	if n := len(w.blocks); n > 0 && w.blocks[n-1].Type == content.Tiles {
		w.blocks[n-1].Items = append(w.blocks[n-1].Items, t)
		return
	}
	w.blocks = append(w.blocks, content.Block{Type: content.Tiles, Items: []content.Values{t}})
}

var inlineLink = regexp.MustCompile(`\]\((/[^)\s]*)\)`)

// content fits the text to a template: links by address become links by
// entry, tiles take the titles of their pages.
func (w written) content(t content.Template, tree *sitemap.Tree, owner string, people map[string]plan.Person) (content.Page, error) {
	p := content.Page{Fields: map[string]string{}, Slots: map[string][]content.Block{}}
	for k, v := range w.fields {
		p.Fields[k] = v
	}
	for _, f := range t.Fields() {
		if f.Type != content.FieldPerson || p.Fields[f.Key] != "" {
			continue
		}
		for _, person := range people {
			if person.Name == owner {
				p.Fields[f.Key] = person.ID
			}
		}
	}
	if w.plain != "" {
		return w.read(t, p, tree, people)
	}
	slots := t.Slots()
	for _, b := range w.blocks {
		b.Text = inlineLink.ReplaceAllStringFunc(b.Text, func(m string) string {
			if id := entryAt(tree, m[2:len(m)-1]); id != "" {
				return "](" + content.Scheme + id + ")"
			}
			return m
		})
		for _, tile := range b.Items {
			if id := entryAt(tree, tile["to"]); id != "" {
				tile["to"] = content.Scheme + id
			} else {
				tile["title"] = strings.TrimPrefix(tile["to"], "https://")
			}
		}
		slot := slots[0].Key
		if b.Type == content.Tiles && len(slots) > 1 {
			slot = slots[len(slots)-1].Key
		}
		p.Slots[slot] = append(p.Slots[slot], b)
	}
	return p, nil
}

// read reads plain text in which pages stand with their addresses.
func (w written) read(t content.Template, p content.Page, tree *sitemap.Tree, people map[string]plan.Person) (content.Page, error) {
	out, problems := t.ReadPlain(w.plain, p, func(at string) string {
		if id := entryAt(tree, at); id != "" {
			return content.Scheme + id
		}
		return at
	})
	if len(problems) > 0 {
		return p, fmt.Errorf("line %d: %s", problems[0].Line, problems[0].Text)
	}
	for key, blocks := range out.Slots {
		for i := range blocks { // people are written by their logins
			if p, ok := people[blocks[i].Set["person"]]; ok {
				out.Slots[key][i].Set["person"] = p.ID
			}
		}
	}
	return out, nil
}

func entryAt(t *sitemap.Tree, address string) string {
	if i := t.PageAt(address); i != sitemap.None {
		return t.At(i).ID
	}
	return ""
}
