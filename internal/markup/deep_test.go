package markup_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/content"
	"candlepath/internal/markup"
)

// Foreign texts may be nested absurdly deep; they never cost the program. What would take longer than
// people wait is shown as it was written.
func TestNoTextTakesLong(t *testing.T) {
	m := markup.New()
	fill := func(s string) string { return strings.Repeat(s, 100_000/len(s)) }
	for name, text := range map[string]string{
		"quotes":      strings.Repeat("> ", 10_000) + "deep",
		"lists":       strings.Repeat("- ", 10_000) + "deep",
		"images":      fill("![a]("),
		"links":       fill("[]("),
		"emphasis":    fill("*a_ "),
		"strikes":     fill("~~a*b_"),
		"definitions": strings.Repeat("[a]:\n/x\n", 50_000),
		"brackets":    strings.Repeat("[", 10_000) + "a" + strings.Repeat("](x)", 10_000),
		"code":        strings.Repeat("`", 10_000) + "a",
		"headings":    fill("# a\n"),
	} {
		within(t, m, name, text)
	}
	r := rand.New(rand.NewPCG(1, 28))
	pieces := []string{"![a](", "[", "]", "](x)", "*", "_a", "**b", "~~", "`", "\n", "\n\n", "- ", "  ", "    ", "> ", "1. ", "[a]: /x\n", "|", "a", "<b>", "```\n", "<!--", "\\", "&amp;"}
	for range 12 {
		some := make([]string, 1+r.IntN(4))
		for i := range some {
			some[i] = pieces[r.IntN(len(pieces))]
		}
		var b strings.Builder
		for b.Len() < 100_000 {
			b.WriteString(some[r.IntN(len(some))])
		}
		within(t, m, strings.Join(some, " "), b.String())
	}
}

// within parses and renders a text in a time that leaves room for a busy machine.
func within(t *testing.T, m *markup.Markup, name, text string) {
	t.Helper()
	began := time.Now()
	html, err := m.HTML(text, &markup.Headings{})
	require.NoError(t, err, name)
	m.Parse(text)
	require.Less(t, time.Since(began), 4*time.Second, name)
	if content.TooCostly(text) != nil {
		require.True(t, strings.HasPrefix(html, "<pre>"), name)
	}
}
