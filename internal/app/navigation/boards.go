package navigation

import (
	"cmp"
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/listing"
	"candlepath/internal/core/sitemap"
)

// PageBoard is a tile board with the page on which it stands.
type PageBoard struct {
	listing.Board
	Entry   string
	Address string
}

// BoardList are the tile boards of the site, as they stand in Next.
type BoardList struct {
	Boards []PageBoard // in the order of the sitemap
	Trees  plan.Trees
}

// Wrong gives the boards of which something is wrong.
func (l BoardList) Wrong() (out []PageBoard) {
	for _, b := range l.Boards {
		if len(b.Faults) > 0 {
			out = append(out, b)
		}
	}
	return out
}

// Boards lists all tile boards of Next.
func (a *Navigation) Boards(ctx context.Context, who plan.Person) (out BoardList, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		out.Trees = trees
		pages, err := tx.PagesWith(ctx, content.Tiles)
		if err != nil {
			return err
		}
		templates, err := tx.Templates(ctx)
		if err != nil {
			return err
		}
		site := listing.Site{Tree: trees.Next}
		if site.Visits, site.Changed, err = a.ListFacts(ctx, tx, s); err != nil {
			return err
		}
		for _, v := range pages {
			i := trees.Next.Find(v.EntryID)
			if i == sitemap.None {
				continue
			}
			t := content.TemplateOf(templates, trees.Next.Ref(i).Template)
			for _, b := range site.Boards(t, v.Content, i) {
				out.Boards = append(out.Boards, PageBoard{b, v.EntryID, trees.Next.Address(i)})
			}
		}
		slices.SortStableFunc(out.Boards, func(x, y PageBoard) int {
			return cmp.Compare(trees.Next.Find(x.Entry), trees.Next.Find(y.Entry))
		})
		return nil
	})
	return out, err
}
