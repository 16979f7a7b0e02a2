package reading

import (
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// Hit is one page that a search found.
type Hit struct {
	EntryID string
	Snippet string // matches between the marks \x01 and \x02
	Rank    float64
}

// Search finds live pages. Hits are only told of pages that the tree serves.
func (a *Reading) Search(ctx context.Context, live *sitemap.Tree, q string, limit int) ([]Hit, error) {
	const most = 2000 // that are looked through for somebody who may read few of them
	var kept []Hit
	err := a.Store.Read(ctx, func(tx Tx, _ plan.Site) error {
		for n := limit; ; n *= 4 {
			hits, err := tx.Search(ctx, q, n)
			if err != nil {
				return err
			}
			all := len(hits) < n
			kept = slices.DeleteFunc(hits, func(h Hit) bool {
				i := live.Find(h.EntryID)
				return i == sitemap.None || live.Served(i) == ""
			})
			if all || len(kept) >= limit || n >= most {
				kept = kept[:min(len(kept), limit)]
				return nil
			}
		}
	})
	return kept, err
}
