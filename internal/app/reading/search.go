package reading

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// Hit is one page that a search found.
type Hit struct {
	EntryID string
	Snippet string // matches between the marks \x01 and \x02
	Rank    float64
}

// Hidden lists what an edition holds and a reader gets no page of: what they may not read, and what
// has no page.
func Hidden(all, sees *sitemap.Tree) []string {
	hidden := []string{}
	for i := range all.Len() {
		id := all.Ref(i).ID
		if at := sees.Find(id); at == sitemap.None || sees.Served(at) == "" {
			hidden = append(hidden, id)
		}
	}
	return hidden
}

// Search finds pages of an edition, the best first. Hidden ones are left out before they are counted
// and ranked.
func (a *Reading) Search(ctx context.Context, edition int, q string, hidden []string, limit int) (hits []Hit, err error) {
	err = a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		hits, err = tx.Search(ctx, edition, q, hidden, limit)
		return err
	})
	return hits, err
}
