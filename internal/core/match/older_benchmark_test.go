package match_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
)

// BenchmarkOlder matches 5,000 addresses of an older site against 5,000 pages, of titles of
// three words out of 2,000, some words frequent and most rare.
func BenchmarkOlder(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	word := func() string { return fmt.Sprintf("w%s", letters(int(2000*r.Float64()*r.Float64()))) }
	var entries []sitemap.Entry
	var old []match.Old
	for i := range 5000 {
		title := word() + " " + word() + " " + word()
		e := sitemap.Entry{ID: fmt.Sprint("p", i), Title: title, Slug: fmt.Sprint(strings.ReplaceAll(title, " ", "-"), "-", i), Kind: sitemap.Page}
		if i >= 50 {
			e.Parent = fmt.Sprint("p", i/20)
		}
		entries = append(entries, e)
		old = append(old, match.Old{Address: fmt.Sprintf("/dept/%s/%s_%s.html", letters(i/20), word(), word()), Title: title + " " + word()})
	}
	t, err := sitemap.New(entries)
	require.NoError(b, err)
	for b.Loop() {
		require.Len(b, match.NewOlder(t, nil).Match(old), 5000)
	}
}

func letters(n int) string {
	s := ""
	for {
		s += string(rune('a' + n%26))
		if n /= 26; n == 0 {
			return s
		}
	}
}
