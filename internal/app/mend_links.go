package app

import (
	"context"
	"fmt"

	"candlepath/internal/app/port"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// MendLinks mends every link of Next to an entry that goes, in one act: they lead
// to another page, or become plain words where to is empty. Tiles go with them.
func (a *App) MendLinks(ctx context.Context, who port.Person, key, entry, to string) (PlanResult, error) {
	return a.onNext(ctx, who, key, entry, func(tx port.Tx, s port.Site, trees port.Trees) (PlanResult, error) {
		w, err := a.writer(ctx, tx, who, trees.Next)
		if err != nil {
			return PlanResult{}, err
		}
		title, label, pages := trees.Title(entry), "", 0
		if to == "" {
			pages, err = w.unlink(ctx, entry, title)
			label = fmt.Sprintf("made links to %q plain words", title)
		} else {
			i := trees.Next.Find(to)
			if i == sitemap.None || trees.Next.Served(i) == "" || to == entry {
				return PlanResult{}, &Invalid{"to", "Choose a page that stays."}
			}
			pages, err = w.relink(ctx, entry, func(_, link string) string {
				if id, ok := (content.FoundLink{To: link}).Entry(); ok && id == entry {
					return content.Scheme + to
				}
				return link
			})
			label = fmt.Sprintf("pointed links to %q to %q", title, trees.Next.Ref(i).Title)
		}
		if err != nil {
			return PlanResult{}, err
		}
		label = fmt.Sprintf("%s on %d %s", label, pages, plural(pages, "page", "pages"))
		return a.recordAlso(ctx, tx, s, who, key, label, trees, trees.Next, w.also)
	})
}
