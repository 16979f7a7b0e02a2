package content

import (
	"cmp"
	"maps"
	"regexp"
	"slices"
	"strings"
)

// Scheme is what a link to a page of the site begins with.
const Scheme = "page:"

// NodeKind is what a node of a text is.
type NodeKind string

// The kinds of node that the rules of the job look at; everything else is Other.
const (
	Heading NodeKind = "heading"
	Link    NodeKind = "link"
	Words   NodeKind = "words"
	Other   NodeKind = "other"
)

// Node is one node of a parsed text.
type Node struct {
	Kind     NodeKind
	Level    int    // heading
	To       string // link
	Text     string // words
	Children []Node
}

// Parse turns CommonMark into a tree; markup provides it.
type Parse func(text string) []Node

// Plain gives the words of nodes, in reading order.
func Plain(nodes []Node) string {
	var b strings.Builder
	walk(nodes, func(n Node) {
		if n.Kind == Words {
			b.WriteString(n.Text)
		} else if n.Kind != Link && b.Len() > 0 {
			b.WriteByte(' ')
		}
	})
	return spaced(b.String())
}

// spaced gives words with one blank between two of them.
func spaced(s string) string {
	var b strings.Builder
	b.Grow(len(s))
	for word := range strings.FieldsSeq(s) {
		if b.Len() > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(word)
	}
	return b.String()
}

func walk(nodes []Node, visit func(Node)) {
	for _, n := range nodes {
		visit(n)
		walk(n.Children, visit)
	}
}

// FoundLink is a link on a page.
type FoundLink struct {
	To   string `json:"to"` // page:ID, perhaps with #heading; an address or a URL
	Text string `json:"text"`
	Tile bool   `json:"tile,omitempty"`
}

// Entry gives the id of the entry that the link leads to, if it is one.
func (l FoundLink) Entry() (string, bool) {
	id, ok := strings.CutPrefix(l.To, Scheme)
	id, _, _ = strings.Cut(id, "#")
	return id, ok
}

// Links lists the links of a page: of its facts, then of its slots, in the order of the
// template.
func Links(t Template, p Page, parse Parse) []FoundLink {
	var out []FoundLink
	for _, f := range t.Fields() {
		if v := p.Fields[f.Key]; v != "" && f.Type == FieldLink {
			out = append(out, FoundLink{To: v, Text: f.Label})
		}
	}
	each(t, p, func(b Block) {
		if k := kindOf(b.Type); k != nil {
			out = append(out, k.links(b, parse)...)
		}
	})
	return out
}

// Excerpt is what lists say of a page: the fact that leads it.
func Excerpt(t Template, p Page) (out string) {
	for _, part := range t.Parts {
		if part.Kind != Lead {
			continue
		}
		for _, f := range part.Fields {
			if v := p.Fields[f.Key]; v != "" {
				out = v
			}
		}
	}
	return out
}

// Blocks lists the blocks of a page in reading order, those in columns too.
func Blocks(t Template, p Page) (out []Block) {
	each(t, p, func(b Block) { out = append(out, b) })
	return out
}

// Follows gives the ids of the pages that blocks of a page take something from without
// linking to them: where a list begins, and whose fact is shown. They are sorted.
func Follows(p Page) (out []string) {
	eachNamed(p, func(f Field, id string) {
		if f.Type == FieldPage {
			out = append(out, id)
		}
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// Named gives the ids of the pages that facts and fields of blocks name: of tiles, of lists
// and the like.
func Named(p Page) (out []string) {
	for _, v := range p.Fields {
		if id, ok := (FoundLink{To: v}).Entry(); ok {
			out = append(out, id)
		}
	}
	eachNamed(p, func(_ Field, id string) { out = append(out, id) })
	return out
}

func eachNamed(p Page, visit func(f Field, id string)) {
	for _, blocks := range p.Slots {
		for _, top := range blocks {
			top.each(func(b Block) {
				if k := kindOf(b.Type); k != nil {
					k.eachValue(b, func(f Field, v string, _ Values) {
						if id, ok := (FoundLink{To: v}).Entry(); ok && f.Type != FieldProse {
							visit(f, id)
						}
					})
				}
			})
		}
	}
}

// Texts lists the running texts of a page, those in columns too, in no order.
func Texts(p Page) (out []string) {
	for _, blocks := range p.Slots {
		for _, top := range blocks {
			top.each(func(b Block) {
				if k := kindOf(b.Type); k != nil {
					k.eachValue(b, func(f Field, v string, _ Values) {
						if f.Type == FieldProse && v != "" {
							out = append(out, v)
						}
					})
				}
			})
		}
	}
	return out
}

// PlainText gives all words of a page, for search.
func PlainText(t Template, p Page, parse Parse) string {
	var parts []string
	for _, f := range t.Fields() {
		if typeOf(f.Type).words {
			parts = append(parts, p.Fields[f.Key])
		}
	}
	each(t, p, func(b Block) {
		if k := kindOf(b.Type); k != nil {
			parts = append(parts, k.words(b, parse))
		}
	})
	return spaced(strings.Join(parts, " "))
}

// Written gives a page as somebody wrote it, to be compared with another: fields, then
// slots with their blocks, also those that the template does not have.
func Written(t Template, p Page) string {
	var out []string
	fields := map[string]string{}
	for _, f := range t.Fields() {
		fields[f.Key] = f.Label
	}
	for _, key := range slices.Sorted(maps.Keys(p.Fields)) {
		if p.Fields[key] != "" {
			out = append(out, cmp.Or(fields[key], key)+": "+p.Fields[key])
		}
	}
	slots := map[string]string{}
	for _, s := range t.Slots() {
		slots[s.Key] = s.Label
	}
	for _, key := range sortedKeys(p.Slots) {
		out = append(out, "— "+cmp.Or(slots[key], key)+" —")
		for _, b := range p.Slots[key] {
			if k := kindOf(b.Type); k != nil {
				out = append(out, k.written(b))
			}
		}
	}
	return strings.Join(out, "\n\n") + "\n"
}

func each(t Template, p Page, visit func(Block)) {
	for _, s := range t.Slots() {
		for _, b := range p.Slots[s.Key] {
			b.each(visit)
		}
	}
}

// Links as they stand in CommonMark: to a page of the site, perhaps to a heading
// of it, and to a heading of the same page.
var (
	pageLink = regexp.MustCompile(regexp.QuoteMeta(Scheme) + `[0-9A-Za-z-]+(?:#[^\s)>"'\]]*)?`)
	// A link to a page with the brackets before it: people read the words.
	writtenLink = regexp.MustCompile(`\]\(` + regexp.QuoteMeta(Scheme) + `[^)]*\)`)
	listSign    = regexp.MustCompile(`(?m)^([ \t]*)[*+] `)
	ownAnchor   = regexp.MustCompile(`(\]\(<?)(#[^\s)>]+)`)
)

// Rewritten gives the content with the links to pages of the site, and those to
// headings of the page itself, as to makes them.
func Rewritten(p Page, to func(link string) string) Page {
	out := mapped(p, func(k *blockKind, b Block) Block { return k.rewrite(b, to) })
	for key, v := range out.Fields {
		if strings.HasPrefix(v, Scheme) {
			out.Fields[key] = to(v)
		}
	}
	return out
}

// mapped gives the content with every block as f makes it.
func mapped(p Page, f func(*blockKind, Block) Block) Page {
	out := Page{Fields: maps.Clone(p.Fields), Slots: make(map[string][]Block, len(p.Slots))}
	for slot, blocks := range p.Slots {
		out.Slots[slot] = mappedBlocks(blocks, f)
	}
	return out
}

func mappedBlocks(blocks []Block, f func(*blockKind, Block) Block) []Block {
	out := slices.Clone(blocks)
	for i, b := range out {
		if k := kindOf(b.Type); k != nil {
			out[i] = f(k, b)
		}
		if len(b.Columns) == 0 {
			continue
		}
		out[i].Columns = make([][]Block, len(b.Columns))
		for c, col := range b.Columns {
			out[i].Columns[c] = mappedBlocks(col, f)
		}
	}
	return out
}

// Relinked gives the content with links to some pages leading to others: ids
// names the new page for each old one.
func Relinked(p Page, ids map[string]string) Page {
	return Rewritten(p, func(link string) string { return RelinkedTo(link, ids) })
}

// RelinkedTo gives one link, as Relinked does.
func RelinkedTo(link string, ids map[string]string) string {
	old, anchor, _ := strings.Cut(strings.TrimPrefix(link, Scheme), "#")
	id, ok := ids[old]
	switch {
	case !ok || !strings.HasPrefix(link, Scheme):
		return link
	case anchor != "":
		id += "#" + anchor
	}
	return Scheme + id
}

// Same tells whether two pages hold the same.
func Same(a, b Page) bool {
	return maps.EqualFunc(full(a.Fields), full(b.Fields), func(x, y string) bool { return x == y }) &&
		maps.EqualFunc(filledSlots(a), filledSlots(b), func(x, y []Block) bool {
			return slices.EqualFunc(x, y, sameBlock)
		})
}

// sameBlock tells whether two blocks hold the same, whatever their ids.
func sameBlock(m, n Block) bool {
	return m.Type == n.Type && m.Text == n.Text && maps.Equal(m.Set, n.Set) &&
		slices.EqualFunc(m.Items, n.Items, func(a, b Values) bool { return maps.Equal(a, b) }) &&
		slices.EqualFunc(m.Columns, n.Columns, func(a, b []Block) bool { return slices.EqualFunc(a, b, sameBlock) })
}

func full(fields map[string]string) map[string]string {
	out := maps.Clone(fields)
	maps.DeleteFunc(out, func(_, v string) bool { return v == "" })
	return out
}

func filledSlots(p Page) map[string][]Block {
	out := maps.Clone(p.Slots)
	maps.DeleteFunc(out, func(_ string, b []Block) bool { return len(b) == 0 })
	return out
}
