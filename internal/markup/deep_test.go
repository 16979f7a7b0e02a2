package markup_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"candlepath/internal/markup"
)

// Foreign texts may be nested absurdly deep; they cost time in proportion to their length
// and never the program.
func TestDeepNestingEnds(t *testing.T) {
	m := markup.New()
	for name, text := range map[string]string{
		"quotes":   strings.Repeat("> ", 10_000) + "deep",
		"lists":    strings.Repeat("- ", 10_000) + "deep",
		"emphasis": strings.Repeat("*a _b ", 10_000),
		"brackets": strings.Repeat("[", 10_000) + "a" + strings.Repeat("](x)", 10_000),
		"code":     strings.Repeat("`", 10_000) + "a",
	} {
		began := time.Now()
		html, err := m.HTML(text, &markup.Headings{})
		require.NoError(t, err, name)
		require.Equal(t, name != "emphasis" && name != "brackets", strings.HasPrefix(html, "<pre>"), name)
		m.Parse(text)
		require.Less(t, time.Since(began), 10*time.Second, name)
	}
}
