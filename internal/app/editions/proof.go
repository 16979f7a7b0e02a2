package editions

import (
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/workflow"
)

// history gives what has to answer, and what it answers in Live. It is worked out once an edition.
func (a *Editions) history(ctx context.Context, tx Tx, s plan.Site) (*edition.History, error) {
	if known, ok := a.ever.Get(s, ""); ok {
		return known, nil
	}
	now := &edition.History{}
	if err := a.replay(ctx, tx, s, now); err != nil {
		return nil, err
	}
	var err error
	if now.Files, err = tx.FilesEver(ctx, 0); err != nil {
		return nil, err
	}
	now.Shown, err = tx.FilesOn(ctx, s.Edition)
	if err == nil {
		a.ever.Put(tx, s, "", now)
	}
	return now, err
}

// addressesUntil are all addresses that answered in an edition or before, and were not released.
type addressesUntil struct {
	edition int
	list    []string // sorted
}

// historicalAddresses gives every address that answered and was not released: those that were known at an earlier edition, and
// those that came since. It is asked while the site is held or in a transaction that reads, so that none is published meanwhile.
func (a *Editions) historicalAddresses(ctx context.Context, tx Tx, s plan.Site) ([]string, error) {
	if known, ok := a.known.Get(s, ""); ok {
		return known.list, nil
	}
	if known, _, ok := a.known.Earlier(s, ""); ok {
		began, released, err := tx.AddressesSince(ctx, known.edition)
		if err != nil {
			return nil, err
		}
		if !released {
			list := slices.Concat(known.list, began)
			slices.Sort(list)
			list = slices.Compact(list)
			a.known.PutRead(s, "", addressesUntil{s.Edition, list})
			return list, nil
		}
	}
	list, err := tx.AddressesEver(ctx, 0)
	if err != nil {
		return nil, err
	}
	slices.Sort(list)
	a.known.PutRead(s, "", addressesUntil{s.Edition, list})
	return list, nil
}

// replay asks Live for all addresses.
func (a *Editions) replay(ctx context.Context, tx Tx, s plan.Site, into *edition.History) error {
	trees, err := a.TreesOf(ctx, tx, s)
	if err != nil {
		return err
	}
	rows, err := a.RedirectsOf(ctx, tx, s)
	if err != nil {
		return err
	}
	live, err := redirect.NewTable(rows, trees.Live)
	if err != nil {
		return err
	}
	ever, err := a.historicalAddresses(ctx, tx, s)
	if err != nil {
		return err
	}
	older, err := tx.OlderAddresses(ctx)
	into.Live, into.Pages, into.Older = live, redirect.NewReplay(live, ever), redirect.NewReplay(live, older)
	return err
}

// Proven is an address that ever answered, with what it answers.
type Proven struct {
	Address string
	Of      ProvenOf
	redirect.Answer
}

// ProvenOf is what an address is of.
type ProvenOf string

// What addresses are of. Those of older sites need not all answer.
const (
	OfSite      ProvenOf = "site"
	OfFile      ProvenOf = "file"
	OfOlderSite ProvenOf = "old site"
)

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
		known, err := a.history(ctx, tx, s)
		if err != nil {
			return err
		}
		ev := edition.Evidence{History: known}
		if err := n.files(ctx, tx, &ev); err != nil {
			return err
		}
		out = slices.Concat(proven(table, OfSite, known.Pages.Addresses()), provenFiles(known.Files, kept.Answers(known.Files, n.FilesThen(ev))),
			proven(table, OfOlderSite, known.Older.Addresses()))
		return nil
	})
	return out, err
}

func proven(table *redirect.Table, of ProvenOf, addresses []string) []Proven {
	out := make([]Proven, len(addresses))
	for i, address := range addresses {
		out[i] = Proven{address, of, table.Proven(address)}
	}
	return out
}

func provenFiles(files []kept.File, codes []int) (out []Proven) {
	for i, f := range files {
		if f.Before {
			out = append(out, Proven{plan.FileAt(f.ID, f.Name), OfFile, redirect.Answer{Code: codes[i]}})
		}
	}
	return out
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
		if err != nil {
			return err
		}
		files, err := tx.FilesEver(ctx, number)
		if err != nil {
			return err
		}
		on, err := tx.FilesOn(ctx, number)
		served := func(entry string) bool { return tree.ServedOf(entry) != "" }
		codes := kept.Answers(files, kept.Shown(on, s.IsMark, served))
		out = append(proven(table, OfSite, ever), provenFiles(files, codes)...)
		return err
	})
	return out, err
}
