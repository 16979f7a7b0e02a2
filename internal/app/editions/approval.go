package editions

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/review"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// ApprovalState is where a planned change was put, and when.
type ApprovalState struct {
	workflow.ApprovalState
	At   time.Time
	GoAt time.Time // of a scheduled one: its minute
	Zone string    // in which that was said
	By   string    // who put it there, where that is not who approved it

	Approved bool // of a scheduled one: somebody approved it; else it was given its date as a draft, where nothing is asked
}

// Review is a request that somebody look at changes.
type Review struct {
	ID, From string
	To       string // a person, or a role as GroupOfRole words it; empty: whoever may publish
	Message  string
	Due      string // as 2026-11-30; empty: no day
	At       time.Time
	Informed []string // who is told what becomes of it, besides who sent it
}

// GroupOfRole stands for everybody of a role who may publish, where a person could.
func GroupOfRole(role workflow.Role) string { return group + string(role) }

const group = "group:"

// Role gives the role that is asked; empty: a person is, or whoever may publish.
func (r Review) Role() workflow.Role {
	role, _ := strings.CutPrefix(r.To, group)
	if role == r.To {
		return ""
	}
	return workflow.Role(role)
}

// Asked gives the person who is asked; empty: several are.
func (r Review) Asked() string {
	if r.Role() != "" {
		return ""
	}
	return r.To
}

// Overdue tells whether its day is past.
func (r Review) Overdue(today string) bool { return r.Due != "" && r.Due < today }

// loadApprovalStates loads where what is planned was put, and where approval is asked.
func (n *NextEdition) loadApprovalStates(ctx context.Context, tx Tx) error {
	var err error
	if n.ApprovalStates, err = tx.ApprovalStates(ctx); err != nil {
		return fmt.Errorf("load where changes stand: %w", err)
	}
	if len(n.ApprovalStates) > 0 {
		if n.Requests, err = tx.Reviews(ctx); err != nil {
			return err
		}
	}
	n.Rules.Site = n.Site.ApprovalPolicy()
	if n.Rules.Branches, err = tx.BranchAsks(ctx); err != nil || len(n.All) == 0 {
		return err
	}
	if n.authors, err = tx.Authors(ctx); err != nil {
		return fmt.Errorf("load the authors: %w", err)
	}
	return nil
}

// AuthorsOf gives who made a change. One that a date makes is made by who said the date.
func (n *NextEdition) AuthorsOf(k change.Key) []string {
	if made := n.authors.Of(k); len(made) > 0 {
		return made
	}
	if by := n.Makers[k].PersonID; by != "" {
		return []string{by}
	}
	return nil
}

// Stamp tells the wording of a change from others.
func (n *NextEdition) Stamp(c change.Change) string {
	var of review.Of
	if i := n.Trees.Next.Find(c.ID); i != sitemap.None {
		of.Entry = n.Trees.Next.Ref(i)
	}
	switch c.Aspect {
	case change.Content, change.Added:
		if text, written := n.drafted[c.ID]; written {
			of.Version = fmt.Sprint(text.VersionID, " ", text.Version)
		}
	case change.Menu, change.Trail, change.Layout, change.Redirect, change.Released:
		of.Version = n.Makers[c.Key].At.UTC().Format(time.RFC3339Nano)
	case change.Removed, change.Withdrawn, change.Placement:
		if d, decided := n.Decisions[c.ID]; decided {
			of.Decision = &d
		}
	}
	return review.Stamp(c, of)
}

// StateOf tells where a change stands.
func (n *NextEdition) StateOf(c change.Change) (workflow.State, workflow.ApprovalState) {
	if w, due := n.withdrawal(c.Key); due {
		return workflow.Scheduled, workflow.ApprovalState{State: workflow.Scheduled, Person: w.Person}
	}
	s, put := n.ApprovalStates[c.Key]
	if !put {
		return workflow.Draft, s.ApprovalState
	}
	return s.Now(n.Stamp(c)), s.ApprovalState
}

// AsksOf tells what is asked of a change before it goes out.
func (n *NextEdition) AsksOf(k change.Key) workflow.ApprovalPolicy {
	return n.Rules.Of(n.Trees.Live, n.Trees.Next, k)
}

// Waits tells whether a change lacks the approval that is asked of it now: what was approved while less was
// asked is held against what is asked today.
func (n *NextEdition) Waits(c change.Change) bool {
	asks := n.AsksOf(c.Key)
	if c.Aspect == change.Readdressed || asks == workflow.NoApproval {
		return false
	}
	by, approved := n.approval(c)
	return !approved || asks == workflow.FourEyes && slices.Contains(n.AuthorsOf(c.Key), by)
}

// approval gives who approved a change as it is now, if somebody did.
func (n *NextEdition) approval(c change.Change) (by string, approved bool) {
	state, s := n.StateOf(c)
	switch state {
	case workflow.Ready:
		return s.Person, true
	case workflow.Scheduled:
		put, there := n.ApprovalStates[c.Key]
		return s.Person, there && put.Approved
	}
	return "", false
}

// TextState tells where the text of a page stands that is planned, and who put it there.
func (n *NextEdition) TextState(entry string) (workflow.State, workflow.ApprovalState) {
	for _, c := range n.All {
		if c.ID == entry && (c.Aspect == change.Content || c.Aspect == change.Added) {
			return n.StateOf(c)
		}
	}
	return workflow.Draft, workflow.ApprovalState{}
}

// AskedOf counts the things that wait for the review of a person, and those of them of which the
// day is past.
func (n *NextEdition) AskedOf(who plan.Person) (waiting, overdue int) {
	met := map[string]bool{}
	for _, c := range n.All {
		state, s := n.StateOf(c)
		r := n.Requests[s.Review]
		if state != workflow.InReview || met[c.ID] || !r.asks(n.Site.Rights(), who) {
			continue
		}
		met[c.ID] = true
		if waiting++; r.Overdue(n.Today) {
			overdue++
		}
	}
	return waiting, overdue
}

// asks tells whether a request is for a person.
func (r Review) asks(rights workflow.Site, who plan.Person) bool {
	switch {
	case r.To == who.ID:
		return true
	case r.From == who.ID || who.Inactive || !rights.May(who.Role, workflow.Publish):
		return false
	}
	return r.To == "" || r.Role() == who.Role
}

// unapproved gives what is chosen and lacks the approval that it needs.
func (n *NextEdition) unapproved() (out []preflight.Unapproved) {
	if n.Rules.None() {
		return nil
	}
	for _, c := range n.All {
		if n.Chosen[c.Key] && n.Waits(c) {
			state, _ := n.StateOf(c)
			out = append(out, preflight.Unapproved{ID: c.ID, Title: n.Trees.Title(c.ID), Sent: state == workflow.InReview})
		}
	}
	return out
}
