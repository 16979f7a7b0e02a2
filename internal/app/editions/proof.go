package editions

import (
	"context"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// history is what has to answer: the addresses that did in some edition up to one, with
// what they answer in it, the files that were shown, and besides those the addresses of older
// sites.
type history struct {
	live         *redirect.Table // of the edition
	pages, older *redirect.Replay
	files        []kept.File
	shown        map[string][]string // the entries that show them in the edition
}

// prove asks the edition for every address that ever answered, but for those it releases: of
// those that answer what they did, nothing is asked anew. What they answered is worked out once
// an edition.
func (a *Editions) prove(ctx context.Context, tx Tx, n *NextEdition) (*redirect.Table, error) {
	table, err := redirect.NewTable(n.Draft.Plan, n.Draft.Tree)
	if err != nil {
		return nil, nil // preflight tells about it
	}
	known, err := a.history(ctx, tx, n.Site)
	if err != nil {
		return nil, err
	}
	n.Proof = known.pages.Over(table, n.Draft.Released)
	older := known.older.Over(table, nil)
	n.Proof.Older, n.Proof.OlderAnswered = older.Asked, older.Answered()
	n.Proof.Again += older.Again
	then, err := n.filesShown(ctx, tx, known)
	if err != nil {
		return nil, err
	}
	codes := kept.Answers(known.files, then)
	n.filesStop = kept.Stopping(known.files, n.shows(known.shown, servedIn(n.Trees.Live)), then)
	for i, f := range known.files {
		if f.Before {
			n.Proof.AddFile(plan.FileAt(f.ID, f.Name), codes[i])
		}
	}
	return table, nil
}

// filesShown tells which of the files that ever were shown will be.
func (n *NextEdition) filesShown(ctx context.Context, tx Tx, known *history) (func(id string) bool, error) {
	if len(known.files) == 0 {
		return func(string) bool { return false }, nil
	}
	on, drafts := known.shown, map[string][]string{}
	var err error
	if n.backTo > 0 {
		on, err = tx.FilesOn(ctx, n.backTo)
	} else if len(n.drafts) > 0 {
		drafts, err = tx.FilesOn(ctx, 0)
	}
	if err != nil {
		return nil, err
	}
	goes := make(map[string]bool, len(n.drafts))
	for _, id := range n.drafts {
		goes[id] = true
	}
	served := servedIn(n.Draft.Tree)
	stays := n.shows(on, func(entry string) bool { return !goes[entry] && served(entry) })
	return func(id string) bool {
		return stays(id) || slices.ContainsFunc(drafts[id], func(entry string) bool { return goes[entry] && served(entry) })
	}, nil
}

// shows tells which files are the mark of the site, or on an entry that readers get.
func (n *NextEdition) shows(on map[string][]string, served func(entry string) bool) func(id string) bool {
	return kept.Shown(on, n.Site.IsMark, served)
}

// servedIn tells of a tree which entries readers get at an address of their own.
func servedIn(tree *sitemap.Tree) func(entry string) bool {
	return func(entry string) bool { return tree.ServedOf(entry) != "" }
}

func (a *Editions) history(ctx context.Context, tx Tx, s plan.Site) (*history, error) {
	if known, ok := a.ever.Get(s, ""); ok {
		return known, nil
	}
	now := &history{}
	if err := a.replay(ctx, tx, s, now); err != nil {
		return nil, err
	}
	var err error
	if now.files, err = tx.FilesEver(ctx, 0); err != nil {
		return nil, err
	}
	now.shown, err = tx.FilesOn(ctx, s.Edition)
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
func (a *Editions) replay(ctx context.Context, tx Tx, s plan.Site, into *history) error {
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
	into.live, into.pages, into.older = live, redirect.NewReplay(live, ever), redirect.NewReplay(live, older)
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
		then, err := n.filesShown(ctx, tx, known)
		if err != nil {
			return err
		}
		out = slices.Concat(proven(table, OfSite, known.pages.Addresses()), provenFiles(known.files, kept.Answers(known.files, then)),
			proven(table, OfOlderSite, known.older.Addresses()))
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
		served := servedIn(tree)
		codes := kept.Answers(files, (&NextEdition{Site: s}).shows(on, served))
		out = append(proven(table, OfSite, ever), provenFiles(files, codes)...)
		return err
	})
	return out, err
}
