package markup_test

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/content"
	"candlepath/internal/markup"
)

var headingID = regexp.MustCompile(`<h[2-6] id="([^"]+)"`)

// A page that is laid out anew around what its slots hold is the page as it would be rendered,
// but that headings of its texts keep their addresses.
func TestLaidOutAnewIsAsRendered(t *testing.T) {
	m := markup.New()
	inTexts := rapid.SampledFrom([]string{"", "Lift the pot.", "## Feel\n\nThe soil.", "## Feel\n\n### Decide\n\n- early\n- late", "See [ponds](page:p)."})
	around := rapid.SampledFrom([]string{"Ask.", "## Before you start\n\nAsk.", "## Feel\n\nFirst.", "[Rules](/rules)"})
	template := rapid.Custom(func(t *rapid.T) (out content.Template) {
		for _, key := range rapid.Permutation([]string{"a", "b", "c"}).Draw(t, "slots")[:rapid.IntRange(1, 3).Draw(t, "how many")] {
			if rapid.Bool().Draw(t, "fixed") {
				out.Parts = append(out.Parts, content.Part{Kind: content.Fixed, Content: []content.Block{{Type: content.Text, Text: around.Draw(t, "words")}}})
			}
			out.Parts = append(out.Parts, content.Part{Kind: content.Slot, Key: key, Label: rapid.SampledFrom([]string{"", "Steps", "Feel"}).Draw(t, "label"), Side: rapid.Bool().Draw(t, "side")})
		}
		return out
	})
	none := markup.Around{Person: func(string) string { return "" }}
	rapid.Check(t, func(t *rapid.T) {
		p := content.Page{Slots: map[string][]content.Block{}}
		for _, key := range []string{"a", "b", "c"} {
			for range rapid.IntRange(0, 2).Draw(t, "blocks") {
				p.Slots[key] = append(p.Slots[key], content.Block{Type: content.Text, Text: inTexts.Draw(t, "text")})
			}
		}
		before, err := m.Article(template.Draw(t, "before"), p, none)
		require.NoError(t, err)
		after := template.Draw(t, "after")
		fresh, err := m.Article(after, p, none)
		require.NoError(t, err)
		anew, err := m.Relaid(after, p, none, m.Kept(before.HTML, before.Headings, before.Slots))
		require.NoError(t, err)

		noIDs := func(html string) string { return headingID.ReplaceAllString(html, "<h") }
		require.Equal(t, noIDs(fresh.HTML), noIDs(anew.HTML))
		require.Len(t, anew.Headings, len(fresh.Headings))
		var ids []string
		for _, found := range headingID.FindAllStringSubmatch(anew.HTML, -1) {
			ids = append(ids, found[1])
		}
		for i, h := range anew.Headings {
			require.Equal(t, fresh.Headings[i].Text, h.Text)
			require.Equal(t, h.ID, ids[i], "headings are told in the order in which they stand")
		}
		seen := map[string]bool{}
		for _, id := range ids {
			require.False(t, seen[id], "two headings have the address %s", id)
			seen[id] = true
		}
		for _, s := range before.Slots.List {
			for _, now := range anew.Slots.List {
				if now.Slot == s.Slot {
					require.Equal(t, before.HTML[s.From:s.To], anew.HTML[now.From:now.To], "addresses in it stay")
				}
			}
		}
	})
}

func TestWhatAnotherBuildRenderedIsRenderedAgain(t *testing.T) {
	m := markup.New()
	slots := markup.Slots{List: []markup.SlotSpan{{Slot: "a", From: 0, To: 3}}}
	require.Len(t, m.Kept("abc", nil, slots), 1)
	for name, s := range map[string]markup.Slots{
		"another build":    {By: "older", List: slots.List},
		"beyond the page":  {List: []markup.SlotSpan{{Slot: "a", From: 0, To: 4}}},
		"the wrong way":    {List: []markup.SlotSpan{{Slot: "a", From: 2, To: 1}}},
		"no such headings": {List: []markup.SlotSpan{{Slot: "a", From: 0, To: 3, ToHead: 1}}},
	} {
		require.Empty(t, m.Kept("abc", nil, s), name)
	}
}
