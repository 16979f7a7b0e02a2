package edition

import (
	"errors"
	"fmt"
	"slices"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/readership"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
)

// Selection says what of the work goes out. The zero value selects all that is planned, but for what goes only
// where somebody selects it. Each road to Live is a selection, and nothing more.
type Selection struct {
	Exactly  change.Set    // these; nil: as the rest says
	Only     []string      // what is planned of these entries, and nothing else
	Every    bool          // everything but LeaveOut
	LeaveOut []change.Key  // with what is new below it
	Choice   change.Choice // as Person made it
	Person   string
	Leaving  []Leaving // live pages that are withdrawn, besides
	Restore  *Earlier  // an earlier edition, and nothing of what is planned
}

// Earlier is an edition that may be restored.
type Earlier struct {
	Number int
	Tree   *sitemap.Tree
	Shapes shape.Set
	Then   map[string]Shown // the texts that it shows, by entry
	Now    map[string]Shown // those of Live

	Withheld map[string][]string // who could read entries that left, where not everybody could
}

// Proposal is the edition that a selection would make. It is complete once it is made, and not changed after.
type Proposal struct {
	Changes      []change.Change // what it was chosen from
	Chosen       change.Set      // with what that needs
	Dependencies []change.Dependency
	ChangedSince []change.ChangedSince // what others did since somebody chose
	Draft        Draft
	Shapes       shape.Set // menus, trails and templates, as they will be
	Templates    []content.Template
	Outgoing     []string // entries whose draft goes out, sorted
	Undecided    []string // live pages that go without a decision
	Relaid       []Relaid // pages that are laid out in another way than they were, or never were
	UsedUp       []string // entries whose decision is used up, sorted
	Restored     Texts    // of an edition that is restored
	BackTo       int      // the edition that is restored, or 0

	work    *Work
	planErr error          // why the redirects cannot be planned
	texts   []*PageSummary // that it shows of the entries that it changes
	bare    []string       // entries that come without a text
	follow  []*PageSummary // live pages that stay and whose template changes
	forms   map[string]string
}

// Relaid is a page that is laid out in another way than it was.
type Relaid struct {
	Entry string
	Draft bool // its draft goes out; else it is live
	Fits  bool // it lacks its HTML alone: what else is known of it was found by the same template
	Found bool // its template is another and asks for the same: what is found in its text stays
}

// Propose computes the edition that a selection of the work makes of Live.
//
//  1. Pick what is selected, and close it: with what it needs.
//  2. Apply that to Live: the tree, the redirects, the menus, trails and templates.
//  3. Find which texts go out, and which pages are laid out anew because their template changes.
//
// Where the redirects contradict each other there is a proposal all the same, which the checks stop.
func Propose(w *Work, live Live, sel Selection) (*Proposal, error) {
	if sel.Restore != nil {
		return restore(w, live, *sel.Restore)
	}
	w, err := w.Withdrawing(sel.Leaving)
	if err != nil {
		return nil, err
	}
	p := &Proposal{work: w, Changes: w.All}
	var applied *sitemap.Tree
	chosen, since := w.selected(sel)
	p.ChangedSince = since
	p.Chosen, p.Dependencies, applied = w.Close(chosen)
	p.Shapes = shape.Apply(w.Trees.Shapes.Live, w.Trees.Shapes.Next, p.Chosen)
	for id := range w.drafted {
		if change.TextGoes(p.Chosen, id) {
			p.Outgoing = append(p.Outgoing, id)
		}
	}
	slices.Sort(p.Outgoing)
	if err := p.draft(live, applied); err != nil {
		return nil, fmt.Errorf("prepare edition: %w", err)
	}
	for id := range w.Decisions {
		if p.Draft.Tree.Find(id) == sitemap.None {
			p.UsedUp = append(p.UsedUp, id)
		}
	}
	slices.Sort(p.UsedUp)
	p.undecided()
	p.layouts()
	return p, nil
}

// selected gives the changes that are selected.
func (w *Work) selected(sel Selection) (change.Set, []change.ChangedSince) {
	chosen := change.Set{}
	switch {
	case sel.Exactly != nil:
		for k := range sel.Exactly {
			chosen[k] = true
		}
		for _, l := range sel.Leaving {
			chosen[change.Key{ID: l.Entry, Aspect: change.Withdrawn}] = true
		}
		return chosen, nil
	case len(sel.Only) > 0:
		for _, c := range w.All {
			if slices.Contains(sel.Only, c.ID) && c.Aspect != change.Readdressed {
				chosen[c.Key] = true
			}
		}
		return chosen, nil
	case sel.Every:
		return change.Toggle(w.Trees.Next, w.All, change.All(w.All), nil, sel.LeaveOut), nil
	}
	return w.Pick(sel.Choice, sel.Person)
}

// draft computes the tree and the redirects.
func (p *Proposal) draft(live Live, applied *sitemap.Tree) error {
	w := p.work
	live.Table = redirect.With(live.Table, w.redirects(p.Chosen))
	var err error
	p.Draft, err = Publish(live, w.Trees.Next, p.Chosen, applied, w.Decisions, w.Hosts, p.Releases())
	if err == nil || !errors.Is(err, redirect.ErrTable) {
		return err
	}
	p.planErr, p.Draft.Next = err, w.Trees.Next
	p.Draft.Tree, err = change.Apply(w.Trees.Live, w.Trees.Next, p.Chosen)
	return err
}

// undecided finds the pages that go without a decision.
func (p *Proposal) undecided() {
	live := p.work.Trees.Live
	for _, r := range p.Draft.Plan {
		if i := live.PageAt(r.From); r.Status == redirect.Undecided && i != sitemap.None {
			p.Undecided = append(p.Undecided, live.Ref(i).ID)
		}
	}
}

// layouts finds which pages are laid out in another way.
func (p *Proposal) layouts() {
	p.Templates, p.forms = p.Shapes.Templates(), map[string]string{}
	for _, t := range p.Templates {
		p.forms[t.Key] = t.Form()
	}
	changed := map[string]bool{} // templates that are others than in Live
	for _, s := range shape.Patches(p.work.Trees.Shapes.Live, p.Shapes) {
		if key := shape.TemplateOf(s.ID); key != "" {
			changed[key] = true
		}
	}
	p.shown()
	shows := make(map[string]bool, len(p.texts))
	for _, v := range p.texts {
		shows[v.EntryID] = true
	}
	if len(changed) > 0 {
		live := p.work.Pages.Live()
		for i := range live {
			if v := &live[i]; !shows[v.EntryID] && changed[v.Report.Template] {
				p.follow = append(p.follow, v)
			}
		}
	}
	asks := p.asksTheSame(changed)
	for _, v := range slices.Concat(p.texts, p.follow) {
		i := p.Draft.Tree.Find(v.EntryID)
		if i == sitemap.None {
			continue
		}
		t := p.TemplateOf(v.EntryID)
		fits := p.Draft.Tree.Served(i) == "" || v.Report.Fits(t, p.forms[t.Key], changed[t.Key])
		if v.Unrendered || !fits {
			p.Relaid = append(p.Relaid, Relaid{v.EntryID, v.Draft, fits, !v.Draft && v.Report.Form != "" && asks[t.Key] == v.Report.Form})
		}
	}
}

// shown finds the versions that the edition shows of the entries that it changes, and the entries that come
// without a text.
func (p *Proposal) shown() {
	goes := make(map[string]bool, len(p.Outgoing))
	for _, id := range p.Outgoing {
		goes[id] = true
		p.texts = append(p.texts, p.work.drafted[id])
	}
	for k := range p.Chosen {
		if k.Aspect == change.Readdressed || goes[k.ID] {
			continue
		}
		v, live := p.work.Pages.LiveOf(k.ID)
		switch {
		case live && p.work.Trees.Live.Find(k.ID) != sitemap.None:
			goes[k.ID] = true
			p.texts = append(p.texts, v)
		case k.Aspect == change.Added:
			p.bare = append(p.bare, k.ID)
		}
	}
}

// asksTheSame gives the forms in Live of the templates that ask for the same fields and slots as they will.
func (p *Proposal) asksTheSame(changed map[string]bool) map[string]string {
	out := map[string]string{}
	for _, old := range p.work.Trees.Shapes.Live.Templates() {
		if changed[old.Key] && content.AskTheSame(old, content.TemplateOf(p.Templates, old.Key)) {
			out[old.Key] = old.Form()
		}
	}
	return out
}

// restore computes the edition that equals an earlier one. Of what is planned nothing goes out.
func restore(w *Work, live Live, e Earlier) (*Proposal, error) {
	p := &Proposal{work: w, BackTo: e.Number, Shapes: shape.Back(w.Trees.Shapes.Live, e.Shapes)}
	then := readership.State{Tree: e.Tree, Also: p.Shapes.Readerships()}
	var err error
	if p.Draft, err = Rollback(live, w.Trees.Shapes.Live.Readerships(), e.Withheld, then, w.Trees.Next, w.Decisions, w.Hosts); err != nil {
		return nil, fmt.Errorf("prepare edition: %w", err)
	}
	drafted := make(map[string]bool, len(w.drafted))
	for id := range w.drafted {
		drafted[id] = true
	}
	p.Restored = RestoreTexts(e.Then, e.Now, drafted)
	p.Templates = p.Shapes.Templates()
	p.Changes = append(change.Diff(w.Trees.Live, p.Draft.Tree), ContentChanges(p.Restored.Entries(), w.Trees.Live, p.Draft.Tree)...)
	p.Changes = append(p.Changes, shape.Diff(w.Trees.Shapes.Live, p.Shapes)...)
	p.Chosen = change.All(p.Changes)
	p.undecided()
	return p, nil
}

// TemplateOf gives the template that an entry will have.
func (p *Proposal) TemplateOf(entry string) content.Template {
	return templateIn(p.Draft.Tree, p.Templates, entry)
}

// FormOf is how the edition lays out a page, see content.Template.Form.
func (p *Proposal) FormOf(entry string) string {
	t := p.TemplateOf(entry)
	if form, ok := p.forms[t.Key]; ok {
		return form
	}
	return t.Form()
}

// Releases gives the addresses that it gives up.
func (p *Proposal) Releases() map[string]bool {
	out := map[string]bool{}
	for k := range p.Chosen {
		if k.Aspect == change.Released {
			out[k.ID] = true
		}
	}
	return out
}

// Redirects are the rows planned by hand that go out.
func (p *Proposal) Redirects() []redirect.Row {
	if p.BackTo > 0 {
		return nil
	}
	return p.work.redirects(p.Chosen)
}

// RedirectsLeft are the planned redirects that do not go out.
func (p *Proposal) RedirectsLeft() (out []change.Change) {
	for _, c := range p.work.All {
		if c.Aspect == change.Redirect && (p.BackTo > 0 || !p.Chosen[c.Key]) {
			out = append(out, c)
		}
	}
	return out
}

// Reviewed is what somebody who sees the proposal has before them.
func (p *Proposal) Reviewed() change.Reviewed {
	return change.Review(p.Changes, p.work.Mark, p.ChangedSince)
}

// Moved gives the title of the first chosen change that is not as it was when somebody looked, or that is no
// longer planned; false if there is none.
func (p *Proposal) Moved(looked change.Reviewed) (title string, moved bool) {
	return looked.Moved(p.Changes, p.work.Mark, p.Chosen, p.ChangedSince)
}

// Work is the work that it was made of, with the pages withdrawn that a date withdraws.
func (p *Proposal) Work() *Work { return p.work }
