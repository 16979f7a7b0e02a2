package editions

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/review"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// NextEdition is what the next edition would hold.
type NextEdition struct {
	Site           plan.Site
	Trees          plan.Trees
	All            []change.Change // everything planned, content too
	Chosen         change.Set      // with what it needs
	Dependencies   []change.Dependency
	Draft          edition.Draft
	Shapes         shape.Set // menus, trails and templates, as they will be
	Findings       []check.Finding
	Decisions      map[string]redirect.Decision
	Table          []redirect.Row // of Live
	Own            bool           // holds work of the person who looks
	Makers         map[change.Key]plan.Planned
	Templates      []content.Template
	Planned        []change.Change              // a rollback: what was planned before it
	Why            string                       // what the person who looks wrote of it
	Note           string                       // what they tell readers of it
	ChangedSince   []change.ChangedSince        // what others did since they chose
	Proof          redirect.Proof               // of all addresses that ever answered
	redirects      []plan.PlannedRedirect       // planned by hand
	pageSummaries  plan.Summaries               // as they are
	drafted        map[string]*plan.PageSummary // of entries that have a draft
	filesStop      []string                     // names of files that no page shows any more
	drafts         []string                     // entries whose draft goes out, sorted
	unvisited      map[string]bool              // pages without a decision that nobody ever opened
	texts          edition.Texts                // a rollback: those that are live again
	ApprovalStates map[change.Key]ApprovalState // where changes were put
	Requests       map[string]Review            // by which they were sent
	Today          string                       // as 2026-11-26
	Rules          review.Rules                 // where approval is asked
	Frozen         *workflow.Freeze             // nothing is published now
	freezes        []workflow.Freeze            // that were, are and will be
	withdraw       []Withdrawal                 // pages whose minute to be withdrawn has come
	progress       func(done int)               // is told how many pages were rendered anew
	key            string                       // differs between selections at one version of the work
	authors        review.Authors               // of what is planned
	backTo         int                          // a rollback: the edition that it goes back to
	forms          map[string]string            // of the templates, as they will be
	relaid         map[string]bool              // templates that are others than in Live
	stale          []RenderedPage               // pages that were laid out in another way than they will be, or never
}

// Select picks the changes that are to go out. The zero value picks all that
// are planned, but for what a rollback took back.
type Select struct {
	Own      bool         // as the person who looks chose
	Chosen   bool         // all but LeaveOut
	LeaveOut []change.Key // with what is new below it
	Only     []string     // what is planned of these, and nothing else

	exactly  change.Set   // these, of what is planned
	withdraw []Withdrawal // live pages that are withdrawn, besides
}

// pick gives the changes that are selected.
func (a *Editions) pick(ctx context.Context, tx Tx, n *NextEdition, who plan.Person, sel Select) (change.Set, error) {
	if sel.exactly != nil {
		chosen := maps.Clone(sel.exactly)
		for _, w := range sel.withdraw {
			chosen[change.Key{ID: w.Entry, Aspect: change.Withdrawn}] = true
		}
		return chosen, nil
	}
	if len(sel.Only) > 0 {
		chosen := change.Set{}
		for _, c := range n.All {
			if slices.Contains(sel.Only, c.ID) && c.Aspect != change.Readdressed {
				chosen[c.Key] = true
			}
		}
		return chosen, nil
	}
	if sel.Chosen {
		return change.Toggle(n.Trees.Next, n.All, change.All(n.All), nil, sel.LeaveOut), nil
	}
	kept, err := n.keptOut(ctx, tx)
	if err != nil {
		return nil, err
	}
	var choice Choice
	if sel.Own {
		if choice, err = tx.Choice(ctx, who.ID); err != nil {
			return nil, err
		}
		n.Why, n.Note = choice.Why, choice.Note
	}
	chosen, beneath := choice.Pick(n.Trees.Next, n.All, n.state, who.ID, kept)
	n.ChangedSince = beneath
	return chosen, nil
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

// loadPlanned loads all that is planned, with who planned it.
func (a *Editions) loadPlanned(ctx context.Context, tx Tx, n *NextEdition) error {
	var err error
	n.Today = a.Now().Format(time.DateOnly)
	if n.Trees, err = a.TreesOf(ctx, tx, n.Site); err != nil {
		return err
	}
	if n.Decisions, err = tx.Decisions(ctx); err != nil {
		return err
	}
	if err := n.withWithdrawals(); err != nil {
		return err
	}
	if n.freezes, err = tx.Freezes(ctx); err != nil {
		return err
	}
	n.Frozen = workflow.Frozen(n.freezes, a.Now())
	if n.pageSummaries, err = a.Summaries(ctx, tx, n.Site); err != nil {
		return err
	}
	releases, err := tx.Releases(ctx)
	if err != nil {
		return err
	}
	if n.redirects, err = tx.PlannedRedirects(ctx); err != nil {
		return err
	}
	n.All = append(plan.PlannedChanges(n.Trees, n.pageSummaries), releaseChanges(releases)...)
	n.All = append(n.All, n.redirectChanges()...)
	n.makers()
	if err := n.loadApprovalStates(ctx, tx); err != nil {
		return err
	}
	for _, r := range n.redirects {
		n.Makers[redirectKey(r.Row)] = r.Planned
	}
	for _, r := range releases {
		if r.Edition == 0 {
			n.Makers[change.Key{ID: r.Address, Aspect: change.Released}] = plan.Planned{PersonID: r.PersonID, At: r.At}
		}
	}
	return nil
}

// workOut computes what the next edition would hold.
func (a *Editions) workOut(ctx context.Context, tx Tx, s plan.Site, who plan.Person, sel Select) (NextEdition, error) {
	n := NextEdition{Site: s, withdraw: sel.withdraw}
	if err := a.loadPlanned(ctx, tx, &n); err != nil {
		return n, err
	}
	var err error
	if n.Table, err = a.RedirectsOf(ctx, tx, s); err != nil {
		return n, err
	}
	chosen, err := a.pick(ctx, tx, &n, who, sel)
	if err != nil {
		return n, err
	}
	applied := n.close(chosen)
	n.Shapes = shape.Apply(n.Trees.Shapes.Live, n.Trees.Shapes.Next, n.Chosen)
	n.whatGoes(who)
	known, err := a.history(ctx, tx, s)
	if err != nil {
		return n, err
	}
	live := edition.Live{Tree: n.Trees.Live, Table: redirect.With(n.Table, n.chosenRedirects()), Index: known.live}
	n.Draft, err = edition.Publish(live, n.Trees.Next, n.Chosen, applied, n.Decisions, s.Answers(), n.released())
	planErr := err
	if err != nil {
		if !errors.Is(err, redirect.ErrTable) {
			return n, fmt.Errorf("prepare edition: %w", err)
		}
		if n.Draft.Tree, err = change.Apply(n.Trees.Live, n.Trees.Next, n.Chosen); err != nil {
			return n, fmt.Errorf("prepare edition: %w", err)
		}
	}
	if errors.Is(planErr, redirect.ErrTable) {
		n.Draft.Next = n.Trees.Next
	} else {
		planErr = nil
	}
	return n, a.preflight(ctx, tx, &n, planErr, false)
}

// close takes up what is chosen with all that it needs, and gives the tree that comes of it
// where that is known.
func (n *NextEdition) close(chosen change.Set) (applied *sitemap.Tree) {
	var also []change.Dependency
	for {
		n.Chosen, n.Dependencies, applied = change.Closure(n.Trees.Live, n.Trees.Next, n.All, chosen)
		needs := shape.Needs(n.Trees.Shapes.Live, n.Trees.Shapes.Next, n.Trees.Live, n.Trees.Next, n.All, n.Chosen)
		needs = append(needs, n.redirectNeeds()...)
		if len(needs) == 0 {
			n.Dependencies = append(n.Dependencies, also...)
			return applied
		}
		also, chosen = append(also, needs...), maps.Clone(n.Chosen)
		for _, p := range needs {
			chosen[p.Key] = true
		}
	}
}

func (n *NextEdition) makers() {
	n.Makers, n.drafted = make(map[change.Key]plan.Planned, len(n.All)), n.pageSummaries.ByEntry()
	for _, c := range n.All {
		switch c.Aspect {
		case change.Content:
			d := n.drafted[c.ID]
			n.Makers[c.Key] = plan.Planned{PersonID: d.PersonID, At: d.At}
		case change.Menu, change.Trail, change.Layout:
			n.Makers[c.Key] = n.Trees.Shapes.Planned[c.ID]
		default:
			n.Makers[c.Key] = n.Trees.Planned[c.ID]
		}
	}
}

// whatGoes lists the drafts that go out, and whether any of it is own work.
func (n *NextEdition) whatGoes(who plan.Person) {
	for id := range n.drafted {
		if change.TextGoes(n.Chosen, id) {
			n.drafts = append(n.drafts, id)
		}
	}
	slices.Sort(n.drafts)
	n.Own = n.holdsWorkOf(who)
}

// approvedByOthers gives the changes that somebody else than a person approved.
func (n *NextEdition) approvedByOthers(who plan.Person) change.Set {
	out := change.Set{}
	if len(n.ApprovalStates) == 0 {
		return out
	}
	for _, c := range n.All {
		if by, approved := n.approval(c); approved && by != who.ID {
			out[c.Key] = true
		}
	}
	return out
}

// holdsWorkOf tells whether a person made something of it that nobody else approved.
func (n *NextEdition) holdsWorkOf(who plan.Person) bool { return n.ownWorkOf(who) != "" }

// ownWorkOf gives the title of the first chosen thing that a person made something of and nobody else
// approved; empty: there is none.
func (n *NextEdition) ownWorkOf(who plan.Person) string {
	if who.ID == "" {
		return ""
	}
	approved := n.approvedByOthers(who)
	for _, c := range n.All {
		if n.Chosen[c.Key] && !approved[c.Key] && slices.Contains(n.AuthorsOf(c.Key), who.ID) {
			return n.Trees.Title(c.ID)
		}
	}
	return ""
}
