package editions

import (
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/workflow"
)

// everAnswered are the addresses that answered in some edition up to one.
type everAnswered struct {
	site      string
	edition   int
	addresses []string
}

// prove asks the edition for every address that ever answered, but for those it releases. The
// list of addresses is read once an edition.
func (a *Editions) prove(ctx context.Context, tx Tx, n *NextEdition) (*redirect.Table, error) {
	table, err := redirect.NewTable(n.Draft.Plan, n.Draft.Tree)
	if err != nil {
		return nil, nil // preflight tells about it
	}
	ever, err := a.everOf(ctx, tx, n.Site)
	if err != nil {
		return nil, err
	}
	if len(n.Draft.Released) > 0 {
		ever = slices.DeleteFunc(slices.Clone(ever), func(a string) bool { return n.Draft.Released[a] })
	}
	n.Proof = redirect.Prove(table, ever)
	return table, nil
}

func (a *Editions) everOf(ctx context.Context, tx Tx, s plan.Site) ([]string, error) {
	if known := a.ever.Load(); known != nil && known.site == s.ID && known.edition == s.Edition {
		return known.addresses, nil
	}
	list, err := tx.AddressesEver(ctx)
	if err == nil && tx.Steady() {
		a.ever.Store(&everAnswered{s.ID, s.Edition, list})
	}
	return list, err
}

// Proven is an address that ever answered, with what it answers from the next edition on.
type Proven struct {
	Address string
	redirect.Answer
}

// ProofOfNext tells what every address that ever answered will answer.
func (a *Editions) ProofOfNext(ctx context.Context, who plan.Person) (out []Proven, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		n, err := a.next(ctx, tx, s, who, Select{Own: true})
		if err != nil {
			return err
		}
		table, err := redirect.NewTable(n.Draft.Plan, n.Draft.Tree)
		if err != nil {
			return err
		}
		ever, err := a.everOf(ctx, tx, s)
		for _, address := range ever {
			out = append(out, Proven{address, table.Proven(address)})
		}
		return err
	})
	return out, err
}
