package match_test

import (
	"fmt"
	"testing"

	"candlepath/internal/core/match"
	"candlepath/internal/core/sitemap"
)

// BenchmarkFind looks through 50,000 titles for one that none has.
func BenchmarkFind(b *testing.B) {
	list := []sitemap.Entry{{ID: "home", Title: "Home", Fixed: "/", Kind: sitemap.Page}}
	for i := range 50_000 {
		e := sitemap.Entry{ID: fmt.Sprint(i), Title: fmt.Sprint("Eintrag ", i), Slug: fmt.Sprint("eintrag-", i), Kind: sitemap.Page, Topics: "beds"}
		if i > 10 {
			e.Parent = fmt.Sprint(i / 10)
		}
		list = append(list, e)
	}
	t, err := sitemap.New(list)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		match.Find(t, "eintrga 1234", 12, func(int) bool { return true })
	}
}
