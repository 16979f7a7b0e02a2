package editions

import (
	"context"
	"errors"
	"fmt"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/workflow"
)

// NextEdition is the edition that a selection would make: the work, what is proposed of it, and what the checks
// found. It is shared and must not be changed.
type NextEdition struct {
	Work
	*edition.Proposal
	edition.Checks
	Table  []redirect.Row   // of Live
	Why    string           // what the person who looks wrote of it
	Note   string           // what they tell readers of it
	Frozen *workflow.Freeze // nothing is published now

	texts []plan.PageVersion // of the pages that are laid out anew
	at    time.Time          // when somebody looked
	key   string             // differs between selections at one version of the work
}

// Select picks the changes that are to go out. The zero value picks all that
// are planned, but for what a rollback took back.
type Select struct {
	Own      bool         // as the person who looks chose
	Chosen   bool         // all but LeaveOut
	LeaveOut []change.Key // with what is new below it
	Only     []string     // what is planned of these, and nothing else

	exactly change.Set        // these, of what is planned
	leaving []edition.Leaving // live pages that are withdrawn, besides
	restore int               // this edition, and nothing of what is planned; 0: none
}

// selection reads what a selection says, with what the person who looks wrote beside their choice.
func (a *Editions) selection(ctx context.Context, tx Tx, s plan.Site, who plan.Person, sel Select) (out edition.Selection, choice Choice, err error) {
	out = edition.Selection{Exactly: sel.exactly, Only: sel.Only, Every: sel.Chosen, LeaveOut: sel.LeaveOut, Person: who.ID, Leaving: sel.leaving}
	if sel.Own {
		choice, err = tx.Choice(ctx, who.ID)
		out.Choice = choice.Choice
	}
	if sel.restore > 0 && err == nil {
		out.Restore, err = earlier(ctx, tx, s, sel.restore)
	}
	return out, choice, err
}

// earlier reads an edition that may be restored.
func earlier(ctx context.Context, tx Tx, s plan.Site, number int) (*edition.Earlier, error) {
	e := &edition.Earlier{Number: number}
	var err error
	if e.Tree, err = tx.TreeAt(ctx, number); err != nil {
		return nil, fmt.Errorf("load edition %d: %w", number, err)
	}
	if e.Shapes, err = tx.ShapesAt(ctx, number); err != nil {
		return nil, err
	}
	if e.Then, err = tx.TextsAt(ctx, number); err != nil {
		return nil, err
	}
	if e.Now, err = tx.TextsAt(ctx, s.Edition); err != nil {
		return nil, err
	}
	e.Withheld, err = tx.WithheldEntries(ctx)
	return e, err
}

// looked makes it one that somebody looks at now.
func (n *NextEdition) looked(now time.Time) {
	n.at, n.Frozen = now, workflow.Frozen(n.Freezes, now)
}

// LookAhead computes the next edition and its preflight.
func (a *Editions) LookAhead(ctx context.Context, who plan.Person, sel Select) (NextEdition, error) {
	var n NextEdition
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		var err error
		n, err = a.next(ctx, tx, s, who, sel)
		return err
	})
	return n, err
}

// workOut computes what the next edition would hold: it reads the work, has the core propose an edition, reads
// what that has to be held against, and has the core check it.
func (a *Editions) workOut(ctx context.Context, tx Tx, s plan.Site, who plan.Person, sel Select) (NextEdition, error) {
	w, err := a.load(ctx, tx, s)
	if err != nil {
		return NextEdition{}, err
	}
	n := NextEdition{Work: w}
	n.looked(a.Now())
	if n.Table, err = a.RedirectsOf(ctx, tx, s); err != nil {
		return n, err
	}
	selected, choice, err := a.selection(ctx, tx, s, who, sel)
	if err != nil {
		return n, err
	}
	n.Why, n.Note = choice.Why, choice.Note
	history, err := a.history(ctx, tx, s)
	if err != nil {
		return n, err
	}
	live := edition.Live{Tree: w.Trees.Live, Table: n.Table, Index: history.Live}
	if n.Proposal, err = edition.Propose(w.Work, live, selected); err != nil {
		return n, err
	}
	n.Work.Work = n.Proposal.Work()
	evidence, err := a.evidence(ctx, tx, &n, history)
	if err == nil {
		n.Checks = edition.Check(n.Proposal, evidence)
	}
	return n, err
}

// evidence reads what a proposal is held against.
func (a *Editions) evidence(ctx context.Context, tx Tx, n *NextEdition, history *edition.History) (ev edition.Evidence, err error) {
	ev.History = history
	if ev.Unvisited, err = neverVisited(ctx, tx, n.Undecided); err != nil {
		return ev, err
	}
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return ev, err
	}
	ev.HasPerson = func(id string) bool { _, ok := people[id]; return ok }
	if n.texts, err = textsOf(ctx, tx, n.Relaid); err != nil {
		return ev, err
	}
	ev.Texts = make(map[string]content.Page, len(n.texts))
	for _, p := range n.texts {
		ev.Texts[p.EntryID] = p.Content
	}
	return ev, n.files(ctx, tx, &ev)
}

// files reads which files drafts and the edition to be restored show.
func (n *NextEdition) files(ctx context.Context, tx Tx, ev *edition.Evidence) (err error) {
	switch {
	case len(ev.History.Files) == 0:
	case n.BackTo > 0:
		ev.ThenFiles, err = tx.FilesOn(ctx, n.BackTo)
	case len(n.Outgoing) > 0:
		ev.DraftFiles, err = tx.FilesOn(ctx, 0)
	}
	return err
}

// neverVisited gives the pages without a decision that nobody ever opened.
func neverVisited(ctx context.Context, tx Tx, undecided []string) (map[string]bool, error) {
	if len(undecided) == 0 {
		return nil, nil
	}
	return tx.NeverVisited(ctx, undecided)
}

// textsOf reads the texts of pages that are laid out anew.
func textsOf(ctx context.Context, tx Tx, relaid []edition.Relaid) (out []plan.PageVersion, err error) {
	ids := map[bool][]string{}
	for _, r := range relaid {
		ids[r.Draft] = append(ids[r.Draft], r.Entry)
	}
	for _, drafts := range []bool{true, false} {
		if len(ids[drafts]) == 0 {
			continue
		}
		pages, err := tx.BareTextsOf(ctx, ids[drafts], drafts)
		if err != nil {
			return nil, err
		}
		out = append(out, pages...)
	}
	return out, nil
}

// Verdict is what the core judged of an edition, in the words of the use cases.
type Verdict struct {
	edition.Verdict
	next *NextEdition
}

// judge holds an edition against all that bears on whether a person may bring it out by a road at a time.
func (n *NextEdition) judge(who plan.Person, road workflow.Road, now time.Time) Verdict {
	return Verdict{edition.Judge(n.Proposal, n.Checks, edition.Publisher{ID: who.ID, Role: who.Role}, road, now), n}
}

// Hinders tells what keeps a person from publishing the edition as it is.
func (n *NextEdition) Hinders(who plan.Person) workflow.Hindrance {
	return n.judge(who, workflow.ByHand, n.at).Hindrance
}

// Err gives what stands in the way as an error; nil where nothing does.
func (v Verdict) Err() error {
	switch v.Hindrance {
	case workflow.None:
		if v.Allows(v.next.Proposal) {
			return nil
		}
		return errors.New("an edition was released that was not judged")
	case workflow.NoRight:
		return plan.ErrForbidden
	case workflow.Froze:
		return plan.Refuse("why", frozenWords(*v.Freeze))
	case workflow.OwnChanges:
		return &OwnWork{v.OwnWork}
	case workflow.Errors:
		return &NotReady{v.Findings}
	case workflow.Empty:
		if v.next.BackTo > 0 {
			return plan.Refuse("to", "This edition is the same as the live one, so there is nothing to restore.")
		}
		return plan.Refuse("changes", "Select at least one change to publish.")
	}
	return fmt.Errorf("hindrance %q has no words", v.Hindrance)
}

// summaries tells the changes of an edition as it is to keep them.
func (n *NextEdition) summaries() []plan.ChangeSummary {
	out := []plan.ChangeSummary{}
	trees := plan.Trees{Live: n.Trees.Live, Next: n.Draft.Tree, Shapes: plan.Shapes{Live: n.Trees.Shapes.Live, Next: n.Shapes}}
	for _, c := range n.Changes {
		if !n.Chosen[c.Key] {
			continue
		}
		summary := plan.ChangeSummary{EntryID: c.ID, Title: trees.Title(c.ID), Aspect: c.Aspect, Words: change.Words(c, trees.Live, trees.Next)}
		if c.Aspect == change.Placement {
			summary.How = c.Because
		}
		if state, s := n.StateOf(c); n.BackTo == 0 && (state == workflow.Ready || state == workflow.Scheduled) {
			summary.ApprovedBy = s.Person
		}
		out = append(out, summary)
	}
	return out
}
