package edition

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"candlepath/internal/core/change"
	"candlepath/internal/core/content"
	"candlepath/internal/core/link"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/review"
	"candlepath/internal/core/shape"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// PageSummary is what lists and checks need of a version of a page, without its text.
type PageSummary struct {
	EntryID    string
	VersionID  string
	Version    int // counts saves of one draft
	PersonID   string
	At         time.Time
	Draft      bool
	Unrendered bool // not rendered yet
	Report     content.Report
	Links      []content.FoundLink
}

// LivePages are the versions that are live.
type LivePages interface {
	Live() []PageSummary
	LiveOf(entry string) (*PageSummary, bool)
	Links(live *sitemap.Tree) *link.Map
}

// PlannedRedirect is a redirect that was planned by hand.
type PlannedRedirect struct {
	redirect.Row
	change.Planned
}

// PlannedRelease is an address that is to be given up.
type PlannedRelease struct {
	Address, Why string
	change.Planned
}

// Input is what is stored of all that is planned on a site, read at one version of the work.
type Input struct {
	Trees          Trees
	Today          string // as 2026-11-26
	Rights         workflow.Site
	Hosts          []string // the site's own, and those that it had
	IsMark         func(file string) bool
	Pages          LivePages
	Drafts         []PageSummary
	Redirects      []PlannedRedirect
	Releases       []PlannedRelease
	Decisions      map[string]redirect.Decision // by entry that goes
	ApprovalStates map[change.Key]review.ApprovalState
	Rules          review.Rules   // where approval is asked
	Authors        review.Authors // of what is planned
	LeftOut        []change.Key   // what goes only where somebody selects it
	Freezes        []workflow.Freeze
}

// Work is all that is planned on a site at one version, with where it stands. It is complete once it is made, and
// not changed after.
type Work struct {
	Input
	All    []change.Change               // everything planned, content too
	Makers map[change.Key]change.Planned // who planned each of it last

	drafted  map[string]*PageSummary // of entries that have a draft
	states   map[change.Key]workflow.State
	leaving  map[string]Leaving // by entry
	approved map[change.Key]string
}

// Leaving is a live page whose minute to be withdrawn has come.
type Leaving struct {
	Entry    string
	Person   string // who said so
	At       time.Time
	Decision redirect.Decision // where its visitors go
}

// NewWork makes the work of what is stored.
func NewWork(in Input) *Work {
	w := &Work{Input: in, drafted: make(map[string]*PageSummary, len(in.Drafts))}
	for i := range in.Drafts {
		w.drafted[in.Drafts[i].EntryID] = &in.Drafts[i]
	}
	w.All = Planned(in.Trees, in.Drafts)
	w.Makers = make(map[change.Key]change.Planned, len(w.All)+len(in.Redirects)+len(in.Releases))
	for _, c := range w.All {
		w.Makers[c.Key] = w.maker(c.Key)
	}
	for _, r := range in.Releases {
		c := change.Change{Key: change.Key{ID: r.Address, Aspect: change.Released}, Because: r.Why}
		w.All, w.Makers[c.Key] = append(w.All, c), r.Planned
	}
	for _, r := range in.Redirects {
		c := change.Change{Key: RedirectKey(r.Row), Because: r.Words(in.Trees.Next)}
		w.All, w.Makers[c.Key] = append(w.All, c), r.Planned
	}
	w.standing()
	return w
}

func (w *Work) maker(k change.Key) change.Planned {
	switch k.Aspect {
	case change.Content:
		d := w.drafted[k.ID]
		return change.Planned{PersonID: d.PersonID, At: d.At}
	case change.Menu, change.Trail, change.Layout:
		return w.Trees.Shapes.Planned[k.ID]
	}
	return w.Trees.Planned[k.ID]
}

// standing works out where the changes stand that were put somewhere, and who approved them as they are.
func (w *Work) standing() {
	w.states, w.approved = map[change.Key]workflow.State{}, map[change.Key]string{}
	for _, c := range w.All {
		s, put := w.ApprovalStates[c.Key]
		if !put {
			continue
		}
		state := s.Now(w.Stamp(c))
		w.states[c.Key] = state
		if state == workflow.Ready || state == workflow.Scheduled && s.Approved {
			w.approved[c.Key] = s.Person
		}
	}
}

// Withdrawing gives the work with live pages withdrawn, as their date says.
func (w *Work) Withdrawing(list []Leaving) (*Work, error) {
	if len(list) == 0 {
		return w, nil
	}
	in := w.Input
	in.Trees.Planned, in.Decisions = maps.Clone(in.Trees.Planned), maps.Clone(in.Decisions)
	if in.Trees.Planned == nil {
		in.Trees.Planned = map[string]change.Planned{}
	}
	if in.Decisions == nil {
		in.Decisions = map[string]redirect.Decision{}
	}
	ids, leaving := make([]string, len(list)), make(map[string]Leaving, len(list))
	for i, l := range list {
		ids[i], leaving[l.Entry] = l.Entry, l
		in.Trees.Planned[l.Entry] = change.Planned{PersonID: l.Person, At: l.At}
		in.Decisions[l.Entry] = l.Decision
	}
	next, err := in.Trees.Next.Withdraw(ids, true)
	if err != nil {
		return nil, err
	}
	in.Trees = in.Trees.With(next)
	out := NewWork(in)
	out.leaving = leaving
	return out, nil
}

// Leaves tells whether a change is that of a page whose minute to be withdrawn has come.
func (w *Work) Leaves(k change.Key) (l Leaving, leaves bool) {
	if k.Aspect != change.Withdrawn {
		return l, false
	}
	l, leaves = w.leaving[k.ID]
	return l, leaves
}

// RedirectKey is the key under which a redirect planned by hand is a change.
func RedirectKey(r redirect.Row) change.Key {
	return change.Key{ID: r.Key().ID(), Aspect: change.Redirect}
}

// DraftOf gives the draft of an entry.
func (w *Work) DraftOf(entry string) (d *PageSummary, written bool) {
	d, written = w.drafted[entry]
	return d, written
}

// AuthorsOf gives who made a change. One that a date makes is made by who said the date.
func (w *Work) AuthorsOf(k change.Key) []string {
	if made := w.Authors.Of(k); len(made) > 0 {
		return made
	}
	if by := w.Makers[k].PersonID; by != "" {
		return []string{by}
	}
	return nil
}

// Stamp tells the wording of a change from others.
func (w *Work) Stamp(c change.Change) string {
	var of review.Of
	if i := w.Trees.Next.Find(c.ID); i != sitemap.None {
		of.Entry = w.Trees.Next.Ref(i)
	}
	switch c.Aspect {
	case change.Content, change.Added:
		if text, written := w.drafted[c.ID]; written {
			of.Version = fmt.Sprint(text.VersionID, " ", text.Version)
		}
	case change.Menu, change.Trail, change.Layout, change.Redirect, change.Released:
		of.Version = w.Makers[c.Key].At.UTC().Format(time.RFC3339Nano)
	case change.Removed, change.Withdrawn, change.Placement:
		if d, decided := w.Decisions[c.ID]; decided {
			of.Decision = &d
		}
	}
	return review.Stamp(c, of)
}

// StateOf tells where a change stands.
func (w *Work) StateOf(c change.Change) (workflow.State, workflow.ApprovalState) {
	if l, leaves := w.Leaves(c.Key); leaves {
		return workflow.Scheduled, workflow.ApprovalState{State: workflow.Scheduled, Person: l.Person}
	}
	state, planned := w.states[c.Key]
	if !planned {
		state = workflow.Draft
	}
	return state, w.ApprovalStates[c.Key].ApprovalState
}

// ApprovedBy gives who approved a change as it is now, if somebody did. A withdrawal is approved by who gave it its
// date: that takes the right to publish, and under four eyes it is not enough, see Waits.
func (w *Work) ApprovedBy(k change.Key) (person string, approved bool) {
	if l, leaves := w.Leaves(k); leaves {
		return l.Person, true
	}
	person, approved = w.approved[k]
	return person, approved
}

// AsksOf tells what is asked of a change before it goes out.
func (w *Work) AsksOf(k change.Key) workflow.ApprovalPolicy {
	return w.Rules.Of(w.Trees.Live, w.Trees.Next, k)
}

// Waits tells whether a change lacks the approval that is asked of it now: what was approved while less was
// asked is held against what is asked today.
func (w *Work) Waits(c change.Change) bool {
	asks := w.AsksOf(c.Key)
	if c.Aspect == change.Readdressed || asks == workflow.NoApproval {
		return false
	}
	by, approved := w.ApprovedBy(c.Key)
	return !approved || asks == workflow.FourEyes && slices.Contains(w.AuthorsOf(c.Key), by)
}

// Mark tells how a planned change stands: it differs whenever somebody planned the entry, wrote its text or
// decided about its visitors since.
func (w *Work) Mark(k change.Key) change.State {
	maker := w.Makers[k]
	text, written := w.drafted[k.ID]
	s := change.State{By: maker.PersonID, Title: w.Trees.Title(k.ID)}
	mark := append(make([]string, 0, 4), maker.PersonID, strconv.FormatInt(maker.At.UnixNano(), 10))
	if k.Aspect == change.Added && written {
		mark = append(mark, text.VersionID, fmt.Sprint(text.Version))
		if text.At.After(maker.At) {
			s.By = text.PersonID
		}
	}
	if k.Aspect == change.Content && written {
		mark = append(mark, text.VersionID, fmt.Sprint(text.Version))
	}
	if d, ok := w.Decisions[k.ID]; ok && w.Trees.Live.Find(k.ID) != sitemap.None {
		mark = append(mark, fmt.Sprint(d))
	}
	s.Mark = strings.Join(mark, " ")
	return s
}

// KeptOut is what goes only where somebody selects it: what a restore took back, and what lacks the approval
// that is asked of it.
func (w *Work) KeptOut() change.Set {
	out := make(change.Set, len(w.LeftOut))
	for _, k := range w.LeftOut {
		out[k] = true
	}
	if w.Rules.None() {
		return out
	}
	for _, c := range w.All {
		if w.Waits(c) {
			out[c.Key] = true
		}
	}
	return out
}

// Pick gives what goes by the choice of a person, and what others did since they made it.
func (w *Work) Pick(choice change.Choice, person string) (change.Set, []change.ChangedSince) {
	return choice.Pick(w.Trees.Next, w.All, w.Mark, person, w.KeptOut())
}

// Close gives what is chosen with all that it needs, and the tree that comes of it where that is known.
func (w *Work) Close(chosen change.Set) (closed change.Set, needed []change.Dependency, applied *sitemap.Tree) {
	for {
		var along []change.Dependency // of what is chosen by now: what came along before has its reason already
		closed, along, applied = change.Closure(w.Trees.Live, w.Trees.Next, w.All, chosen)
		needs := shape.Needs(w.Trees.Shapes.Live, w.Trees.Shapes.Next, w.Trees.Live, w.Trees.Next, w.All, closed)
		needs = append(needs, w.redirectNeeds(closed)...)
		if needed = append(append(needed, along...), needs...); len(needs) == 0 {
			return closed, needed, applied
		}
		chosen = maps.Clone(closed)
		for _, p := range needs {
			chosen[p.Key] = true
		}
	}
}

// redirectNeeds are the new pages to which chosen redirects lead, where those are not chosen.
func (w *Work) redirectNeeds(chosen change.Set) (out []change.Dependency) {
	asked := map[change.Key]bool{}
	for _, r := range w.redirects(chosen) {
		page := change.Key{ID: r.To.Entry, Aspect: change.Added}
		if r.To.Entry == "" || w.Trees.Live.Find(r.To.Entry) != sitemap.None || w.Trees.Next.Find(r.To.Entry) == sitemap.None || chosen[page] || asked[page] {
			continue
		}
		asked[page] = true
		out = append(out, change.Dependency{Key: page, Needs: RedirectKey(r), Why: fmt.Sprintf("the redirect from %s points to it", r.Key().Title())})
	}
	return out
}

// redirects are the rows planned by hand that are chosen.
func (w *Work) redirects(chosen change.Set) (rows []redirect.Row) {
	for _, r := range w.Redirects {
		if chosen[RedirectKey(r.Row)] {
			rows = append(rows, r.Row)
		}
	}
	return rows
}
