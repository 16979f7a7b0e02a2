package editions

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/ways"
	"candlepath/internal/core/workflow"
)

// NextEdition is what the next edition would hold.
type NextEdition struct {
	Site      plan.Site
	Trees     plan.Trees
	All       []change.Change // everything planned, content too
	Chosen    change.Set      // with what it needs
	Pulled    []change.Pulled
	Draft     edition.Draft
	Ways      ways.Set // menus and trails, as they will be
	Findings  []preflight.Finding
	Decisions map[string]redirect.Decision
	Table     []redirect.Row // of Live
	Own       bool           // holds work of the person who looks
	Makers    map[change.Key]plan.Planned
	Templates []content.Template
	Planned   []change.Change          // a rollback: what was planned before it
	Why       string                   // what the person who looks wrote of it
	Beneath   []change.Beneath         // what others did since they chose
	heads     []plan.PageHead          // as they are
	drafted   map[string]plan.PageHead // of entries that have a draft
	drafts    []string                 // entries whose draft goes out, sorted
	stale     []plan.PageVersion       // pages that were rendered with another template than they will have
}

// Select picks the changes that are to go out. The zero value picks all that
// are planned, but for what a rollback took back.
type Select struct {
	Own      bool         // as the person who looks chose
	Chosen   bool         // all but LeaveOut
	LeaveOut []change.Key // with what is new below it
}

// pick gives the changes that are selected.
func (a *Editions) pick(ctx context.Context, tx Tx, n *NextEdition, who plan.Person, sel Select) (change.Set, error) {
	if sel.Chosen {
		return change.Toggle(n.Trees.Next, n.All, change.All(n.All), nil, sel.LeaveOut), nil
	}
	kept, err := keptOut(ctx, tx)
	if err != nil {
		return nil, err
	}
	var choice Choice
	if sel.Own {
		if choice, err = tx.Choice(ctx, who.ID); err != nil {
			return nil, err
		}
		n.Why = choice.Why
	}
	chosen, beneath := choice.Pick(n.Trees.Next, n.All, n.state, who.ID, kept)
	n.Beneath = beneath
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
	if n.Trees, err = a.TreesOf(ctx, tx, n.Site); err != nil {
		return err
	}
	if n.Decisions, err = tx.Decisions(ctx); err != nil {
		return err
	}
	if n.heads, err = tx.CheckedHeads(ctx); err != nil {
		return err
	}
	releases, err := tx.Releases(ctx)
	if err != nil {
		return err
	}
	n.All = append(plan.PlannedChanges(n.Trees, n.heads), releaseChanges(releases)...)
	n.makers(n.heads)
	for _, r := range releases {
		if r.Edition == 0 {
			n.Makers[change.Key{ID: r.Address, Aspect: change.Released}] = plan.Planned{PersonID: r.PersonID, At: r.At}
		}
	}
	return nil
}

// Overview is what the frame of every screen tells of the site and its next
// edition.
type Overview struct {
	Site  plan.Site
	Trees plan.Trees
	Next  *NextEdition // with all that is planned; nil: not worked out yet. It is shared and must not be changed
}

// keptNext is the next edition as every screen tells of it, as long as nothing of
// it changes.
type keptNext struct {
	of   string
	at   time.Time
	next NextEdition
}

// nextKept is how long it is kept at most: visits bear on it, too.
const nextKept = 30 * time.Second

// atOnce is the most entries, Live and Next together, for which the next edition is
// worked out while a screen waits for it. In larger sites the screen comes first.
const atOnce = 8_000

// summaryLimit is how long working out the next edition may take.
const summaryLimit = 2 * time.Minute

// Overview gives the frame of a screen what it tells, without keeping it waiting:
// in a large site Next is there only if somebody asked for Summary since the last
// change.
func (a *Editions) Overview(ctx context.Context, who plan.Person) (Overview, error) {
	o, of, err := a.look(ctx, who)
	if err != nil || o.Next != nil || o.Trees.Live.Len()+o.Trees.Next.Len() > atOnce {
		return o, err
	}
	return a.summarised(ctx, of)
}

// Summary gives the next edition with all that is planned, as every screen tells
// of it. It is worked out once for all who ask, also when the first of them
// leaves.
func (a *Editions) Summary(ctx context.Context, who plan.Person) (Overview, error) {
	o, of, err := a.look(ctx, who)
	if err != nil || o.Next != nil {
		return o, err
	}
	return a.summarised(ctx, of)
}

// look takes what is known already, and what it depends on.
func (a *Editions) look(ctx context.Context, who plan.Person) (o Overview, of string, err error) {
	err = a.Planning(ctx, who, func(tx Tx, s plan.Site, trees plan.Trees) error {
		var err error
		o, of, err = a.kept(ctx, tx, s, trees)
		return err
	})
	return o, of, err
}

// summarised waits for the next edition of a state, or a later one.
func (a *Editions) summarised(ctx context.Context, of string) (Overview, error) {
	work := a.summing.DoChan(of, func() (any, error) {
		alone, stop := context.WithTimeout(context.WithoutCancel(ctx), summaryLimit)
		defer stop()
		return a.summarise(alone)
	})
	select {
	case <-ctx.Done():
		return Overview{}, ctx.Err()
	case done := <-work:
		o, _ := done.Val.(Overview)
		return o, done.Err
	}
}

// summarise works out the next edition, or takes it as it is kept.
func (a *Editions) summarise(ctx context.Context) (Overview, error) {
	var o Overview
	err := a.Store.Read(ctx, func(tx Tx, s plan.Site) error {
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		var of string
		if o, of, err = a.kept(ctx, tx, s, trees); err != nil || o.Next != nil {
			return err
		}
		n, err := a.next(ctx, tx, s, plan.Person{}, Select{})
		if err == nil {
			a.summary.Store(&keptNext{of, a.Now(), n})
			o.Next = &n
		}
		return err
	})
	return o, err
}

// kept gives the overview with Next as it is kept, and what Next depends on.
func (a *Editions) kept(ctx context.Context, tx Tx, s plan.Site, trees plan.Trees) (o Overview, of string, err error) {
	o = Overview{Site: s, Trees: trees}
	stamp, err := tx.WorkStamp(ctx)
	if err != nil {
		return o, "", err
	}
	of = fmt.Sprint(s.ID, s.Edition, " ", s.PlanVersion, " ", s.Hosts, stamp)
	if kept := a.summary.Load(); kept != nil && kept.of == of && a.Now().Sub(kept.at) < nextKept {
		n := kept.next
		n.Site = s
		o.Next = &n
	}
	return o, of, nil
}

func (a *Editions) next(ctx context.Context, tx Tx, s plan.Site, who plan.Person, sel Select) (NextEdition, error) {
	n := NextEdition{Site: s}
	if err := a.loadPlanned(ctx, tx, &n); err != nil {
		return n, err
	}
	var err error
	if n.Table, err = tx.Table(ctx); err != nil {
		return n, err
	}
	heads := n.heads
	chosen, err := a.pick(ctx, tx, &n, who, sel)
	if err != nil {
		return n, err
	}
	n.Chosen, n.Pulled = change.Closure(n.Trees.Live, n.Trees.Next, n.All, chosen)
	n.Ways = ways.Apply(n.Trees.Ways.Live, n.Trees.Ways.Next, n.Chosen)
	n.whatGoes(heads, who)
	live := edition.Live{Tree: n.Trees.Live, Table: n.Table}
	n.Draft, err = edition.Publish(live, n.Trees.Next, n.Chosen, n.Decisions, s.Hosts, n.released())
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
	return n, a.preflight(ctx, tx, &n, heads, planErr, false)
}

func (n *NextEdition) makers(heads []plan.PageHead) {
	n.Makers, n.drafted = make(map[change.Key]plan.Planned, len(n.All)), map[string]plan.PageHead{}
	for _, h := range heads {
		if h.Draft {
			n.drafted[h.EntryID] = h
		}
	}
	for _, c := range n.All {
		switch c.Aspect {
		case change.Content:
			d := n.drafted[c.ID]
			n.Makers[c.Key] = plan.Planned{PersonID: d.PersonID, At: d.At}
		case change.Menu, change.Trail:
			n.Makers[c.Key] = n.Trees.Ways.Planned[c.ID]
		default:
			n.Makers[c.Key] = n.Trees.Planned[c.ID]
		}
	}
}

// whatGoes lists the drafts that go out, and whether any of it is own work.
func (n *NextEdition) whatGoes(heads []plan.PageHead, who plan.Person) {
	for k := range n.Chosen {
		n.Own = n.Own || n.Makers[k].PersonID == who.ID
	}
	for _, h := range heads {
		if !h.Draft {
			continue
		}
		added := n.Chosen[change.Key{ID: h.EntryID, Aspect: change.Added}]
		if added || n.Chosen[change.Key{ID: h.EntryID, Aspect: change.Content}] {
			n.drafts = append(n.drafts, h.EntryID)
			n.Own = n.Own || h.PersonID == who.ID
		}
	}
	slices.Sort(n.drafts)
}

func (a *Editions) preflight(ctx context.Context, tx Tx, n *NextEdition, heads []plan.PageHead, planErr error, takeback bool) error {
	var err error
	if n.Templates, err = tx.Templates(ctx); err != nil {
		return fmt.Errorf("load templates: %w", err)
	}
	var pages []preflight.Page
	if !takeback { // an earlier edition passed already
		pages, err = checkedPages(ctx, tx, n, heads)
	}
	if err != nil {
		return err
	}
	unvisited, err := n.unvisited(ctx, tx)
	if err != nil {
		return err
	}
	n.Findings = preflight.Check(preflight.Edition{
		Live: n.Trees.Live, Tree: n.Draft.Tree, Next: n.Trees.Next, Plan: n.Draft.Plan, PlanError: planErr, Hosts: n.Site.Hosts, Pages: pages, Ways: n.Ways, Takeback: takeback,
		Unvisited: unvisited,
	})
	return nil
}

// unvisited gives the pages without a decision that nobody ever opened.
func (n *NextEdition) unvisited(ctx context.Context, tx Tx) (map[string]bool, error) {
	var undecided []string
	for _, r := range n.Draft.Plan {
		if i := n.Trees.Live.PageAt(r.From); r.Status == redirect.Undecided && i != sitemap.None {
			undecided = append(undecided, n.Trees.Live.Ref(i).ID)
		}
	}
	if len(undecided) == 0 {
		return nil, nil
	}
	return tx.NeverVisited(ctx, undecided)
}

// checkedPages gives what preflight looks at: the reports of what goes out, and
// the links of all that stays.
func checkedPages(ctx context.Context, tx Tx, n *NextEdition, heads []plan.PageHead) ([]preflight.Page, error) {
	shown := n.shown(heads)
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	has := func(id string) bool { _, ok := people[id]; return ok }
	again, err := n.heldAgain(ctx, tx, shown, has)
	if err != nil {
		return nil, err
	}
	pages := make([]preflight.Page, 0, len(shown))
	for _, v := range shown {
		p := preflight.Page{ID: v.EntryID, Report: v.Report, Links: v.Links, Changed: v.Draft}
		if r, ok := again[v.EntryID]; ok {
			p.Report, p.Changed = r, true
		}
		pages = append(pages, p)
	}
	written := map[string]bool{}
	for _, h := range heads {
		written[h.EntryID] = true
	}
	for k := range n.Chosen {
		if k.Aspect == change.Added && !written[k.ID] {
			pages = append(pages, preflight.Page{ID: k.ID, Report: content.NewReport(n.templateOf(k.ID), content.Page{}, has), Changed: true})
		}
	}
	slices.SortFunc(pages, func(x, y preflight.Page) int {
		return n.Draft.Tree.Find(x.ID) - n.Draft.Tree.Find(y.ID)
	})
	return pages, nil
}

// shown picks the versions that the edition will show: the drafts that go out,
// and what is live of all other entries.
func (n *NextEdition) shown(heads []plan.PageHead) []plan.PageHead {
	goes := make(map[string]bool, len(n.drafts))
	for _, id := range n.drafts {
		goes[id] = true
	}
	return slices.DeleteFunc(slices.Clone(heads), func(h plan.PageHead) bool { return h.Draft != goes[h.EntryID] })
}

// heldAgain finds the pages that will have another template than the one they
// were rendered with, and holds them against it.
func (n *NextEdition) heldAgain(ctx context.Context, tx Tx, shown []plan.PageHead, has func(string) bool) (map[string]content.Report, error) {
	stale := map[bool][]string{}
	for _, v := range shown {
		i := n.Draft.Tree.Find(v.EntryID)
		if i != sitemap.None && n.Draft.Tree.Served(i) != "" && n.templateOf(v.EntryID).Key != v.Report.Template {
			stale[v.Draft] = append(stale[v.Draft], v.EntryID)
		}
	}
	out := map[string]content.Report{}
	for drafts, ids := range stale {
		pages, err := tx.PagesOf(ctx, ids, drafts)
		if err != nil {
			return nil, err
		}
		for _, p := range pages {
			out[p.EntryID] = content.NewReport(n.templateOf(p.EntryID), p.Content, has)
		}
		n.stale = append(n.stale, pages...)
	}
	return out, nil
}

// templateOf gives the template that an entry will have.
func (n *NextEdition) templateOf(entry string) content.Template {
	key := ""
	if i := n.Draft.Tree.Find(entry); i != sitemap.None {
		key = n.Draft.Tree.Ref(i).Template
	}
	return plan.TemplateOf(n.Templates, key)
}

// Decide says where the visitors of a page that is planned to go belong. to is
// "gone", an entry id, an address of Next or a URL; empty takes the decision
// back.
func (a *Editions) Decide(ctx context.Context, who plan.Person, entry, to string, temporary bool, review string) error {
	return a.Store.Write(ctx, func(tx Tx, s plan.Site) error {
		if err := plan.May(s, who, workflow.Plan); err != nil {
			return err
		}
		trees, err := a.TreesOf(ctx, tx, s)
		if err != nil {
			return err
		}
		if to = strings.TrimSpace(to); to == "" {
			return tx.DropDecision(ctx, entry)
		}
		if trees.Live.Find(entry) == sitemap.None {
			return plan.ErrNotFound
		}
		d := redirect.ParseDecision(to, 0, trees.Next)
		if i := trees.Next.PageAt(d.To.Address); d.To.Address != "" && i != sitemap.None {
			d.To = redirect.Target{Entry: trees.Next.Ref(i).ID, Suffix: d.To.Suffix}
		}
		if err := checkDecision(trees.Next, d, entry); err != nil {
			return err
		}
		d.Review = review
		if temporary && d.Code != redirect.Gone {
			d.Code = 302
		}
		return tx.PutDecision(ctx, entry, d, who.ID)
	})
}

func checkDecision(next *sitemap.Tree, d redirect.Decision, entry string) error {
	if d.Code == redirect.Gone || d.To.URL != "" {
		return nil
	}
	i := next.Find(d.To.Entry)
	switch {
	case d.To.Entry == "" || i == sitemap.None || next.Served(i) == "":
		return plan.Refuse("to", "There is no such page in Next. Choose a page, a URL that begins with https://, or gone.")
	case d.To.Entry == entry:
		return plan.Refuse("to", "A page cannot lead to itself. Choose another page.")
	}
	return nil
}
