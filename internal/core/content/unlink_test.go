package content_test

import (
	"testing"

	"candlepath/internal/core/content"

	"github.com/stretchr/testify/require"
)

func TestLinksBecomePlainWords(t *testing.T) {
	for text, want := range map[string]string{
		"See [the pond](page:p1) today":                                   "See the pond today",
		"See [the **deep** pond](page:p1#depth \"now\").":                 "See the **deep** pond.",
		"[one](page:p1) and [two](page:p2), [three](<page:p1>)":           "one and [two](page:p2), three",
		"[a \\] bracket [inside]](page:p1)":                               "a \\] bracket [inside]",
		"[](page:p1) and <page:p1>":                                       "Ponds and Ponds",
		"[longer](page:p12) stays":                                        "[longer](page:p12) stays",
		"See [the pond][p] or [p].\n\n[p]: page:p1 \"x\"\n[q]: page:p2\n": "See the pond or p.\n\n[q]: page:p2\n",
		"(page:p1) is no link":                                            "(page:p1) is no link",
		"](page:p1)":                                                      "](page:p1)",
	} {
		got := content.Unlinked(content.Page{Slots: map[string][]content.Block{"main": {{Type: content.Text, Text: text}}}}, "p1", "Ponds")
		require.Equal(t, want, got.Slots["main"][0].Text, text)
	}
	board := []content.Block{{Type: content.Tiles, Items: []content.Values{{"to": "page:p1#x"}, {"to": "page:p2"}}}}
	before := content.Page{Slots: map[string][]content.Block{"main": board}}
	require.Equal(t, []content.Values{{"to": "page:p2"}}, content.Unlinked(before, "p1", "").Slots["main"][0].Items)
	require.Len(t, before.Slots["main"][0].Items, 2, "what was given stays")
}
