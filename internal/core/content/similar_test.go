package content_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"candlepath/internal/core/content"

	"github.com/stretchr/testify/require"
)

// written makes n words from a seed.
func written(seed uint64, n int) []string {
	r := rand.New(rand.NewPCG(seed, 7))
	out := make([]string, n)
	for i := range out {
		out[i] = fmt.Sprintf("w%d", r.IntN(4000))
	}
	return out
}

// exact is the resemblance of two texts by all their shingles of four words.
func exact(a, b []string) float64 {
	set := func(w []string) map[string]bool {
		out := map[string]bool{}
		for i := range len(w) - 3 {
			out[strings.Join(w[i:i+4], " ")] = true
		}
		return out
	}
	x, y, both := set(a), set(b), 0
	for s := range x {
		if y[s] {
			both++
		}
	}
	return float64(both) / float64(len(x)+len(y)-both)
}

func TestAlike(t *testing.T) {
	first := written(1, 300)
	nearly := append(append([]string{}, first[:150]...), append(written(2, 15), first[150:]...)...)
	half := append(append([]string{}, first[:150]...), written(3, 150)...)
	pages := []content.Read{
		{ID: "a", Title: "Compost", Words: strings.Join(first, " ")},
		{ID: "b", Title: "Composting", Words: strings.Join(nearly, ", ") + "."},
		{ID: "c", Title: "COMPOST!", Words: "Short."},
		{ID: "d", Title: "Half", Words: strings.Join(half, " ")},
		{ID: "e", Title: "Same", Words: strings.ToUpper(strings.Join(first, "  "))},
		{ID: "f", Title: "Other", Words: strings.Join(written(4, 300), " ")},
		{ID: "g", Title: "Short", Words: "Short."},
	}
	var got []string
	for _, p := range content.Similar(pages) {
		got = append(got, fmt.Sprintf("%s%s %v", pages[p.A].ID, pages[p.B].ID, p.SameTitle))
		if len(pages[p.A].Words) > 100 && len(pages[p.B].Words) > 100 {
			words := func(i int) []string {
				return strings.Fields(strings.ToLower(strings.NewReplacer(",", "", ".", "").Replace(pages[i].Words)))
			}
			require.InDelta(t, exact(words(p.A), words(p.B)), p.Share, 0.13)
		}
	}
	require.Equal(t, []string{"ae false", "ab false", "ac true"}, got, "d shares a third only")
}

// The list stays short and complete where many pages are the same or share a
// frame of words.
func TestAlikeAmongMany(t *testing.T) {
	frame := strings.Join(written(9, 40), " ")
	var pages []content.Read
	for i := range 400 {
		pages = append(pages, content.Read{ID: fmt.Sprint(i), Title: fmt.Sprint("Page ", i), Words: frame + " " + strings.Join(written(uint64(100+i), 200), " ")})
	}
	for i := range 100 {
		pages = append(pages, content.Read{ID: fmt.Sprint("s", i), Title: "Contacts", Words: strings.Join(written(50, 60), " ")})
	}
	got := content.Similar(pages)
	require.Len(t, got, 99, "each of those that are the same is paired with the next")
	for _, p := range got {
		require.Equal(t, p.A+1, p.B)
		require.InDelta(t, 1, p.Share, 0)
		require.True(t, p.SameTitle)
	}
}

func TestAlikeOfNothing(t *testing.T) {
	require.Empty(t, content.Similar(nil))
	require.Empty(t, content.Similar([]content.Read{{}, {}}))
}

// Near-duplicates of 5,000 pages of 400 words.
func BenchmarkAlikeFiveThousand(b *testing.B) {
	var pages []content.Read
	for i := range 5000 {
		words := written(uint64(i), 400)
		if i%10 == 0 {
			words = append(written(uint64(i/10), 380), written(uint64(i), 20)...)
		}
		pages = append(pages, content.Read{ID: fmt.Sprint(i), Title: fmt.Sprint("Page ", i), Words: strings.Join(words, " ")})
	}
	for b.Loop() {
		content.Similar(pages)
	}
}
