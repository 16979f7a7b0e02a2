package content_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
)

func TestTextsThatCostTooMuch(t *testing.T) {
	fill := func(s string, bytes int) string { return strings.Repeat(s, bytes/len(s)) }
	const kB = 1000
	for name, c := range map[string]struct {
		text string
		line int // 0: it is parsed
	}{
		"nothing":                          {"", 0},
		"prose with links":                 {fill("Some words, [a link](page:x) and *more* of them.\n\n", 200*kB), 0},
		"one paragraph of prose":           {fill("Some words, [a link](page:x) and *more* of them. ", 40*kB), 0},
		"a long list":                      {fill("- water the beds\n", 200*kB), 0},
		"lists in lists":                   {fill("- a\n  - b\n    - c\n\n", 200*kB), 0},
		"a table with two links a row":     {"|a|b|\n|-|-|\n" + fill("|[Pond levels](page:01a23189-117a-7d62-aebf-a4359f2c022f)|[*of May*](/grounds/may)|\n", 200*kB), 0},
		"a list of links":                  {fill("- [Opening hours](page:01a23189-117a-7d62-aebf-a4359f2c022f)\n", 500*kB), 0},
		"quotes in a quote":                {fill("> > said\n>\n", 100*kB), 0},
		"some definitions of links":        {fill("[a]: /x\n", 8*kB), 0},
		"code with brackets":               {"Code:\n\n```\n" + fill("a[b[c]]=*d ", 200*kB) + "\n```\n", 0},
		"images that never end":            {"Fine.\n\n" + fill("![a](", 80*kB), 3},
		"delimiters":                       {fill("*a_ ", 80*kB), 1},
		"links in links":                   {strings.Repeat("[", 10*kB) + "a" + strings.Repeat("](x)", 10*kB), 1},
		"many definitions":                 {fill("[a]: /x\n", 400*kB), 1},
		"definitions on two lines":         {fill("[a]:\n/x\n", 400*kB), 1},
		"many lines in deep lists":         {deepList(40) + fill("\n", 100*kB), 33927},
		"quotes in quotes on a line":       {"Fine.\n" + strings.Repeat("> ", 60) + "deep", 2},
		"behind a fence that a list ended": {"- ```\nout\n" + fill("![a](", 80*kB), 1},
		"a fence within a comment":         {"<!--\n```\n-->\n" + fill("![a](", 80*kB), 1},
		"behind a fence":                   {"```\n[[[[\n```\n" + fill("![a](", 80*kB), 4},
		"behind a fence in a word":         {"a\n```b`c\n" + fill("![a](", 80*kB), 1},
		"in many paragraphs, each allowed": {strings.Repeat(fill("[a](", 2*kB)+"\n\n", 40), 0},
	} {
		costly := content.TooCostly(c.text)
		if c.line == 0 {
			require.Nil(t, costly, name)
			continue
		}
		require.NotNil(t, costly, name)
		require.Equal(t, c.line, costly.Line, name)
		require.NotEmpty(t, costly.Error())
	}
}

func deepList(depth int) string {
	var b strings.Builder
	for i := range depth {
		b.WriteString(strings.Repeat("  ", i) + "- a\n")
	}
	return b.String()
}

// What is shown as plain text is told, with where and why.
func TestATextThatCostsTooMuchIsTold(t *testing.T) {
	tpl := content.Template{Parts: []content.Part{{Kind: content.Slot, Key: "main"}}}
	p := content.Page{Slots: map[string][]content.Block{"main": {{ID: "b", Type: content.Text, Text: "Fine.\n\n" + strings.Repeat("![a](", 20_000)}}}}
	problems := content.Problems(tpl, p, func(string) bool { return true })
	require.Len(t, problems, 1)
	require.Equal(t, "b", problems[0].Block)
	require.Contains(t, problems[0].Text, "shown as plain text: from line 3")
}
