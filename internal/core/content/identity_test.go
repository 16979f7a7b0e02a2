package content_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/content"
	"candlepath/internal/core/textdiff"
)

func texts(of ...string) content.Page { // "id: words"
	p := content.Page{Slots: map[string][]content.Block{}}
	for _, s := range of {
		id, words, _ := strings.Cut(s, ": ")
		slot, id, ok := strings.Cut(id, "/")
		if !ok {
			slot, id = "main", slot
		}
		p.Slots[slot] = append(p.Slots[slot], content.Block{ID: id, Type: content.Text, Text: words})
	}
	return p
}

func TestIdentified(t *testing.T) {
	p := content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: "a"}, {ID: "x", Type: content.Text, Text: "b"}, {ID: "x", Type: content.Text, Text: "b"}}, "aside": {{Type: content.Note, Text: "c"}}}}
	got := content.Identified(p, "e1")
	require.Empty(t, p.Slots["main"][0].ID, "the page that was given stays as it is")
	require.Equal(t, got, content.Identified(p, "e1"), "the same whenever it is read")
	require.Equal(t, got, content.Identified(got, "e1"), "twice equals once")
	require.NotEqual(t, got.Slots["main"][0].ID, content.Identified(p, "e2").Slots["main"][0].ID)
	copied := got.Slots["main"][2]
	require.Equal(t, "x", copied.From)
	require.NotEqual(t, "x", copied.ID)
	require.True(t, content.Same(p, got))
	clean := content.Clean(content.Page{Slots: map[string][]content.Block{"main": {{ID: "<b>", Type: content.Text, Text: "a"}, {ID: "b-1", From: "b-0", Type: content.Text, Text: "b"}}}})
	require.Equal(t, []string{"", "b-1", "b-0"}, []string{clean.Slots["main"][0].ID, clean.Slots["main"][1].ID, clean.Slots["main"][1].From})
}

func TestChanges(t *testing.T) {
	told := func(before, after content.Page) (out []string) {
		for _, c := range content.Changes(before, after) {
			words := ""
			for _, r := range c.Runs {
				words += map[textdiff.Kind]string{textdiff.Same: "", textdiff.Gone: "-", textdiff.Come: "+"}[r.Kind] + r.Text
			}
			out = append(out, string(c.What)+" "+c.Slot+"/"+c.ID+" "+words)
		}
		return out
	}
	base := texts("a: The pond is cold.", "b: Bring boots.", "c: Ask Gwen.")
	require.Empty(t, told(base, base))
	require.Equal(t, []string{"changed main/b Bring -boots.+gloves."}, told(base, texts("a: The pond is cold.", "b: Bring gloves.", "c: Ask Gwen.")))
	require.Equal(t, []string{"changed main/a - Boots\n- -Gloves+Hats"}, told(texts("a: - Boots\n- Gloves"), texts("a: * Boots\n* Hats")), "signs of lists are no difference")
	require.Empty(t, told(texts("a: - Boots"), texts("a: * Boots")))
	require.Equal(t, []string{"moved main/c Ask Gwen."}, told(base, texts("c: Ask Gwen.", "a: The pond is cold.", "b: Bring boots.")), "one moved, not two")
	require.Equal(t, []string{"moved aside/b Bring boots."}, told(base, texts("aside/b: Bring boots.", "a: The pond is cold.", "c: Ask Gwen.")))
	require.Equal(t, []string{"came main/d +New.", "went main/b -Bring boots."}, told(base, texts("a: The pond is cold.", "d: New.", "c: Ask Gwen.")))
	require.Equal(t, []string{"changed main/z The pond is -cold.+warm."}, told(base, texts("z: The pond is warm.", "b: Bring boots.", "c: Ask Gwen.")), "another id, and nearly the same words")
}

// What is the same in both is told of no block, every other block is told of once, and
// comparing the other way round tells of as many.
func TestChangesBothWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		page := func(name string) content.Page {
			p := content.Page{Slots: map[string][]content.Block{}}
			for _, slot := range []string{"aside", "main"} {
				for range rapid.IntRange(0, 5).Draw(t, name) {
					p.Slots[slot] = append(p.Slots[slot], content.Block{ID: rapid.SampledFrom([]string{"", "a", "b", "c"}).Draw(t, "id"), Type: content.Text, Text: rapid.SampledFrom([]string{"one two", "one three", "four"}).Draw(t, "text")})
				}
			}
			return content.Identified(p, name)
		}
		before, after := page("before"), page("after")
		require.Empty(t, content.Changes(after, after))
		seen := map[string]int{}
		for _, c := range content.Changes(before, after) {
			seen[string(c.What[0:2])+c.ID]++
			require.Equal(t, 1, seen[string(c.What[0:2])+c.ID])
		}
		count := func(list []content.BlockChange, what content.BlockChangeKind) (n int) {
			for _, c := range list {
				if c.What == what {
					n++
				}
			}
			return n
		}
		there, back := content.Changes(before, after), content.Changes(after, before)
		require.Equal(t, len(blocksOf(after))-count(there, content.BlockCame), len(blocksOf(before))-count(there, content.BlockWent), "as many are matched on either side")
		require.Equal(t, len(blocksOf(before))-count(back, content.BlockCame), len(blocksOf(after))-count(back, content.BlockWent))
	})
}

func blocksOf(p content.Page) (all []content.Block) {
	for _, blocks := range p.Slots {
		all = append(all, blocks...)
	}
	return all
}
