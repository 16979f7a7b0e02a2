package sitemap_test

import (
	"fmt"
	"testing"

	"candlepath/internal/core/sitemap"

	"github.com/stretchr/testify/require"
)

// The checks of a tree of 10,000 entries.
func BenchmarkCheckTenThousand(b *testing.B) {
	var list []sitemap.Entry
	for i := range 10_000 {
		e := sitemap.Entry{ID: fmt.Sprint(i), Title: fmt.Sprint("Beds and borders ", i), Slug: fmt.Sprint("beds-", i), Kind: sitemap.Page, Owner: "Gwen"}
		if i%20 > 0 {
			e.Parent = fmt.Sprint(i - i%20)
		}
		list = append(list, e)
	}
	tree, err := sitemap.Ranked(list)
	require.NoError(b, err)
	for b.Loop() {
		sitemap.Check(tree, sitemap.CheckOptions{})
	}
}
