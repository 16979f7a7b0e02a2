package pages_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/markup"
)

var blanks = regexp.MustCompile(`\s+`)

// meaning is what readers get of a text, whatever its white space.
func meaning(t *testing.T, text string) string {
	html, err := markup.New().HTML(text, &markup.Headings{})
	require.NoError(t, err)
	html = strings.NewReplacer("<!-- raw HTML omitted -->", "", "\n", " ").Replace(html)
	html = regexp.MustCompile(` ?(</?(?:p|li|ul|ol|h[2-6]|blockquote|table|thead|tbody|tr|th|td|pre|hr)[^>]*>) ?`).ReplaceAllString(html, "$1")
	return strings.TrimSpace(blanks.ReplaceAllString(html, " "))
}

// foreignTexts are the examples of the CommonMark specification, as they come with the
// parser, and some of ours for what goes beyond it.
func foreignTexts(t *testing.T) []string {
	dir, err := exec.CommandContext(t.Context(), "go", "list", "-m", "-f", "{{.Dir}}", "github.com/yuin/goldmark").Output()
	require.NoError(t, err)
	b, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "_test", "spec.json"))
	require.NoError(t, err)
	var examples []struct{ Markdown string }
	require.NoError(t, json.Unmarshal(b, &examples))
	var texts []string
	for _, e := range examples {
		texts = append(texts, e.Markdown)
	}
	return append(texts,
		"| a | b |\n|:--|--:|\n| 1 \\| 2 | `x|y` |\n| **bold** | ~~old~~ |",
		"| a | b |\n|---|:-:|\n| **x** | 1 |\n| **y** | 2 |\n\nAfter.",
		"- [ ] to do\n- [x] done\n  - [ ] inside\n- plain",
		"1. one\n2. two\n\n   more\n\n3) other\n4) list",
		"- a\n\n* b\n\n- c",
		"R&amp;D &lt;b&gt; &copy; a < b & c <b>raw</b> and &amp;lt;",
		"A\\\n- no list\\\n# no heading\\\n1. no number",
		"![ours](/files/00112233445566778899aabbccddeeff/x.png \"Title\") and ![theirs](https://quillmere.example/x.png)",
		"[a](page:p1#höhe) [b](<page:p 1>) [c](javascript:alert(1)) [](page:p2)",
		"[ref][x] and ![pic][x]\n\n<div>\nkept [too][x]\n</div>\n\n[x]: /y \"T\"",
		"Text\n===\n\n> quote\n> - list\n>\n> | a |\n> |---|\n> | 1 |\n\n***\n\n    code\n\n~~~ sh\n```\n~~~",
		"## Heading ##\n\n### Ends with \\#\n\n##### Deep",
		"snake_case_name *a*b **c**d ~~e~~f `` ` `` ` b `",
		strings.Repeat("> ", 60)+"deep\n\n"+strings.Repeat("- ", 60)+"deep",
	)
}

// Whatever CommonMark comes into the editor and is written anew means the same to readers,
// and what comes back is not changed by the next round.
func TestForeignCommonMarkKeepsItsMeaning(t *testing.T) {
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	tab.SignIn("ines")
	openPage(t, tab, site, borrowed)
	tab.Until("document.querySelector('#editor')?.editor")
	texts := foreignTexts(t)
	var got []struct {
		Text, Again string
		Rich        bool
	}
	require.NoError(t, json.Unmarshal([]byte(tab.MustEval(`(texts) => JSON.stringify(texts.map((text) => {
		const { parse, rewrite } = document.getElementById("editor").editor, out = rewrite(text);
		return { Text: out, Again: rewrite(out), Rich: parse(text).every((n) => n.type !== "verbatim") };
	}))`, texts).Str()), &got))
	rich := 0
	for i, text := range texts {
		if got[i].Rich {
			rich++
		}
		require.Equal(t, meaning(t, text), meaning(t, got[i].Text), "%q became %q", text, got[i].Text)
		require.Equal(t, got[i].Text, got[i].Again, "%q", text)
	}
	t.Logf("%d of %d are rich", rich, len(texts))
	require.Greater(t, rich, len(texts)*6/10, "most of it can be written as rich text")
	require.Empty(t, tab.Problems())
}
