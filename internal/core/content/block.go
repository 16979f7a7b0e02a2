package content

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
)

// BlockType is what a block is.
type BlockType string

// Block is one unit of content in a slot.
type Block struct {
	ID      string    `json:"id,omitempty"`   // stays with the block; see Identified
	From    string    `json:"from,omitempty"` // the block that it is a copy of
	Type    BlockType `json:"type"`
	Text    string    `json:"text,omitempty"`    // CommonMark, of kinds that have a text of their own
	Set     Values    `json:"set,omitempty"`     // the fields of its kind
	Items   []Values  `json:"items,omitempty"`   // tiles, steps, files and the like
	Columns [][]Block `json:"columns,omitempty"` // blocks side by side
}

// UnmarshalJSON also reads blocks as they were written before kinds had fields: a tone and
// tiles of their own.
func (b *Block) UnmarshalJSON(data []byte) error {
	type plain Block
	in := struct {
		*plain
		Tone  string   `json:"tone"`
		Tiles []Values `json:"tiles"`
	}{plain: (*plain)(b)}
	if err := json.Unmarshal(data, &in); err != nil {
		return err
	}
	if in.Tone != "" && b.Set["tone"] == "" {
		b.Set = maps.Clone(b.Set)
		if b.Set == nil {
			b.Set = Values{}
		}
		b.Set["tone"] = in.Tone
	}
	if len(b.Items) == 0 {
		b.Items = in.Tiles
	}
	return nil
}

// ownText is the key of the field that is the text of the block itself.
const ownText = "text"

// hidden is the field that every kind has: on which screens the block is not shown.
var hidden = Field{Key: "hide", Label: "Hidden on", Type: FieldSeveral, Choices: []string{"phones", "tablets", "desks"}}

// blockKind is what there is to know of one kind of block. A new kind is a file with
// its row here and a template blocks/KIND.html in package markup; the editor draws what
// its fields say.
type blockKind struct {
	is    BlockType
	name  string // as the editor offers it
	about string // what it is for, in some words

	fields  []Field // a field called text is the text of the block
	items   []Field // of each item
	item    string  // what an item is called; empty: there are none
	columns bool    // blocks side by side
	inside  bool    // blocks inside, one after the other: it is a part of a template
	cuts    bool    // a page can be split at its headings
	lists   bool    // what it shows is worked out for each reader, from the edition
}

// blockKinds is the table of kinds, in the order in which the editor offers them.
func blockKinds() []blockKind {
	return []blockKind{
		textKind, noteKind, tilesKind, pictureKind, picturesKind, stepsKind, questionsKind, quotationKind, columnsKind,
		factsKind, filesKind, tableKind, contactKind, belowKind, topicKind, newestKind, newsKind, askedKind, recentKind, stripKind,
		dividerKind, sourceKind,
	}
}

// kindsByType is the table, for looking up.
var kindsByType = func() map[BlockType]*blockKind {
	out := map[BlockType]*blockKind{}
	for _, k := range append(blockKinds(), partKinds()...) {
		out[k.is] = &k
	}
	return out
}()

func kindOf(t BlockType) *blockKind { return kindsByType[t] }

// BlockTypes lists the kinds in the order in which the editor offers them.
func BlockTypes() []BlockType {
	var out []BlockType
	for _, k := range blockKinds() {
		out = append(out, k.is)
	}
	return out
}

// Kind is a kind of block as the editor is told of it.
type Kind struct {
	Type    BlockType `json:"type"`
	Name    string    `json:"name"`
	About   string    `json:"about"`
	Fields  []Field   `json:"fields"`
	Items   []Field   `json:"items,omitempty"`
	Item    string    `json:"item,omitempty"`
	Columns bool      `json:"columns,omitempty"`
	Inside  bool      `json:"inside,omitempty"`
}

// Kinds tells all kinds, in the order in which the editor offers them.
func Kinds() []Kind {
	var out []Kind
	for _, k := range blockKinds() {
		out = append(out, Kind{k.is, k.name, k.about, append(slices.Clone(k.fields), hidden), k.items, k.item, k.columns, false})
	}
	return out
}

// Name is what people call the kind.
func (t BlockType) Name() string {
	if k := kindOf(t); k != nil {
		return k.name
	}
	return string(t)
}

// Lists tells whether what the kind shows is worked out for each reader.
func (t BlockType) Lists() bool { k := kindOf(t); return k != nil && k.lists }

// Get gives the value of a field of the block, or what it is without a choice.
func (b Block) Get(key string) string {
	if k := kindOf(b.Type); k != nil {
		for _, f := range k.fields {
			if f.Key == key {
				return f.Of(b.values())
			}
		}
	}
	return b.Set[key]
}

// values are the fields of the block, its text among them.
func (b Block) values() Values {
	if b.Text == "" {
		return b.Set
	}
	out := maps.Clone(b.Set)
	if out == nil {
		out = Values{}
	}
	out[ownText] = b.Text
	return out
}

// with gives the block with other values of its fields.
func (b Block) with(v Values) Block {
	b.Text = v[ownText]
	b.Set = maps.Clone(v)
	delete(b.Set, ownText)
	if len(b.Set) == 0 {
		b.Set = nil
	}
	return b
}

// IsEmpty tells whether a block shows nothing; one of no known kind shows nothing.
func (b Block) IsEmpty() bool {
	k := kindOf(b.Type)
	if k == nil {
		return true
	}
	if k.inside {
		return false
	}
	if k.columns {
		return !slices.ContainsFunc(b.Columns, func(col []Block) bool {
			return slices.ContainsFunc(col, func(in Block) bool { return !in.IsEmpty() })
		})
	}
	if from := b.Get("from"); k.item != "" && (from == "" || from == OwnTiles) {
		return !slices.ContainsFunc(b.Items, func(it Values) bool { return len(it) > 0 })
	}
	v, needs := b.values(), false
	for _, f := range k.fields {
		if !f.Required || !f.asked(k.fields, v) {
			continue
		}
		if needs = true; strings.TrimSpace(v[f.Key]) != "" {
			return false
		}
	}
	return needs
}

// clean gives the block without what its kind does not know.
func (k *blockKind) clean(b Block) Block {
	out := Block{Type: b.Type}.with(cleanedValues(append(slices.Clone(k.fields), hidden), b.values()))
	out.ID, out.From = cleanID(b.ID), cleanID(b.From)
	if k.item != "" {
		for _, it := range b.Items {
			if it = cleanedValues(k.items, it); it == nil {
				it = Values{}
			}
			out.Items = append(out.Items, it)
		}
	}
	if k.columns {
		for _, col := range b.Columns[:min(len(b.Columns), mostColumns)] {
			in := []Block{}
			for _, c := range cleanedBlocks(col) {
				if c.Type != b.Type { // no columns in columns
					in = append(in, c)
				}
			}
			out.Columns = append(out.Columns, in)
		}
	}
	if k.inside && len(b.Columns) > 0 {
		out.Columns = [][]Block{slices.DeleteFunc(cleanedBlocks(b.Columns[0]), func(c Block) bool { return slices.Contains(partTypes(), c.Type) })}
	}
	return out
}

func cleanedBlocks(blocks []Block) (out []Block) {
	for _, b := range blocks {
		if k := kindOf(b.Type); k != nil {
			out = append(out, k.clean(b))
		}
	}
	return out
}

// eachValue visits the values of the block's fields, then those of its items.
func (k *blockKind) eachValue(b Block, visit func(f Field, value string, all Values)) {
	own := b.values()
	for _, f := range k.fields {
		visit(f, own[f.Key], own)
	}
	for _, it := range b.Items {
		for _, f := range k.items {
			visit(f, it[f.Key], it)
		}
	}
}

// mapValues gives the block with every value of a field as f makes it; an item for which
// keep says no is left out.
func (k *blockKind) mapValues(b Block, change func(f Field, value string) string, keep func(Values) bool) Block {
	own := func(fields []Field, v Values) Values {
		if len(v) == 0 {
			return v
		}
		out := maps.Clone(v)
		for _, f := range fields {
			if was, ok := out[f.Key]; ok {
				if out[f.Key] = change(f, was); out[f.Key] == "" {
					delete(out, f.Key)
				}
			}
		}
		return out
	}
	out := b.with(own(k.fields, b.values()))
	out.Items = nil
	for _, it := range b.Items {
		if keep == nil || keep(it) {
			out.Items = append(out.Items, own(k.items, it))
		}
	}
	return out
}

// links gives the links of a block, in reading order. What only says from where a list is
// taken is none.
func (k *blockKind) links(b Block, parse Parse) (out []FoundLink) {
	k.eachValue(b, func(f Field, v string, all Values) {
		switch {
		case v == "":
		case f.Type == FieldProse:
			walk(parse(v), func(n Node) {
				if n.Kind == Link {
					out = append(out, FoundLink{To: n.To, Text: Plain(n.Children)})
				}
			})
		case f.Type == FieldLink:
			out = append(out, FoundLink{To: v, Text: all["title"], Tile: b.Type == Tiles})
		}
	})
	return out
}

// words gives all words of a block, for search and for lists; those of blocks in its
// columns are theirs.
func (k *blockKind) words(b Block, parse Parse) string {
	var out []string
	k.eachValue(b, func(f Field, v string, _ Values) {
		switch {
		case v == "":
		case f.Type == FieldProse:
			out = append(out, Plain(parse(v)))
		case typeOf(f.Type).words && f.Type != FieldChoice:
			out = append(out, v)
		}
	})
	return strings.Join(out, " ")
}

// written gives a block as somebody wrote it, for comparing. Where links lead is left out,
// and signs of lists are written in one way, since that is no difference to anybody who
// reads.
func (k *blockKind) written(b Block) string {
	var out []string
	own := b.values()
	for _, f := range k.fields {
		switch v := own[f.Key]; {
		case v == "" || f.Type == FieldKept:
		case f.Type == FieldProse:
			out = append(out, proseWritten(v))
		default:
			out = append(out, f.Label+": "+told(f, v))
		}
	}
	for _, it := range b.Items {
		var parts []string
		for _, f := range k.items {
			if v := it[f.Key]; v != "" && f.Type != FieldKept && (typeOf(f.Type).words || !typeOf(f.Type).links) && f.Type != FieldSymbol {
				parts = append(parts, told(f, v))
			}
		}
		out = append(out, "▪ "+strings.Join(parts, ": "))
	}
	for _, col := range b.Columns {
		for _, in := range col {
			out = append(out, in.written())
		}
	}
	return strings.Join(out, "\n")
}

// told is a value as it is compared: of a file its name.
func told(f Field, v string) string {
	switch f.Type {
	case FieldProse:
		return proseWritten(v)
	case FieldPicture, FieldFile:
		return v[strings.LastIndexByte(v, '/')+1:]
	case FieldSeveral:
		return strings.ReplaceAll(v, "\n", ", ")
	case FieldPage, FieldLink:
		if strings.HasPrefix(v, Scheme) {
			return "a page of the site"
		}
	}
	return v
}

func (b Block) written() string {
	if k := kindOf(b.Type); k != nil {
		return k.written(b)
	}
	return ""
}

// words gives all words of a block and of those in its columns.
func (b Block) words(parse Parse) string {
	var out []string
	b.each(func(in Block) {
		if k := kindOf(in.Type); k != nil {
			out = append(out, k.words(in, parse))
		}
	})
	return strings.TrimSpace(strings.Join(out, " "))
}

// each visits the block, then those in its columns.
func (b Block) each(visit func(Block)) {
	visit(b)
	for _, col := range b.Columns {
		for _, in := range col {
			in.each(visit)
		}
	}
}

// rewrite gives the block with other links to pages of the site.
func (k *blockKind) rewrite(b Block, to func(string) string) Block {
	return k.mapValues(b, func(f Field, v string) string {
		switch {
		case f.Type == FieldProse:
			return proseRewrite(v, to)
		case typeOf(f.Type).links && strings.HasPrefix(v, Scheme):
			return to(v)
		}
		return v
	}, nil)
}

// unlink gives the block without links to an entry. An item that is nothing without its
// link goes too.
func (k *blockKind) unlink(b Block, entry, title string) Block {
	leads := func(v string) bool { id, ok := FoundLink{To: v}.Entry(); return ok && id == entry }
	return k.mapValues(b, func(f Field, v string) string {
		switch {
		case f.Type == FieldProse:
			return unlinked(v, entry, title)
		case typeOf(f.Type).links && leads(v):
			return ""
		}
		return v
	}, func(it Values) bool {
		return !slices.ContainsFunc(k.items, func(f Field) bool { return f.Required && f.Type == FieldLink && leads(it[f.Key]) })
	})
}

func proseWritten(text string) string {
	return listSign.ReplaceAllString(writtenLink.ReplaceAllString(text, "]"), "$1- ")
}

func proseRewrite(text string, to func(string) string) string {
	text = pageLink.ReplaceAllStringFunc(text, to)
	return ownAnchor.ReplaceAllStringFunc(text, func(link string) string {
		at := strings.IndexByte(link, '#')
		return link[:at] + to(link[at:])
	})
}
