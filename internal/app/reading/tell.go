package reading

import (
	"context"
	"fmt"
	"path"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
)

// TellMissing tells those who look after the part of the site to which an address would belong
// that a reader wanted it: the owner of the nearest page above it, or the site managers.
func (a *Reading) TellMissing(ctx context.Context, live *sitemap.Tree, normal string) error {
	return a.Store.WriteUnlocked(ctx, func(tx Tx, _ plan.Site) error {
		people, err := tx.People(ctx)
		if err != nil {
			return err
		}
		told, near := people[:0:0], nearest(live, normal)
		if near != sitemap.None {
			told = plan.Called(people, plan.OwnerOf(live, near))
		}
		if len(told) == 0 {
			told = plan.Managers(people)
		}
		var list []plan.Notice
		for _, p := range told {
			list = append(list, plan.Notice{PersonID: p.ID, Kind: plan.NoticeAddress, Subject: normal, At: a.Now(), Words: fmt.Sprintf(
				"A reader looked for %s and found no page there. Add a redirect, or plan a page.", normal)})
		}
		return tx.Notify(ctx, list)
	})
}

// nearest gives the page at the nearest address above one.
func nearest(t *sitemap.Tree, normal string) int {
	for up := path.Dir(normal); ; up = path.Dir(up) {
		if i := t.PageAt(up); i != sitemap.None || up == "/" {
			return i
		}
	}
}
