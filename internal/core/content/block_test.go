package content

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// filledBlock is a block of a kind with something in every field that can hold a link or
// words, all about page a.
func filledBlock(k *blockKind) Block {
	value := func(f Field) string {
		switch f.Type {
		case FieldProse:
			return "[Ponds](page:a)"
		case FieldLink, FieldPage:
			return "page:a"
		case FieldChoice, FieldSpot:
			return f.Choices[0]
		case FieldNumber:
			return "2"
		case FieldYes:
			return Yes
		case FieldSymbol:
			return "leaf"
		case FieldPicture, FieldFile:
			return "/files/00112233445566778899aabbccddeeff/ponds.png"
		}
		return "Ponds"
	}
	fill := func(fields []Field) Values {
		v := Values{}
		for _, f := range fields {
			v[f.Key] = value(f)
		}
		return v
	}
	b := Block{Type: k.is}.with(fill(k.fields))
	if k.item != "" {
		b.Items = []Values{fill(k.items)}
	}
	if k.columns {
		b.Columns = [][]Block{{{Type: Text, Text: "[Ponds](page:a)"}}, {{Type: k.is}}}
	}
	return b
}

// Every kind of block has a whole row: it cleans, finds and rewrites its links, and gives
// its words, as its fields say.
func TestTheTableOfBlockKindsIsComplete(t *testing.T) {
	parse := func(text string) []Node {
		return []Node{{Kind: Link, To: "page:a", Children: []Node{{Kind: Words, Text: text}}}}
	}
	for _, kind := range BlockTypes() {
		k := kindOf(kind)
		require.NotEmpty(t, k.about, kind)
		require.NotEqual(t, string(kind), kind.Name())
		keys := map[string]bool{}
		for _, f := range append(slices.Clone(k.fields), k.items...) {
			require.NotEqual(t, f.Key, typeOf(f.Type).name, "%s has a type", f.Key)
			require.NotEmpty(t, f.Label, "%s of %s", f.Key, kind)
			require.Equal(t, f.Type == FieldChoice || f.Type == FieldSeveral || f.Type == FieldSpot, len(f.Choices) > 0, "%s of %s", f.Key, kind)
		}
		for _, f := range k.fields {
			require.False(t, keys[f.Key], "%s twice in %s", f.Key, kind)
			keys[f.Key] = true
		}
		b := filledBlock(k)
		require.False(t, b.IsEmpty(), kind)
		clean := k.clean(b)
		require.Equal(t, clean, k.clean(clean), "cleaning %s twice equals once", kind)
		page := Page{Slots: map[string][]Block{"main": {clean}}}
		tpl := Template{Parts: []Part{{Kind: Slot, Key: "main"}}}
		links := Links(tpl, page, parse)
		moved := Rewritten(page, func(string) string { return "page:b" })
		require.Equal(t, len(links) == 0 && len(Named(page)) == 0, Same(page, moved), "%s follows its links", kind)
		require.NotContains(t, mustJSON(t, moved), "page:a", kind)
		require.NotContains(t, mustJSON(t, Unlinked(page, "a", "Ponds")), "page:a", kind)
		require.NotContains(t, clean.written(), "page:a", "%s: people compare words", kind)
		if k.item != "" || len(k.fields) > 0 && k.fields[0].Key == ownText {
			require.Contains(t, clean.words(parse), "Ponds", kind)
			require.Contains(t, clean.written(), "Ponds", kind)
		}
	}
	require.True(t, Block{Type: "unknown", Text: "x"}.IsEmpty())
}

func mustJSON(t *testing.T, v any) string {
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

func TestEmptyBlocks(t *testing.T) {
	for name, c := range map[string]struct {
		b     Block
		empty bool
	}{
		"a text of blanks":             {Block{Type: Text, Text: " \n"}, true},
		"a divider":                    {Block{Type: Divider}, false},
		"a board without tiles":        {Block{Type: Tiles}, true},
		"a board of a topic":           {Block{Type: Tiles, Set: Values{"from": FromTopic, "topic": "Safety"}}, false},
		"a board of no topic":          {Block{Type: Tiles, Set: Values{"from": FromTopic}}, true},
		"a board of what is below":     {Block{Type: Tiles, Set: Values{"from": FromBelow}}, false},
		"a child list":                 {Block{Type: Below}, false},
		"a topic list without a topic": {Block{Type: TopicList}, true},
		"a contact, no one":            {Block{Type: Contact, Set: Values{"line": "at nine"}}, true},
		"a contact, a group":           {Block{Type: Contact, Set: Values{"group": "Grounds team"}}, false},
		"a picture without one":        {Block{Type: Picture, Set: Values{"caption": "The ponds"}}, true},
		"empty columns":                {Block{Type: Columns, Columns: [][]Block{{{Type: Text}}, {}}}, true},
		"columns":                      {Block{Type: Columns, Columns: [][]Block{{}, {{Type: Text, Text: "x"}}}}, false},
	} {
		require.Equal(t, c.empty, c.b.IsEmpty(), name)
	}
}

// A value that a field does not understand is dropped; the usual one is not kept.
func TestCleanFields(t *testing.T) {
	for _, c := range []struct {
		kind     BlockType
		set      Values
		want     Values
		get, got string
	}{
		{Note, Values{"tone": "loud", "onclick": "x"}, nil, "tone", "plain"},
		{Note, Values{"tone": "plain"}, nil, "tone", "plain"},
		{Newest, Values{"count": "51"}, nil, "count", "5"},
		{Newest, Values{"count": "7", "of": "javascript:1"}, Values{"count": "7"}, "count", "7"},
		{Picture, Values{"picture": "/files/../x", "decorative": "on"}, nil, "width", "text"},
		{Picture, Values{"hide": "phones\ndesks"}, Values{"hide": "phones\ndesks"}, "hide", "phones\ndesks"},
		{Picture, Values{"hide": "phones\ntiny"}, nil, "hide", ""},
		{Below, Values{"of": "page:a"}, Values{"of": "page:a"}, "depth", "1"},
	} {
		got := kindOf(c.kind).clean(Block{Type: c.kind, Set: c.set})
		require.Equal(t, c.want, got.Set, "%s %v", c.kind, c.set)
		require.Equal(t, c.got, got.Get(c.get))
	}
}

// Texts that were written when a tone and tiles had members of their own are read as what
// they are now.
func TestBlocksOfBeforeAreRead(t *testing.T) {
	var b []Block
	require.NoError(t, json.Unmarshal([]byte(`[{"type":"note","text":"Mind","tone":"tip"},{"type":"tiles","tiles":[{"to":"page:a","title":"A","line":"","symbol":"leaf"}]},
		{"type":"columns","columns":[[{"type":"note","text":"In","tone":"warning"}]]}]`), &b))
	require.Equal(t, "tip", b[0].Get("tone"))
	require.Equal(t, []Values{{"to": "page:a", "title": "A", "symbol": "leaf"}}, kindOf(Tiles).clean(b[1]).Items)
	require.Equal(t, "warning", b[2].Columns[0][0].Get("tone"))
	var again []Block
	require.NoError(t, json.Unmarshal([]byte(mustJSON(t, b)), &again))
	require.Equal(t, b, again)
}
