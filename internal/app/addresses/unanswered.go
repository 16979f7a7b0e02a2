package addresses

import (
	"context"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
)

// Unanswered is an address that was asked for in vain.
type Unanswered struct {
	Address string
	N       int       // how often
	Days    int       // on how many days
	Last    time.Time // day
	Page    string    // of the site on which most links to it stood; empty: not known
}

// UnansweredLine is one with what could become of it.
type UnansweredLine struct {
	Unanswered
	Next  redirect.Answer // what it answers once everything planned is published
	Meant []Guess         // pages that were probably meant, the likeliest first
}

// Guess is a page that was probably meant.
type Guess struct{ ID, Title, Address string }

// UnansweredDays is over how many days unanswered addresses are told, and MostUnanswered how
// many at once.
const (
	UnansweredDays = 30
	MostUnanswered = 500
	guesses        = 3
)

// Unanswered lists addresses that were asked for in vain, the most often first.
func (a *Addresses) Unanswered(ctx context.Context, who plan.Person) (out []UnansweredLine, trees plan.Trees, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, t plan.Trees) error {
		trees = t
		list, err := tx.Unanswered(ctx, a.Now().AddDate(0, 0, 1-UnansweredDays), MostUnanswered)
		if err != nil {
			return err
		}
		rows, _, err := a.tableOfNext(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		table, err := redirect.NewTable(rows, trees.Next)
		if err != nil {
			return err
		}
		for _, u := range list {
			line := UnansweredLine{Unanswered: u}
			if u.Address[0] == '/' {
				line.Next = table.ResolveNormal(u.Address, "")
				for _, i := range match.Meant(trees.Next, u.Address, guesses) {
					e := trees.Next.Ref(i)
					line.Meant = append(line.Meant, Guess{e.ID, e.Title, address.Written(trees.Next.Served(i))})
				}
			}
			out = append(out, line)
		}
		return nil
	})
	return out, trees, err
}
