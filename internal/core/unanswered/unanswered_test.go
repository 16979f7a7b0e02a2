package unanswered_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/unanswered"
)

// Scanners are counted as one, made-up addresses take only so much, and nothing is lost of
// how often.
func TestCountingIsBounded(t *testing.T) {
	c := unanswered.Count{}
	for _, a := range []string{"/wp-login.php", "/WP-admin/", "/.env", "/a/../../etc/passwd", "/backup.sql"} {
		require.True(t, unanswered.IsProbe(a), a)
		c.Add(unanswered.Asked{Address: a, Page: "/tea"})
	}
	for _, a := range []string{"/tea/menu", "/shop.php", "/environment", "/gitter", "/sql-course"} {
		require.False(t, unanswered.IsProbe(a), a)
	}
	c.Add(unanswered.Asked{Address: "/tea/menu", Page: "/visitors"})
	c.Add(unanswered.Asked{Address: "/tea/menu", Page: "/visitors"})
	c.Add(unanswered.Asked{Address: "/" + strings.Repeat("x", 400)})
	require.Equal(t, unanswered.Count{{Address: unanswered.Scanners}: 5, {Address: "/tea/menu", Page: "/visitors"}: 2, {Address: unanswered.Others}: 1}, c)
	for i := range 3 * unanswered.MostAtOnce {
		c.Add(unanswered.Asked{Address: fmt.Sprint("/made-up-", i)})
	}
	other := unanswered.Count{{Address: "/new"}: 7}
	c.Merge(other)
	require.LessOrEqual(t, len(c), unanswered.MostAtOnce+1)
	sum := 0
	for _, n := range c {
		sum += n
	}
	require.Equal(t, 8+3*unanswered.MostAtOnce+7, sum)
}
