package urls_test

import (
	"testing"

	"candlepath/internal/web/urls"

	"github.com/stretchr/testify/require"
)

func TestOnlyPathsOfOurOwnAreLocal(t *testing.T) {
	for _, to := range []string{"/", "/studio/sitemap?at=1&show=all", "/seed-vault#top", "/%C3%BCber?q=a%20b", "/a/b:c"} {
		got, ok := urls.Local(to)
		require.True(t, ok, to)
		require.Equal(t, to, got)
	}
	for _, to := range []string{
		"", "studio", "//evil.test", "/\t/evil.test", "/\\evil.test", "\\\\evil.test", "https://evil.test", "javascript:alert(1)", "/%09/evil.test", "/%5Cevil.test", "/%2F/evil.test",
		" //evil.test", "/\n/evil.test", "//", "///evil.test", "/%00", "mailto:a@evil.test", "?q", "/%zz",
	} {
		_, ok := urls.Local(to)
		require.False(t, ok, "%q", to)
	}
}
