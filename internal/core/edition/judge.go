package edition

import (
	"slices"
	"time"

	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/core/content"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/setting"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// History is what has to answer, and what it answers in Live: the addresses that answered in some edition, those
// of old sites, and the files that were shown.
type History struct {
	Live         *redirect.Table
	Pages, Older *redirect.Replay
	Files        []kept.File
	Shown        map[string][]string // the entries that show them in Live
}

// Evidence is what is read to check a proposal, because of what it proposes.
type Evidence struct {
	History    *History
	Unvisited  map[string]bool         // of its Undecided: those that nobody ever opened
	Texts      map[string]content.Page // of its Relaid, by entry
	HasPerson  func(id string) bool
	DraftFiles map[string][]string // the entries whose draft shows a file
	ThenFiles  map[string][]string // the entries that show a file in the edition that is restored
}

// Checks is what the checks find of a proposal.
type Checks struct {
	Findings  []check.Finding
	Proof     redirect.Proof            // of all addresses that ever answered
	Reports   map[string]content.Report // of pages that are laid out anew, by entry
	Unvisited map[string]bool           // as the evidence has them
}

// Check holds a proposal against all that has to answer and the rules of preflight.
func Check(p *Proposal, ev Evidence) Checks {
	c := Checks{Unvisited: ev.Unvisited}
	e := preflight.Edition{
		Live: p.work.Trees.Live, Tree: p.Draft.Tree, Next: p.work.Trees.Next, Plan: p.Draft.Plan, PlanError: p.planErr, Hosts: p.work.Hosts,
		Shapes: p.Shapes, Before: p.work.Trees.Shapes.Live, Rollback: p.BackTo > 0, Unvisited: ev.Unvisited,
	}
	if p.BackTo == 0 { // an earlier edition passed already
		c.Reports = p.reports(ev)
		e.Pages, e.Stay, e.Unapproved = p.pages(c.Reports, ev.HasPerson), p.work.Pages.Links(p.work.Trees.Live), p.unapproved()
	}
	if table, err := redirect.NewTable(p.Draft.Plan, p.Draft.Tree); err == nil { // else preflight tells
		e.Answers = table
		c.Proof, e.FilesStop = p.prove(table, ev)
		e.Proof = c.Proof
	}
	c.Findings = preflight.Check(e)
	return c
}

// prove asks for every address that ever answered, but for those that are released, and names the files that
// stop: of those that answer what they did, nothing is asked anew.
func (p *Proposal) prove(table *redirect.Table, ev Evidence) (redirect.Proof, []string) {
	h := ev.History
	proof := h.Pages.Over(table, p.Draft.Released)
	older := h.Older.Over(table, nil)
	proof.Older, proof.OlderAnswered = older.Asked, older.Answered()
	proof.Again += older.Again
	then := p.FilesThen(ev)
	for i, code := range kept.Answers(h.Files, then) {
		if f := h.Files[i]; f.Before {
			proof.AddFile(fileAddress(f), code)
		}
	}
	return proof, kept.Stopping(h.Files, kept.Shown(h.Shown, p.work.IsMark, servedIn(p.work.Trees.Live)), then)
}

func fileAddress(f kept.File) string { return setting.PicturePath + f.ID + "/" + f.Name }

// FilesThen tells which of the files that ever were shown will be.
func (p *Proposal) FilesThen(ev Evidence) func(id string) bool {
	if len(ev.History.Files) == 0 {
		return func(string) bool { return false }
	}
	on := ev.History.Shown
	if p.BackTo > 0 {
		on = ev.ThenFiles
	}
	goes := make(map[string]bool, len(p.Outgoing))
	for _, id := range p.Outgoing {
		goes[id] = true
	}
	served := servedIn(p.Draft.Tree)
	stays := kept.Shown(on, p.work.IsMark, func(entry string) bool { return !goes[entry] && served(entry) })
	return func(id string) bool {
		return stays(id) || slices.ContainsFunc(ev.DraftFiles[id], func(entry string) bool { return goes[entry] && served(entry) })
	}
}

// servedIn tells of a tree which entries readers get at an address of their own.
func servedIn(tree *sitemap.Tree) func(entry string) bool {
	return func(entry string) bool { return tree.ServedOf(entry) != "" }
}

// reports holds the pages that are laid out anew against their template.
func (p *Proposal) reports(ev Evidence) map[string]content.Report {
	out := make(map[string]content.Report, len(p.Relaid))
	for _, r := range p.Relaid {
		if text, there := ev.Texts[r.Entry]; there {
			t := p.TemplateOf(r.Entry)
			out[r.Entry] = content.NewReportBy(t, p.forms[t.Key], text, ev.HasPerson)
		}
	}
	return out
}

// pages gives the pages that are others from this edition on: those whose text goes out or is shown with another
// template, and those that come without a text.
func (p *Proposal) pages(reports map[string]content.Report, has func(string) bool) []preflight.Page {
	pages := make([]preflight.Page, 0, len(p.texts)+len(p.bare))
	for _, v := range p.texts {
		if r, again := reports[v.EntryID]; again {
			pages = append(pages, preflight.Page{ID: v.EntryID, Report: &r, Links: v.Links})
		} else if v.Draft {
			pages = append(pages, preflight.Page{ID: v.EntryID, Report: &v.Report, Links: v.Links})
		}
	}
	for _, v := range p.follow {
		if r, again := reports[v.EntryID]; again && len(r.Problems) > 0 {
			pages = append(pages, preflight.Page{ID: v.EntryID, Report: &r, Follows: true})
		}
	}
	empty := map[string]*content.Report{} // what a page without a text breaks, by template
	for _, id := range p.bare {
		t := p.TemplateOf(id)
		if empty[t.Key] == nil {
			report := content.NewReport(t, content.Page{}, has)
			empty[t.Key] = &report
		}
		pages = append(pages, preflight.Page{ID: id, Report: empty[t.Key]})
	}
	return pages
}

// unapproved gives what is chosen and lacks the approval that it needs.
func (p *Proposal) unapproved() (out []preflight.Unapproved) {
	if p.work.Rules.None() {
		return nil
	}
	for _, c := range p.work.All {
		if p.Chosen[c.Key] && p.work.Waits(c) {
			state, _ := p.work.StateOf(c)
			out = append(out, preflight.Unapproved{ID: c.ID, Title: p.work.Trees.Title(c.ID), Sent: state == workflow.InReview})
		}
	}
	return out
}

// OwnWork gives the title of the first chosen thing that a person made something of and nobody else approved;
// empty: there is none.
func (p *Proposal) OwnWork(person string) string {
	if person == "" || p.BackTo > 0 {
		return ""
	}
	for _, c := range p.work.All {
		if !p.Chosen[c.Key] || !slices.Contains(p.work.AuthorsOf(c.Key), person) {
			continue
		}
		if by, approved := p.work.ApprovedBy(c.Key); !approved || by == person {
			return p.work.Trees.Title(c.ID)
		}
	}
	return ""
}

// Publisher is who brings an edition out.
type Publisher struct {
	ID   string
	Role workflow.Role
}

// Verdict says whether a proposal may go out by a road, and what stands in its way if not. Only Judge makes one
// that lets a proposal out.
type Verdict struct {
	Hindrance workflow.Hindrance
	Findings  []check.Finding
	OwnWork   string           // the title of what is the publisher's own work, where that hinders
	Freeze    *workflow.Freeze // that holds

	proposal *Proposal
}

// Allows tells whether it lets a proposal out.
func (v Verdict) Allows(p *Proposal) bool {
	return v.proposal == p && p != nil && v.Hindrance == workflow.None
}

// Judge holds a proposal, with what the checks found, against all that bears on whether somebody may bring it
// out by a road at a time.
func Judge(p *Proposal, c Checks, who Publisher, road workflow.Road, now time.Time) Verdict {
	v := Verdict{Findings: c.Findings, Freeze: workflow.Frozen(p.work.Freezes, now), proposal: p}
	if road == workflow.ByHand {
		v.OwnWork = p.OwnWork(who.ID)
	}
	errs, _ := check.Count(c.Findings)
	v.Hindrance = p.work.Rights.Hinders(who.Role, workflow.Outgoing{
		Road: road, Changes: len(p.Chosen), Errors: errs, Own: v.OwnWork != "", Frozen: v.Freeze != nil,
	})
	return v
}

// Carries gives the changes that go out, the texts of new pages with them. What is planned stays where it
// stands when an edition is restored.
func (p *Proposal) Carries() (out []change.Key) {
	if p.BackTo > 0 {
		return nil
	}
	for k := range p.Chosen {
		out = append(out, k)
	}
	for _, id := range p.Outgoing {
		if k := (change.Key{ID: id, Aspect: change.Content}); !p.Chosen[k] {
			out = append(out, k)
		}
	}
	return out
}
