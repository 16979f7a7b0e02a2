package content

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var twoSlots = Template{Parts: []Part{{Kind: Slot, Key: "main"}, {Kind: Slot, Key: "related"}}}

func same(address string) string { return address }

// Pages may be written with their addresses.
func TestPlainTextWithAddresses(t *testing.T) {
	text := "::::: slot main\n\nSee [a](/a#part), [b](</b>) and [c](/c).\n\n::: below\nof: /a\n:::\n\n::: tiles\n- to: /b#part\n:::\n"
	got, problems := twoSlots.ReadPlain(text, Page{}, func(address string) string {
		if address == "/c" {
			return address
		}
		return "page:" + address[1:]
	})
	require.Empty(t, problems)
	require.Equal(t, "See [a](page:a#part), [b](<page:b>) and [c](/c).", got.Slots["main"][0].Text)
	require.Equal(t, "page:a", got.Slots["main"][1].Get("of"))
	require.Equal(t, "page:b#part", got.Slots["main"][2].Items[0]["to"])
}

func TestPlainText(t *testing.T) {
	p := Page{Fields: map[string]string{"summary": "s"}, Slots: map[string][]Block{
		"main": {
			{ID: "a", Type: Text, Text: "## Ponds\n\nDeep."},
			{ID: "b", Type: Text, Text: "Another text of some length."},
			{ID: "c", Type: Note, Text: "Mind the step.", Set: Values{"tone": "warning", "hide": "phones\ndesks"}},
			{ID: "d", Type: Questions, Items: []Values{{"title": "Why?", "text": "Because.\n\n- of wind"}, {}}},
			{ID: "e", Type: Columns, Columns: [][]Block{{{ID: "f", Type: Text, Text: "Left"}}, {{ID: "g", Type: Note, Text: "Right"}}}},
			{ID: "h", Type: Divider},
		},
		"related": {{ID: "i", Type: Tiles, Set: Values{"columns": "2"}, Items: []Values{{"to": "page:x", "title": "X"}}}},
		"unseen":  {{ID: "z", Type: Text, Text: "kept"}},
	}}
	want := `::::: slot main

## Ponds

Deep.

::: text
Another text of some length.
:::

::: note
tone: warning
hide: phones, desks

Mind the step.
:::

::: questions
- title: Why?
  text:
    Because.

    - of wind
-
:::

:::: columns
Left
:::: column
::: note
Right
:::
::::

::: divider
:::

::::: slot related

::: tiles
columns: 2

- to: page:x
  title: X
:::

`
	require.Equal(t, want, twoSlots.Plain(p))
	back, problems := twoSlots.ReadPlain(want, p, same)
	require.Empty(t, problems)
	require.True(t, Same(p, back))
	require.Equal(t, p.Slots["main"][0].ID, back.Slots["main"][0].ID, "a block stays the one that it was")
	require.Equal(t, "i", back.Slots["related"][0].ID)
	again, problems := twoSlots.ReadPlain(strings.Replace(want, "Another text of some length.", "Another text of a greater length.", 1), p, same)
	require.Empty(t, problems)
	require.Equal(t, "b", again.Slots["main"][1].ID, "also where its words were changed")
}

func TestPlainTextThatCannotBeRead(t *testing.T) {
	for text, want := range map[string]PlainProblem{
		"Hello":                                           {1, "Text before the first line"},
		"::::: slot nowhere\n":                            {1, `no slot called "nowhere"`},
		"::::: slot main\n::: banner":                     {2, `no kind of block called "banner"`},
		"::::: slot main\n\n::: note\nMind":               {3, "no line of colons at its end"},
		"::::: slot main\n:::: columns\nLeft":             {2, "no line of colons at its end"},
		"::::: slot main\n::: divider\ncolour: red\n:::":  {3, "no such setting and no text"},
		"::::: slot main\n::: tiles\nto: page:a\n:::":     {3, "begins with “- ”"},
		"::::: slot main\n::: tiles\n- colour: red\n:::":  {3, "no such setting"},
		"::::: slot main\n::: recent\ncount: 3\nx\n:::\n": {4, "no such setting and no text"},
	} {
		_, problems := twoSlots.ReadPlain(text, Page{}, same)
		require.NotEmpty(t, problems, text)
		require.Equal(t, want.Line, problems[0].Line, text)
		require.Contains(t, problems[0].Text, want.Text, text)
	}
	got, problems := twoSlots.ReadPlain("::::: slot main\n```\n::: note\n```\n", Page{}, same)
	require.Empty(t, problems, "in code there are no fences")
	require.Equal(t, "```\n::: note\n```", got.Slots["main"][0].Text)
}

// Whatever stands on a page comes back from its plain text as it was.
func TestPlainTextLosesNothing(t *testing.T) {
	lines := []string{"", "Deep.", "::: note", ":::: x", ":::", "- item", "tone: tip", "## Ponds", "    code", "```", ":::::: slot main", "::::: slot main", "1. one", "  to: a"}
	rapid.Check(t, func(t *rapid.T) {
		words := func(label string) string {
			return strings.Trim(strings.Join(rapid.SliceOfN(rapid.SampledFrom(lines), 0, 4).Draw(t, label), "\n"), "\n")
		}
		var block func(depth int) Block
		block = func(depth int) Block {
			k := kindOf(rapid.SampledFrom(BlockTypes()).Draw(t, "kind"))
			if depth > 0 && k.columns {
				k = kindOf(Note)
			}
			b := filledBlock(k)
			if k.hasText() {
				b.Text = words("text")
			}
			for i := range b.Items {
				if v := words("item"); k.items[0].Type == FieldProse || k.is == Questions {
					b.Items[i][ownText] = v
				}
			}
			if k.columns {
				for i := range b.Columns {
					b.Columns[i] = []Block{}
					for range rapid.IntRange(0, 2).Draw(t, "n") {
						b.Columns[i] = append(b.Columns[i], block(depth+1))
					}
				}
			}
			return b
		}
		p := Page{Fields: map[string]string{}, Slots: map[string][]Block{}}
		for _, slot := range []string{"main", "related"} {
			for range rapid.IntRange(0, 4).Draw(t, "n") {
				p.Slots[slot] = append(p.Slots[slot], block(0))
			}
		}
		p = Clean(p)
		text := twoSlots.Plain(p)
		got, problems := twoSlots.ReadPlain(text, p, same)
		require.Empty(t, problems, text)
		require.True(t, Same(p, got), "%s\n%s", text, twoSlots.Plain(got))
	})
}
