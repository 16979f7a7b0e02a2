package editions

import (
	"context"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

func (a *Editions) preflight(ctx context.Context, tx Tx, n *NextEdition, planErr error, rollback bool) error {
	var err error
	n.layouts()
	var pages []preflight.Page
	var stay *link.Map
	if !rollback { // an earlier edition passed already
		if pages, err = n.changedPages(ctx, tx); err != nil {
			return err
		}
		stay = n.pageSummaries.Links(n.Trees.Live)
	}
	if n.unvisited, err = n.neverVisited(ctx, tx); err != nil {
		return err
	}
	answers, err := a.prove(ctx, tx, n)
	if err != nil {
		return err
	}
	var unapproved []preflight.Unapproved
	if !rollback {
		unapproved = n.unapproved()
	}
	n.Findings = preflight.Check(preflight.Edition{
		Answers: answers, Proof: n.Proof, Unapproved: unapproved,
		Live: n.Trees.Live, Tree: n.Draft.Tree, Next: n.Trees.Next, Plan: n.Draft.Plan, PlanError: planErr, Hosts: n.Site.Answers(), Pages: pages, Stay: stay, Shapes: n.Shapes, Before: n.Trees.Shapes.Live, Rollback: rollback,
		Unvisited: n.unvisited, FilesStop: n.filesStop,
	})
	return nil
}

// layouts takes up the templates as they will be, and which of them are others than in Live.
func (n *NextEdition) layouts() {
	n.Templates, n.forms, n.relaid = n.Shapes.Templates(), map[string]string{}, map[string]bool{}
	for _, t := range n.Templates {
		n.forms[t.Key] = t.Form()
	}
	for _, p := range shape.Patches(n.Trees.Shapes.Live, n.Shapes) {
		if key := shape.TemplateOf(p.ID); key != "" {
			n.relaid[key] = true
		}
	}
}

// neverVisited gives the pages without a decision that nobody ever opened.
func (n *NextEdition) neverVisited(ctx context.Context, tx Tx) (map[string]bool, error) {
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

// changedPages gives the pages that are another from this edition on: those whose text
// goes out or is shown with another template, and those that come without a text.
func (n *NextEdition) changedPages(ctx context.Context, tx Tx) ([]preflight.Page, error) {
	people, err := plan.PeopleByID(ctx, tx)
	if err != nil {
		return nil, err
	}
	has := func(id string) bool { _, ok := people[id]; return ok }
	shown, bare := n.shown()
	again, err := n.heldAgain(ctx, tx, shown, has)
	if err != nil {
		return nil, err
	}
	pages := make([]preflight.Page, 0, len(shown)+len(bare))
	changes := make(map[string]bool, len(shown))
	for _, v := range shown {
		changes[v.EntryID] = true
		if r, ok := again[v.EntryID]; ok {
			pages = append(pages, preflight.Page{ID: v.EntryID, Report: &r, Links: v.Links})
		} else if v.Draft {
			pages = append(pages, preflight.Page{ID: v.EntryID, Report: &v.Report, Links: v.Links})
		}
	}
	follow, err := n.following(ctx, tx, changes, has)
	if err != nil {
		return nil, err
	}
	pages = append(pages, follow...)
	empty := map[string]*content.Report{} // what a page without a text breaks, by template
	for _, id := range bare {
		t := n.templateOf(id)
		if empty[t.Key] == nil {
			report := content.NewReport(t, content.Page{}, has)
			empty[t.Key] = &report
		}
		pages = append(pages, preflight.Page{ID: id, Report: empty[t.Key]})
	}
	return pages, nil
}

// shown gives the versions that the edition shows of the entries that it changes, and the
// entries that come without a text.
func (n *NextEdition) shown() (texts []*plan.PageSummary, bare []string) {
	goes := make(map[string]bool, len(n.drafts))
	for _, id := range n.drafts {
		goes[id] = true
		texts = append(texts, n.drafted[id])
	}
	for k := range n.Chosen {
		if k.Aspect == change.Readdressed || goes[k.ID] {
			continue
		}
		v, live := n.pageSummaries.LiveOf(k.ID)
		switch {
		case live && n.Trees.Live.Find(k.ID) != sitemap.None:
			goes[k.ID] = true
			texts = append(texts, v)
		case k.Aspect == change.Added:
			bare = append(bare, k.ID)
		}
	}
	return texts, bare
}

// heldAgain finds the pages that will be laid out in another way than they were or were never
// rendered, and holds them against their template.
func (n *NextEdition) heldAgain(ctx context.Context, tx Tx, shown []*plan.PageSummary, has func(string) bool) (map[string]content.Report, error) {
	stale, fits, found := map[bool][]string{}, map[string]bool{}, map[string]bool{}
	asks := n.asksTheSame()
	for _, v := range shown {
		i := n.Draft.Tree.Find(v.EntryID)
		t := n.templateOf(v.EntryID)
		if i == sitemap.None {
			continue
		}
		fits[v.EntryID] = n.Draft.Tree.Served(i) == "" || v.Report.Fits(t, n.forms[t.Key], n.relaid[t.Key])
		if v.Unrendered || !fits[v.EntryID] {
			found[v.EntryID] = !v.Draft && v.Report.Form != "" && asks[t.Key] == v.Report.Form
			stale[v.Draft] = append(stale[v.Draft], v.EntryID)
		}
	}
	out := map[string]content.Report{}
	for drafts, ids := range stale {
		pages, err := tx.BareTextsOf(ctx, ids, drafts)
		if err != nil {
			return nil, err
		}
		for _, p := range pages {
			t := n.templateOf(p.EntryID)
			p.Report = content.NewReportBy(t, n.forms[t.Key], p.Content, has)
			out[p.EntryID] = p.Report
			n.stale = append(n.stale, RenderedPage{p, fits[p.EntryID], found[p.EntryID]})
		}
	}
	return out, nil
}

// asksTheSame gives the forms in Live of the templates that ask for the same facts and slots as they
// will.
func (n *NextEdition) asksTheSame() map[string]string {
	out := map[string]string{}
	for _, old := range n.Trees.Shapes.Live.Templates() {
		if n.relaid[old.Key] && content.AskTheSame(old, plan.TemplateOf(n.Templates, old.Key)) {
			out[old.Key] = old.Form()
		}
	}
	return out
}

// following gives the pages of Live that do not change by themselves and whose template
// does, with what it asks of them.
func (n *NextEdition) following(ctx context.Context, tx Tx, changes map[string]bool, has func(string) bool) (out []preflight.Page, err error) {
	if len(n.relaid) == 0 {
		return nil, nil
	}
	var follow []*plan.PageSummary
	for i := range n.pageSummaries.Live() {
		if v := &n.pageSummaries.Live()[i]; !changes[v.EntryID] && n.relaid[v.Report.Template] {
			follow = append(follow, v)
		}
	}
	reports, err := n.heldAgain(ctx, tx, follow, has)
	for _, v := range follow {
		if r, ok := reports[v.EntryID]; ok && len(r.Problems) > 0 {
			out = append(out, preflight.Page{ID: v.EntryID, Report: &r, Follows: true})
		}
	}
	return out, err
}

// templateOf gives the template that an entry will have.
func (n *NextEdition) templateOf(entry string) content.Template {
	key := ""
	if i := n.Draft.Tree.Find(entry); i != sitemap.None {
		key = n.Draft.Tree.Ref(i).Template
	}
	return plan.TemplateOf(n.Templates, key)
}
