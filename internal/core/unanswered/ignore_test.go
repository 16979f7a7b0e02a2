package unanswered_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/unanswered"
)

func TestPatternsToIgnore(t *testing.T) {
	for _, c := range []struct{ pattern, is, not string }{
		{"/old/*", "/old/tea", "/older"}, {"*.php", "/a/B.PHP", "/a.php5"}, {"*/feed*", "/news/feed.xml", "/feeling"}, {"/tea", "/Tea", "/tea/menu"},
	} {
		require.Equal(t, c.pattern, unanswered.CleanPattern(" "+c.pattern+" "))
		require.True(t, unanswered.Ignores(c.pattern, c.is), c.pattern)
		require.False(t, unanswered.Ignores(c.pattern, c.not), c.pattern)
	}
	for _, none := range []string{"", "*", "**", "/", "*/", "tea", "/a*b", "/" + strings.Repeat("x", 400)} {
		require.Empty(t, unanswered.CleanPattern(none), none)
	}
}
