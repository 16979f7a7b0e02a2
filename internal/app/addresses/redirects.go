package addresses

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

// Preview is a list of wishes with what each would do.
type Preview struct {
	Judged []redirect.Judged
	Next   *sitemap.Tree
}

// Count tells how many wishes have a verdict.
func (p Preview) Count(v redirect.Verdict) (n int) {
	for i := range p.Judged {
		if p.Judged[i].Verdict == v {
			n++
		}
	}
	return n
}

// PreviewRedirects tells what each of some redirects would do, and plans none.
func (a *Addresses) PreviewRedirects(ctx context.Context, who plan.Person, wishes []redirect.Wish) (out Preview, err error) {
	if len(wishes) > redirect.MostLines {
		return out, plan.Refuse("list", fmt.Sprintf("A list has at most %d lines. Split it.", redirect.MostLines))
	}
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		out.Next = trees.Next
		out.Judged, _, err = a.judged(ctx, tx, s, trees, wishes)
		return err
	})
	return out, err
}

// judged judges wishes over the table of Next; planned are those planned already.
func (a *Addresses) judged(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees, wishes []redirect.Wish) (out []redirect.Judged, planned map[redirect.Key]redirect.Row, err error) {
	table, planned, err := a.tableOfNext(ctx, tx, s, trees)
	if err != nil {
		return nil, nil, err
	}
	out, err = redirect.Ground{Live: trees.Live, Next: trees.Next, Table: table, Hosts: s.Answers(), OldHosts: s.OldHosts()}.Judge(wishes)
	return out, planned, err
}

// tableOfNext gives the redirects as they are once all that is planned is published.
func (a *Addresses) tableOfNext(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees) ([]redirect.Row, map[redirect.Key]redirect.Row, error) {
	table, err := a.RedirectsOf(ctx, tx, s)
	if err != nil {
		return nil, nil, err
	}
	list, err := tx.PlannedRedirects(ctx)
	if err != nil {
		return nil, nil, err
	}
	planned, rows := make(map[redirect.Key]redirect.Row, len(list)), make([]redirect.Row, len(list))
	for i, p := range list {
		planned[p.Key()], rows[i] = p.Row, p.Row
	}
	decisions, err := tx.Decisions(ctx)
	if err != nil {
		return nil, nil, err
	}
	releases, err := tx.Releases(ctx)
	if err != nil {
		return nil, nil, err
	}
	released := map[string]bool{}
	for _, r := range releases {
		if r.Edition == 0 {
			released[r.Address] = true
		}
	}
	next, err := redirect.Plan(redirect.Input{
		Live: trees.Live, Next: trees.Next, Table: redirect.With(table, rows), Decisions: decisions, Hosts: s.Answers(), Released: released,
	})
	return next, planned, err
}

// nextTable is tableOfNext, ready to answer.
func (a *Addresses) nextTable(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees) (*redirect.Table, []redirect.Row, error) {
	rows, _, err := a.tableOfNext(ctx, tx, s, trees)
	if err != nil {
		return nil, nil, err
	}
	table, err := redirect.NewTable(rows, trees.Next)
	return table, rows, err
}

// PlanRedirects plans redirects, as changes of the next edition that are undone together.
// What is refused, and what does nothing, is left out; where all is, that is an error.
func (a *Addresses) PlanRedirects(ctx context.Context, who plan.Person, key string, wishes []redirect.Wish) (plan.PlanResult, error) {
	if len(wishes) > redirect.MostLines {
		return plan.PlanResult{}, plan.Refuse("list", fmt.Sprintf("A list has at most %d lines. Split it.", redirect.MostLines))
	}
	return a.OnNext(ctx, who, key, "", func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		judged, planned, err := a.judged(ctx, tx, s, trees, wishes)
		if err != nil {
			return plan.PlanResult{}, err
		}
		var also plan.SideEffects
		for _, d := range judged {
			if d.Verdict != redirect.New && d.Verdict != redirect.Changes {
				continue
			}
			row := d.Row
			row.Line = 0
			p := plan.RedirectPatch{ID: row.Key().ID(), After: &row}
			if was, ok := planned[row.Key()]; ok {
				p.Before = &was
			}
			also.Redirects = append(also.Redirects, p)
		}
		if len(also.Redirects) == 0 {
			return plan.PlanResult{}, nothingOf(judged)
		}
		return a.RecordWith(ctx, tx, s, who, key, labelOf(also.Redirects), trees, trees.Next, also)
	})
}

func nothingOf(judged []redirect.Judged) error {
	if len(judged) == 1 {
		return plan.Refuse("from", judged[0].Said)
	}
	return plan.Refuse("list", "No line of the list does anything.")
}

func labelOf(patches []plan.RedirectPatch) string {
	if len(patches) == 1 {
		return "redirected " + patches[0].After.Key().Title()
	}
	return fmt.Sprintf("redirected %d addresses", len(patches))
}

// DropRedirects takes planned redirects out of the plan.
func (a *Addresses) DropRedirects(ctx context.Context, who plan.Person, key string, ids []string) (plan.PlanResult, error) {
	return a.OnNext(ctx, who, key, "", func(tx Tx, s plan.Site, trees plan.Trees) (plan.PlanResult, error) {
		list, err := tx.PlannedRedirects(ctx)
		if err != nil {
			return plan.PlanResult{}, err
		}
		var also plan.SideEffects
		for _, p := range list {
			if row := p.Row; slices.Contains(ids, row.Key().ID()) {
				also.Redirects = append(also.Redirects, plan.RedirectPatch{ID: row.Key().ID(), Before: &row})
			}
		}
		if len(also.Redirects) == 0 {
			return plan.PlanResult{}, plan.ErrNotFound
		}
		label := "no longer plans the redirect of " + also.Redirects[0].Before.Key().Title()
		if n := len(also.Redirects); n > 1 {
			label = fmt.Sprintf("no longer plans %d redirects", n)
		}
		return a.RecordWith(ctx, tx, s, who, key, label, trees, trees.Next, also)
	})
}

// Tested is an address with what it answers, in Live and in Next, and why.
type Tested struct {
	Asked      string
	Live, Next redirect.Answer
	InLive     []redirect.Step
	InNext     []redirect.Step
	History    []Once // where one address alone is asked for
}

// Once is what an address answered from one edition until another.
type Once struct {
	Entry    string        // the page that had it, or
	Row      *redirect.Row // the redirect
	From, To int           // editions; To 0: it does still
}

// MostTested is how many addresses are tested at once.
const MostTested = 1000

// TestAddresses tells what addresses answer in Live and in Next, and each step of the
// reasoning.
func (a *Addresses) TestAddresses(ctx context.Context, who plan.Person, asked []string) (out []Tested, trees plan.Trees, err error) {
	if len(asked) > MostTested {
		return nil, trees, plan.Refuse("asked", fmt.Sprintf("At most %d addresses are tested at once.", MostTested))
	}
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, t plan.Trees) error {
		trees = t
		live, err := a.RedirectsOf(ctx, tx, s)
		if err != nil {
			return err
		}
		next, _, err := a.tableOfNext(ctx, tx, s, trees)
		if err != nil {
			return err
		}
		now, err := redirect.NewTable(live, trees.Live)
		if err != nil {
			return err
		}
		then, err := redirect.NewTable(next, trees.Next)
		if err != nil {
			return err
		}
		for _, ask := range asked {
			t := Tested{Asked: ask}
			at := redirect.Asked(ask, s.Hosts)
			t.Live, t.InLive = now.Explain(at)
			t.Next, t.InNext = then.Explain(at)
			if normal, err := address.Normal(pathOf(at)); err == nil && len(asked) == 1 {
				if t.History, err = tx.AddressHistory(ctx, normal); err != nil {
					return err
				}
			}
			out = append(out, t)
		}
		return nil
	})
	return out, trees, err
}

func pathOf(at string) string {
	path, _, _ := address.Split(at)
	return path
}

// AskedOf reads the addresses of a text, one a line.
func AskedOf(text string) (out []string) {
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}
