package editions

import (
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/workflow"
)

// everAnswered is what has to answer: the addresses that did in some edition up to one, and
// besides those of older sites.
type everAnswered struct {
	site      string
	edition   int
	addresses []string
	files     int
	stamp     string // of the older sites
	older     []string
}

// prove asks the edition for every address that ever answered, but for those it releases. The
// list of addresses is read once an edition.
func (a *Editions) prove(ctx context.Context, tx Tx, n *NextEdition) (*redirect.Table, error) {
	table, err := redirect.NewTable(n.Draft.Plan, n.Draft.Tree)
	if err != nil {
		return nil, nil // preflight tells about it
	}
	known, err := a.everOf(ctx, tx, n.Site)
	if err != nil {
		return nil, err
	}
	ever := known.addresses
	if len(n.Draft.Released) > 0 {
		ever = slices.DeleteFunc(slices.Clone(ever), func(a string) bool { return n.Draft.Released[a] })
	}
	n.Proof = redirect.Prove(table, ever)
	n.Proof.Files, n.Proof.Older = known.files, len(known.older)
	n.Proof.OlderAnswered = redirect.Prove(table, known.older).Answered()
	return table, nil
}

func (a *Editions) everOf(ctx context.Context, tx Tx, s plan.Site) (*everAnswered, error) {
	stamp, err := tx.OlderStamp(ctx)
	if err != nil {
		return nil, err
	}
	known := a.ever.Load()
	if known != nil && known.site == s.ID && known.edition == s.Edition && known.stamp == stamp {
		return known, nil
	}
	now := &everAnswered{site: s.ID, edition: s.Edition, stamp: stamp}
	if now.addresses, err = tx.AddressesEver(ctx, 0); err != nil {
		return nil, err
	}
	if now.files, err = tx.FilesShown(ctx); err != nil {
		return nil, err
	}
	now.older, err = tx.OlderAddresses(ctx)
	if err == nil && tx.Steady() {
		a.ever.Store(now)
	}
	return now, err
}

// Proven is an address that ever answered, with what it answers from the next edition on.
type Proven struct {
	Address string
	Older   bool // of an older site, whose addresses need not all answer
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
		known, err := a.everOf(ctx, tx, s)
		if err != nil {
			return err
		}
		for _, address := range known.addresses {
			out = append(out, Proven{Address: address, Answer: table.Proven(address)})
		}
		for _, address := range known.older {
			out = append(out, Proven{Address: address, Older: true, Answer: table.Proven(address)})
		}
		return nil
	})
	return out, err
}

// ProofOf tells what every address that had answered until then answered in an edition.
func (a *Editions) ProofOf(ctx context.Context, who plan.Person, number int) (out []Proven, err error) {
	err = a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		if number < 1 || number > s.Edition {
			return plan.ErrNotFound
		}
		tree, err := tx.TreeAt(ctx, number)
		if err != nil {
			return err
		}
		rows, err := tx.TableAt(ctx, number)
		if err != nil {
			return err
		}
		table, err := redirect.NewTable(rows, tree)
		if err != nil {
			return err
		}
		ever, err := tx.AddressesEver(ctx, number)
		for _, address := range ever {
			out = append(out, Proven{Address: address, Answer: table.Proven(address)})
		}
		return err
	})
	return out, err
}
