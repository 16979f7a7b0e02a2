package content_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/content"
)

func textBlock(id, text string) content.Block {
	return content.Block{ID: id, Type: content.Text, Text: text}
}

func inMain(blocks ...content.Block) content.Page {
	return content.Page{Slots: map[string][]content.Block{"main": blocks}}
}

func TestWhatATextTakesAway(t *testing.T) {
	long := "Turn the heap every second week, and keep it as moist as a wrung sponge."
	picture := content.Block{ID: "p", Type: content.Picture, Set: content.Values{"picture": "/files/a/b.png", "alt": "A heap"}}
	columns := func(in ...content.Block) content.Block {
		return content.Block{ID: "c", Type: content.Columns, Columns: [][]content.Block{in, {textBlock("r", "Right")}}}
	}
	for _, c := range []struct {
		name          string
		before, after content.Page
		takes         bool
	}{
		{"nothing", inMain(textBlock("a", long)), inMain(textBlock("a", long)), false},
		{"words are added", inMain(textBlock("a", long)), inMain(textBlock("a", "Mind: "+long+" Always.")), false},
		{"a word is corrected", inMain(textBlock("a", long)), inMain(textBlock("a", strings.Replace(long, "moist", "wet", 1))), false},
		{"five words go", inMain(textBlock("a", long)), inMain(textBlock("a", strings.TrimPrefix(long, "Turn the heap every second "))), false},
		{"six words go", inMain(textBlock("a", long)), inMain(textBlock("a", strings.TrimPrefix(long, "Turn the heap every second week, "))), true},
		{"all goes", inMain(textBlock("a", long)), inMain(textBlock("a", "")), true},
		{"all is replaced", inMain(textBlock("a", long)), inMain(textBlock("a", "Ask Gwen what to do with it, since she has done it for years.")), true},
		{"one block of one word goes", inMain(textBlock("a", long), textBlock("b", "Ask.")), inMain(textBlock("a", long)), true},
		{"an empty block goes", inMain(textBlock("a", long), textBlock("b", "")), inMain(textBlock("a", long)), false},
		{"a picture goes", inMain(textBlock("a", long), picture), inMain(textBlock("a", long)), true},
		{"a block moves to another slot", inMain(textBlock("a", long)), content.Page{Slots: map[string][]content.Block{"main": {}, "side": {textBlock("a", long)}}}, false},
		{"a block moves into columns", inMain(picture, columns()), inMain(columns(picture)), false},
		{"a picture goes from columns", inMain(columns(picture)), inMain(columns()), true},
		{"a text is cut in two", inMain(textBlock("a", long)), inMain(textBlock("a", "Turn the heap every second week,"), textBlock("b", "and keep it as moist as a wrung sponge.")), false},
		{"sentences change places", inMain(textBlock("a", "One two three four. Five six seven eight.")), inMain(textBlock("a", "Five six seven eight. One two three four.")), false},
		{"a field of many words goes", content.Page{Fields: map[string]string{"summary": long}}, content.Page{}, true},
	} {
		require.Equal(t, c.takes, content.TakesAway(c.before, c.after), c.name)
	}
}

// Of a text from which words go and to which none come, it is told from the sixth on, wherever they stood.
func TestWordsThatAreTakenAwayAreCounted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := make([]string, 40)
		for i := range words {
			words[i] = fmt.Sprint("w", i)
		}
		drop := rapid.SliceOfNDistinct(rapid.IntRange(0, 39), 0, 12, rapid.ID[int]).Draw(t, "drop")
		var left []string
		for i, w := range words {
			if !slices.Contains(drop, i) {
				left = append(left, w)
			}
		}
		got := content.TakesAway(inMain(textBlock("a", strings.Join(words, " "))), inMain(textBlock("a", strings.Join(left, " "))))
		require.Equal(t, len(drop) > 5, got)
	})
}
