package content_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
)

// Files are found wherever a page names them, and another one takes their place there.
func TestFilesOfAPage(t *testing.T) {
	at := func(c string) string { return "/files/" + strings.Repeat(c, 32) + "/rota.csv" }
	p := content.Page{
		Fields: map[string]string{"form": at("a"), "risk": "low"},
		Slots: map[string][]content.Block{"main": {
			{Type: content.Text, Text: "See [the rota](" + at("b") + ")."},
			{Type: content.Picture, Set: content.Values{"picture": at("c")}},
			{Type: content.Columns, Columns: [][]content.Block{{{Type: content.Table, Text: "| a |\n| - |", Set: content.Values{"file": at("a")}}}}},
		}},
	}
	var ids []string
	for _, c := range []string{"a", "b", "c"} {
		ids = append(ids, strings.Repeat(c, 32))
	}
	require.Equal(t, ids, content.FilesOf(p))
	now := content.Refiled(p, ids[0], at("d"), "| b |\n| - |")
	require.Equal(t, []string{ids[1], ids[2], strings.Repeat("d", 32)}, content.FilesOf(now))
	require.Equal(t, "| b |\n| - |", now.Slots["main"][2].Columns[0][0].Text)
	require.Equal(t, ids, content.FilesOf(p), "what it was made from stays")
}
