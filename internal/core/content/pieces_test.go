package content_test

import (
	"fmt"
	"strings"
	"testing"

	"candlepath/internal/core/content"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// bare parses a text as if it had nothing but words and headings.
func bare(text string) []content.Node {
	return []content.Node{{Kind: content.Words, Text: strings.TrimLeft(text, "# ")}}
}

var guide = content.Template{Key: "guide", Parts: []content.Part{
	{Kind: content.Slot, Key: "main"},
	{Kind: content.Slot, Key: "links", Takes: []content.BlockType{content.Tiles}},
}}

const heaps = "Three heaps.\n\n## Turning\n\nEvery Monday.\n\n### With the fork\n\nSlowly.\n\n```\n## not a heading\n```\n\n## Watering\n\nWhen dry."

func heapPage() content.Page {
	return content.Page{Fields: map[string]string{"summary": "Heaps"}, Slots: map[string][]content.Block{
		"main":  {{Type: content.Text, Text: heaps}, {Type: content.Note, Set: content.Values{"tone": "tip"}, Text: "Wear gloves."}},
		"links": {{Type: content.Tiles, Items: []content.Values{{"to": "page:x", "title": "Forks"}}}},
		"old":   text("of another template"),
	}}
}

func TestPieces(t *testing.T) {
	var got []string
	for _, p := range content.Pieces(guide, heapPage(), bare) {
		got = append(got, fmt.Sprintf("%s/%d %d %q %s", p.Slot, p.Block, p.Level, p.Heading, p.Begins))
	}
	require.Equal(t, []string{
		`main/0 0 "" Three heaps.`, `main/0 2 "Turning" Every Monday.`, "main/0 3 \"With the fork\" Slowly. ``` ## not a heading ```",
		`main/0 2 "Watering" When dry.`, `main/1 0 "" Wear gloves.`, `links/0 0 "" Forks`,
	}, got)
}

func TestSplit(t *testing.T) {
	p := heapPage()
	pieces := content.Pieces(guide, p, bare)
	goes := content.WithBelow(pieces, []int{1, 4, -1, 99})
	require.Equal(t, []int{1, 2, 4}, goes, "what stands below a heading goes along")
	stay, leave, title := content.Split(p, pieces, goes)
	require.Equal(t, "Turning", title)
	require.Equal(t, content.Page{Fields: p.Fields, Slots: map[string][]content.Block{
		"main": text("Three heaps.\n\n## Watering\n\nWhen dry."), "links": p.Slots["links"], "old": p.Slots["old"],
	}}, stay)
	require.Equal(t, content.Page{Fields: map[string]string{}, Slots: map[string][]content.Block{
		"main": {{Type: content.Text, Text: "Every Monday.\n\n## With the fork\n\nSlowly.\n\n```\n## not a heading\n```"}, {Type: content.Note, Set: content.Values{"tone": "tip"}, Text: "Wear gloves."}},
	}}, leave)

	all := make([]int, len(pieces))
	for i := range pieces {
		all[i] = i
	}
	stay, leave, title = content.Split(p, pieces, all)
	require.Empty(t, title, "it does not begin with a heading")
	require.Equal(t, p.Slots["main"], leave.Slots["main"])
	require.Empty(t, stay.Slots["main"])
}

// Whatever goes, no line of text is lost or doubled, but for the heading that
// becomes the title.
func TestSplittingLosesNoLine(t *testing.T) {
	line := rapid.SampledFrom([]string{"words", "## A", "### B", "#### C", "", "```", "~~~", "    ## code", "####### none", "- ## in a list", "##", "## A ##"})
	rapid.Check(t, func(t *rapid.T) {
		p := content.Page{Slots: map[string][]content.Block{"main": text(strings.Join(rapid.SliceOfN(line, 1, 14).Draw(t, "lines"), "\n"))}}
		pieces := content.Pieces(guide, p, bare)
		if len(pieces) == 0 {
			return
		}
		goes := content.WithBelow(pieces, rapid.SliceOfN(rapid.IntRange(0, len(pieces)-1), 1, 4).Draw(t, "goes"))
		stay, leave, _ := content.Split(p, pieces, goes)
		count := func(pages ...content.Page) map[string]int {
			n := map[string]int{}
			for _, p := range pages {
				for _, b := range p.Slots["main"] {
					for l := range strings.Lines(b.Text) {
						if l = strings.Trim(l, "# \n"); l != "" {
							n[l]++
						}
					}
				}
			}
			return n
		}
		want := count(p)
		if h := pieces[goes[0]]; h.Level > 0 {
			if first := strings.Trim(h.Heading, "# "); first != "" {
				if want[first]--; want[first] == 0 {
					delete(want, first)
				}
			}
		}
		require.Equal(t, want, count(stay, leave))
	})
}

func TestMerged(t *testing.T) {
	own, other := heapPage(), content.Page{Slots: map[string][]content.Block{
		"main": text("More heaps."), "steps": text("Step one"), "links": {{Type: content.Tiles, Items: []content.Values{{"to": "/x", "title": "X"}}}},
	}}
	got := content.Merged(guide, own, other, []content.Take{{"main", 1}, {"links", 0}}, []content.Take{{"main", 0}, {"steps", 0}, {"links", 0}, {"links", 7}, {"none", 0}})
	require.Equal(t, map[string][]content.Block{
		"main":  {own.Slots["main"][1], {Type: content.Text, Text: "More heaps."}, {Type: content.Text, Text: "Step one"}},
		"links": {own.Slots["links"][0], other.Slots["links"][0]},
		"old":   own.Slots["old"],
	}, got.Slots)
	require.Equal(t, own.Fields, got.Fields)

	tilesOnly := content.Template{Parts: []content.Part{{Kind: content.Slot, Key: "board", Takes: []content.BlockType{content.Tiles}}}}
	got = content.Merged(tilesOnly, content.Page{}, other, nil, []content.Take{{"main", 0}, {"links", 0}})
	require.Equal(t, map[string][]content.Block{"board": other.Slots["links"]}, got.Slots, "no slot takes text")
}

func TestRewrittenLinks(t *testing.T) {
	p := content.Page{Slots: map[string][]content.Block{"main": {
		{Type: content.Text, Text: `[a](page:one) [b](page:one#turn) [c](<page:two#x> "t") [d](#turn) [e](/page:x) page:one; #turn [f](#)`},
		{Type: content.Tiles, Items: []content.Values{{"to": "page:one"}, {"to": "page:one#turn"}, {"to": "https://quillmere.example/#turn"}}},
	}}}
	got := content.Relinked(p, map[string]string{"one": "ONE"})
	require.Equal(t, `[a](page:ONE) [b](page:ONE#turn) [c](<page:two#x> "t") [d](#turn) [e](/page:x) page:ONE; #turn [f](#)`, got.Slots["main"][0].Text)
	require.Equal(t, []content.Values{{"to": "page:ONE"}, {"to": "page:ONE#turn"}, {"to": "https://quillmere.example/#turn"}}, got.Slots["main"][1].Items)
	got = content.Rewritten(p, func(l string) string { return strings.Replace(l, "#turn", "#water", 1) })
	require.Contains(t, got.Slots["main"][0].Text, "[b](page:one#water)")
	require.Contains(t, got.Slots["main"][0].Text, "[d](#water)")
	require.True(t, content.Same(p, content.Rewritten(p, func(l string) string { return l })))
	require.False(t, content.Same(p, got))
	id, ok := content.FoundLink{To: "page:one#turn"}.Entry()
	require.True(t, ok)
	require.Equal(t, "one", id)
}
