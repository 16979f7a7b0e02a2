package editions

import (
	"context"
	"fmt"
	"slices"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
)

func (a *Editions) preflight(ctx context.Context, tx Tx, n *NextEdition, summaries []plan.PageSummary, planErr error, rollback bool) error {
	var err error
	if n.Templates, err = tx.Templates(ctx); err != nil {
		return fmt.Errorf("load templates: %w", err)
	}
	var pages []preflight.Page
	if !rollback { // an earlier edition passed already
		pages, err = checkedPages(ctx, tx, n, summaries)
	}
	if err != nil {
		return err
	}
	unvisited, err := n.unvisited(ctx, tx)
	if err != nil {
		return err
	}
	n.Findings = preflight.Check(preflight.Edition{
		Live: n.Trees.Live, Tree: n.Draft.Tree, Next: n.Trees.Next, Plan: n.Draft.Plan, PlanError: planErr, Hosts: n.Site.Hosts, Pages: pages, Navigation: n.Navigation, Rollback: rollback,
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
func checkedPages(ctx context.Context, tx Tx, n *NextEdition, summaries []plan.PageSummary) ([]preflight.Page, error) {
	shown := n.shown(summaries)
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
	for _, h := range summaries {
		written[h.EntryID] = true
	}
	empty := map[string]content.Report{} // what a page without a text breaks, by template
	for k := range n.Chosen {
		if k.Aspect != change.Added || written[k.ID] {
			continue
		}
		t := n.templateOf(k.ID)
		report, known := empty[t.Key]
		if !known {
			report = content.NewReport(t, content.Page{}, has)
			empty[t.Key] = report
		}
		pages = append(pages, preflight.Page{ID: k.ID, Report: report, Changed: true})
	}
	return inOrder(pages, n.Draft.Tree), nil
}

// inOrder sorts pages as they stand in a tree, those that are not there first.
func inOrder(pages []preflight.Page, t *sitemap.Tree) []preflight.Page {
	at := make([]int32, t.Len()) // which page stands at an index, from 1
	out := make([]preflight.Page, 0, len(pages))
	for k, p := range pages {
		if i := t.Find(p.ID); i != sitemap.None {
			at[i] = int32(k + 1)
		} else {
			out = append(out, p)
		}
	}
	for _, k := range at {
		if k > 0 {
			out = append(out, pages[k-1])
		}
	}
	return out
}

// shown picks the versions that the edition will show: the drafts that go out,
// and what is live of all other entries.
func (n *NextEdition) shown(summaries []plan.PageSummary) []plan.PageSummary {
	goes := make(map[string]bool, len(n.drafts))
	for _, id := range n.drafts {
		goes[id] = true
	}
	return slices.DeleteFunc(slices.Clone(summaries), func(h plan.PageSummary) bool { return h.Draft != goes[h.EntryID] })
}

// heldAgain finds the pages that will have another template than the one they
// were rendered with, and holds them against it.
func (n *NextEdition) heldAgain(ctx context.Context, tx Tx, shown []plan.PageSummary, has func(string) bool) (map[string]content.Report, error) {
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
