package content

import (
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
	return strings.Join(strings.Fields(b.String()), " ")
}

func walk(nodes []Node, visit func(Node)) {
	for _, n := range nodes {
		visit(n)
		walk(n.Children, visit)
	}
}

// FoundLink is a link on a page.
type FoundLink struct {
	To   string `json:"to"` // page:ID, an address or a URL
	Text string `json:"text"`
}

// Entry gives the id of the entry that the link leads to, if it is one.
func (l FoundLink) Entry() (string, bool) { return strings.CutPrefix(l.To, Scheme) }

// Links lists the links of a page in the order of its template's slots, then
// those of slots that the template does not show.
func Links(t Template, p Page, parse Parse) []FoundLink {
	var out []FoundLink
	each(t, p, func(b Block) {
		for _, tile := range b.Tiles {
			out = append(out, FoundLink{tile.To, tile.Title})
		}
		walk(parse(b.Text), func(n Node) {
			if n.Kind == Link {
				out = append(out, FoundLink{n.To, Plain(n.Children)})
			}
		})
	})
	return out
}

// PlainText gives all words of a page, for search.
func PlainText(t Template, p Page, parse Parse) string {
	var parts []string
	for _, f := range t.Fields() {
		if f.Type == FieldText || f.Type == FieldChoice {
			parts = append(parts, p.Fields[f.Key])
		}
	}
	each(t, p, func(b Block) {
		for _, tile := range b.Tiles {
			parts = append(parts, tile.Title, tile.Line)
		}
		parts = append(parts, Plain(parse(b.Text)))
	})
	return strings.Join(strings.Fields(strings.Join(parts, " ")), " ")
}

func each(t Template, p Page, visit func(Block)) {
	for _, s := range t.Slots() {
		for _, b := range p.Slots[s.Key] {
			visit(b)
		}
	}
}

// pageLink is a link to a page of the site as it stands in CommonMark.
var pageLink = regexp.MustCompile(regexp.QuoteMeta(Scheme) + `[0-9A-Za-z-]+`)

// Relinked gives the content with links to some pages leading to others: ids
// names the new page for each old one.
func Relinked(p Page, ids map[string]string) Page {
	to := func(link string) string {
		if id, ok := ids[strings.TrimPrefix(link, Scheme)]; ok && strings.HasPrefix(link, Scheme) {
			return Scheme + id
		}
		return link
	}
	out := Page{Fields: maps.Clone(p.Fields), Slots: make(map[string][]Block, len(p.Slots))}
	for slot, blocks := range p.Slots {
		blocks = slices.Clone(blocks)
		for i := range blocks {
			blocks[i].Text = pageLink.ReplaceAllStringFunc(blocks[i].Text, to)
			blocks[i].Tiles = slices.Clone(blocks[i].Tiles)
			for k := range blocks[i].Tiles {
				blocks[i].Tiles[k].To = to(blocks[i].Tiles[k].To)
			}
		}
		out.Slots[slot] = blocks
	}
	return out
}
