package editions

import (
	"context"
	"fmt"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/sitemap"
)

// MendLinks mends every link of Next to an entry that goes, in one act: they lead
// to another page, or become plain words where to is empty. Tiles go with them.
func (a *Editions) MendLinks(ctx context.Context, who plan.Person, key, entry, to string) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, entry, func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		w, err := a.Writer(ctx, tx, who, trees.Next)
		if err != nil {
			return plan.PlanResult{}, err
		}
		title, label, pages := trees.Title(entry), "", 0
		if to == "" {
			pages, err = w.Unlink(ctx, entry, title)
			label = fmt.Sprintf("removed links to %q", title)
		} else {
			i := trees.Next.Find(to)
			if i == sitemap.None || trees.Next.Served(i) == "" || to == entry {
				return plan.PlanResult{}, plan.Refuse("to", "Choose a page that is not being removed.")
			}
			pages, err = w.Relink(ctx, entry, func(_, link string) string {
				if id, ok := (content.FoundLink{To: link}).Entry(); ok && id == entry {
					return content.Scheme + to
				}
				return link
			})
			label = fmt.Sprintf("pointed links to %q to %q", title, trees.Next.Ref(i).Title)
		}
		if err != nil {
			return plan.PlanResult{}, err
		}
		label = fmt.Sprintf("%s on %d %s", label, pages, plan.Plural(pages, "page", "pages"))
		return a.RecordWith(ctx, tx, s, who, key, label, trees, trees.Next, w.SideEffects)
	})
}
