package editions

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/review"
	"candlepath/internal/core/workflow"
)

// Work is all that is planned, with what people asked of each other about it.
type Work struct {
	Site plan.Site
	*edition.Work
	Requests map[string]Review // by which changes were sent
}

// load reads all that is planned, with who planned it and where it stands.
func (a *Editions) load(ctx context.Context, tx Tx, s plan.Site) (Work, error) {
	in := edition.Input{
		Today: a.Now().Format(time.DateOnly), Rights: s.Rights(), Hosts: s.Answers(), IsMark: s.IsMark, Rules: review.Rules{Site: s.ApprovalPolicy()},
	}
	summaries, err := a.Summaries(ctx, tx, s)
	if err != nil {
		return Work{}, err
	}
	in.Pages, in.Drafts = summaries, summaries.Drafts
	for _, read := range []func() error{
		func() (err error) { in.Trees, err = a.TreesOf(ctx, tx, s); return err },
		func() (err error) { in.Decisions, err = tx.Decisions(ctx); return err },
		func() (err error) { in.Freezes, err = tx.Freezes(ctx); return err },
		func() (err error) { in.Redirects, err = tx.PlannedRedirects(ctx); return err },
		func() (err error) { in.Releases, err = plannedReleases(ctx, tx); return err },
		func() (err error) { in.ApprovalStates, err = tx.ApprovalStates(ctx); return err },
		func() (err error) { in.Rules.Branches, err = tx.BranchAsks(ctx); return err },
		func() (err error) { in.Authors, err = tx.Authors(ctx); return err },
		func() (err error) { in.LeftOut, err = tx.LeftOut(ctx); return err },
	} {
		if err := read(); err != nil {
			return Work{}, fmt.Errorf("load what is planned: %w", err)
		}
	}
	w := Work{Site: s, Work: edition.NewWork(in)}
	if len(in.ApprovalStates) > 0 {
		w.Requests, err = tx.Reviews(ctx)
	}
	return w, err
}

// plannedReleases are the addresses that are to be given up.
func plannedReleases(ctx context.Context, tx Tx) (out []edition.PlannedRelease, err error) {
	list, err := tx.Releases(ctx)
	for _, r := range list {
		if r.Edition == 0 {
			out = append(out, edition.PlannedRelease{Address: r.Address, Why: r.Why, Planned: plan.Planned{PersonID: r.PersonID, At: r.At}})
		}
	}
	return out, err
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

// TextState tells where the text of a page stands that is planned, and who put it there.
func (w Work) TextState(entry string) (workflow.State, workflow.ApprovalState) {
	i := slices.IndexFunc(w.All, func(c change.Change) bool {
		return c.ID == entry && (c.Aspect == change.Content || c.Aspect == change.Added)
	})
	if i < 0 {
		return workflow.Draft, workflow.ApprovalState{}
	}
	return w.StateOf(w.All[i])
}

// AskedOf counts the things that wait for the review of a person, and those of them of which the
// day is past.
func (w Work) AskedOf(who plan.Person) (waiting, overdue int) {
	met := map[string]bool{}
	for _, c := range w.All {
		state, s := w.StateOf(c)
		r := w.Requests[s.Review]
		if state != workflow.InReview || met[c.ID] || !r.asks(w.Rights, who) {
			continue
		}
		met[c.ID] = true
		if waiting++; r.Overdue(w.Today) {
			overdue++
		}
	}
	return waiting, overdue
}
