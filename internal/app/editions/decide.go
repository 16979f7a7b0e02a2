package editions

import (
	"context"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Decide says where the visitors of a page that is planned to go belong. to is
// "gone", an entry id, an address of Next or a URL; empty takes the decision
// back.
func (a *Editions) Decide(ctx context.Context, who plan.Person, entry, to string, temporary bool, review string) error {
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if to = strings.TrimSpace(to); to == "" {
			return tx.DropDecision(ctx, entry)
		}
		if trees.Live.Find(entry) == sitemap.None {
			return plan.ErrNotFound
		}
		d := redirect.ParseDecision(to, 0, trees.Next)
		if i := trees.Next.PageAt(d.To.Address); d.To.Address != "" && i != sitemap.None {
			d.To = redirect.Target{Entry: trees.Next.Ref(i).ID, Suffix: d.To.Suffix}
		}
		if err := checkDecision(trees.Next, d, entry); err != nil {
			return err
		}
		d.Review = review
		if temporary && d.Code != redirect.Gone {
			d.Code = 302
		}
		return tx.PutDecision(ctx, entry, d, who.ID)
	})
}

func checkDecision(next *sitemap.Tree, d redirect.Decision, entry string) error {
	if d.Code == redirect.Gone || d.To.URL != "" {
		return nil
	}
	i := next.Find(d.To.Entry)
	switch {
	case d.To.Entry == "" || i == sitemap.None || next.Served(i) == "":
		return plan.Refuse("to", "There is no such page in Next. Choose a page, a URL that begins with https://, or gone.")
	case d.To.Entry == entry:
		return plan.Refuse("to", "A page cannot lead to itself. Choose another page.")
	}
	return nil
}
