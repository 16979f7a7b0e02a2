package markup_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/markup"
)

func TestRaisedWords(t *testing.T) {
	m := markup.New()
	for source, want := range map[string]string{
		"H<sub>2</sub>O at 20 m<sup>2</sup>": "<p>H<sub>2</sub>O at 20 m<sup>2</sup></p>",
		"a<sup>*b*</sup>":                    "<p>a<sup><em>b</em></sup></p>",
		"a<sup>b":                            "<p>ab</p>",
		"a</sup>b":                           "<p>ab</p>",
		"a<sup>b<sub>c</sub></sup>":          "<p>ab<sub>c</sub></p>",
		"a<sup onclick=x>b</sup>":            "<p>ab</p>",
		"a<sup>b</sub>":                      "<p>ab</p>",
		"a<b>b</b><script>c</script>":        "<p>abc</p>",
		"*a<sup>b*c</sup>":                   "<p><em>ab</em>c</p>",
		"| a<sup>1</sup> | b |\n|---|---|\n": "<table>\n<thead>\n<tr>\n<th scope=\"col\">a<sup>1</sup></th>\n<th scope=\"col\">b</th>\n</tr>\n</thead>\n</table>",
	} {
		got, err := m.HTML(source, nil)
		require.NoError(t, err)
		require.Equal(t, want, strings.TrimSpace(got), source)
	}
	require.Equal(t, "H2O, redone x2 a br b", content.Plain(m.Parse("H<sub>2</sub>O, re*done* x<sup>2</sup> a<br>br<br>b")), "no end of a word")
	began := time.Now()
	_, err := m.HTML(strings.Repeat("a<sup>", 15_000), nil)
	require.NoError(t, err)
	require.Less(t, time.Since(began), 2*time.Second)
}
