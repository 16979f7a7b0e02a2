package addresses

import (
	"context"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/match"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/unanswered"
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
	Above string          // the page below which one of this address would stand; empty: none
	Title string          // that it could have
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

// UnansweredList is what was asked for in vain, with what is ignored of it.
type UnansweredList struct {
	Lines    []UnansweredLine // the most often first
	Patterns []string         // of addresses that are ignored
	Ignored  int              // how often such were asked for
	Trees    plan.Trees
}

// Unanswered lists addresses that were asked for in vain.
func (a *Addresses) Unanswered(ctx context.Context, who plan.Person) (out UnansweredList, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		out.Trees = trees
		var err error
		if out.Patterns, err = tx.IgnoredPatterns(ctx); err != nil {
			return err
		}
		list, err := tx.Unanswered(ctx, a.Now().AddDate(0, 0, 1-UnansweredDays), MostUnanswered)
		if err != nil {
			return err
		}
		table, _, err := a.nextTable(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		for _, u := range list {
			if slices.ContainsFunc(out.Patterns, func(p string) bool { return unanswered.Ignores(p, u.Address) }) {
				out.Ignored += u.N
				continue
			}
			line := UnansweredLine{Unanswered: u}
			if u.Address[0] == '/' {
				line.Next = table.ResolveNormal(u.Address, "")
				for _, i := range match.Meant(trees.Next, u.Address, guesses) {
					e := trees.Next.Ref(i)
					line.Meant = append(line.Meant, Guess{e.ID, e.Title, address.Written(trees.Next.Served(i))})
				}
				line.Above, line.Title = redirect.PlaceOf(trees.Next, u.Address)
			}
			out.Lines = append(out.Lines, line)
		}
		return nil
	})
	return out, err
}

// Ignore leaves addresses like a pattern out of the unanswered ones, or no longer.
func (a *Addresses) Ignore(ctx context.Context, who plan.Person, text string, on bool) error {
	pattern := text
	if on {
		if pattern = unanswered.CleanPattern(text); pattern == "" {
			return plan.Refuse("pattern", "Write an address, perhaps with a star at its beginning or end: /old/*, *.php. Nothing else is a pattern.")
		}
	}
	return a.Store.WriteUnlocked(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.MayPlan(s, who); err != nil {
			return err
		}
		if !on {
			return tx.DropPattern(ctx, pattern)
		}
		known, err := tx.IgnoredPatterns(ctx)
		if err != nil {
			return err
		}
		if len(known) >= unanswered.MostPatterns {
			return plan.Refuse("pattern", "There are too many patterns. Remove one first.")
		}
		return tx.PutPattern(ctx, pattern, plan.Planned{PersonID: who.ID, At: a.Now()})
	})
}
