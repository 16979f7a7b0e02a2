package studio

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app"
	"candlepath/internal/app/port"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

type editionView struct {
	frame
	OutlineURL, PagesURL string
	Number               int
	Version              int64
	Key                  string
	Publish              string
	Decide               string
	FindURL              string
	Entries              []changedEntry
	ChosenN              string
	TotalN               string
	Pulled               []pulledView
	Errors               []findingView
	Warnings             []findingView
	ErrorN, WarningN     string
	Decisions            []decisionView
	Redirects            []redirectView
	MoreRows             string
	MayGo                bool
	WhyNot               string
	Why                  string
	Error                string
	Nothing              bool
	Self                 string
	Rest                 string // what is not listed
	RestIn               bool
}

type changedEntry struct {
	ID, Title, Where, URL string
	Changes               []changeView
	Readdressed           string
	New                   bool
	Branch                string // what is new below it and goes with it
}

type changeView struct {
	Name, Mark, Words, By string
	Chosen, Pulled        bool

	of change.Change
}

type pulledView struct{ Title, Mark, Why string }

type findingView struct {
	Sentence, MendURL, MendWords string
}

type decisionView struct {
	ID, Title, From    string
	Choice, Chosen     string
	Decided, Temporary bool
	Suggest            string
	SuggestID          string
}

type redirectView struct{ From, To, Code, Match, Status, Note string }

const entriesShown = 300

// keyName and parseKey carry a change through a form.
func keyName(k change.Key) string { return string(k.Aspect) + " " + k.ID }

func parseKeys(names []string) []change.Key {
	var out []change.Key
	for _, n := range names {
		if aspect, id, ok := strings.Cut(n, " "); ok {
			out = append(out, change.Key{ID: id, Aspect: change.Aspect(aspect)})
		}
	}
	return out
}

func (s *Studio) edition(r *request) error {
	return s.editionPage(r, http.StatusOK, app.Select{}, "", "")
}

func (s *Studio) editionPage(r *request, status int, sel app.Select, why, problem string) error {
	n, err := s.app.LookAhead(r.ctx(), r.who, sel)
	if err != nil {
		return err
	}
	all := n
	if sel.Chosen {
		if all, err = s.app.LookAhead(r.ctx(), r.who, app.Select{}); err != nil {
			return err
		}
	}
	people, err := s.app.Everyone(r.ctx())
	if err != nil {
		return err
	}
	v := editionView{
		frame: newFrame(r.who, all, "Edition", "Next edition", "Next edition"), Number: n.Site.Edition + 1, Version: n.Site.PlanVersion,
		Key: newKey(), Publish: urls.Publish, Decide: urls.Decide, FindURL: urls.Find, Why: why, Error: problem, Self: urls.Edition, OutlineURL: urls.Outline, PagesURL: urls.Pages,
	}
	v.changes(n, people)
	v.findings(n)
	v.addresses(n)
	v.mayGo(n, r.who)
	return s.show(r, status, "edition", v)
}

func (v *editionView) changes(n app.NextEdition, people []port.Person) {
	why := map[change.Key]string{}
	for _, p := range n.Pulled {
		why[p.Key] = p.Why
		v.Pulled = append(v.Pulled, pulledView{n.Trees.Title(p.ID), p.Aspect.Label(), p.Why})
	}
	total, readdressed := 0, map[string]int{}
	at := map[string]int{}
	var entries []changedEntry
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			readdressed[c.Because]++
			continue
		}
		total++
		i, known := at[c.ID]
		if !known {
			i = len(entries)
			at[c.ID] = i
			entries = append(entries, changedEntry{ID: c.ID})
		}
		entries[i].New = entries[i].New || c.Aspect == change.Added
		entries[i].Changes = append(entries[i].Changes, changeView{
			Name: keyName(c.Key), Mark: c.Mark(), By: personName(people, n.Makers[c.Key].PersonID), Chosen: n.Chosen[c.Key], Pulled: why[c.Key] != "", of: c,
		})
	}
	if len(entries) > entriesShown {
		entries = foldNew(entries, change.Folded(n.Trees.Next, n.All))
	}
	if hidden := len(entries) - entriesShown; hidden > 0 {
		v.Rest = count(hidden, "more entry changes", "more entries change") + " in the same ways, not listed one by one"
		for _, e := range entries[entriesShown:] {
			v.RestIn = v.RestIn || e.Changes[0].Chosen
		}
		entries = entries[:entriesShown]
	}
	for i := range entries {
		entries[i].tell(n.Trees, readdressed[entries[i].ID])
	}
	v.Entries = entries
	v.ChosenN, v.TotalN, v.Nothing = thousands(len(n.Chosen)), thousands(total), total == 0
}

// foldNew takes new entries below new ones into those, and puts what is not only
// new first: that is what somebody looks for in a long list.
func foldNew(entries []changedEntry, folded map[string]string) []changedEntry {
	below := map[string]int{}
	for id, top := range folded {
		if id != top {
			below[top]++
		}
	}
	kept := slices.DeleteFunc(entries, func(e changedEntry) bool { return folded[e.ID] != "" })
	slices.SortStableFunc(kept, func(a, b changedEntry) int {
		switch {
		case a.New == b.New:
			return 0
		case b.New:
			return -1
		}
		return 1
	})
	for i := range kept {
		if n := below[kept[i].ID]; n > 0 {
			kept[i].Branch = count(n, "new entry below it goes or stays", "new entries below it go or stay") + " with it"
		}
	}
	return kept
}

// tell completes what is shown of an entry.
func (e *changedEntry) tell(trees port.Trees, readdressed int) {
	e.Title, e.URL = trees.Title(e.ID), whereIs(e.ID, trees)
	for _, t := range []*sitemap.Tree{trees.Live, trees.Next} {
		if i := t.Find(e.ID); i != sitemap.None {
			e.Where = t.Claim(i)
		}
	}
	for k := range e.Changes {
		e.Changes[k].Words = change.Words(e.Changes[k].of, trees.Live, trees.Next)
	}
	if readdressed > 0 {
		e.Readdressed = count(readdressed, "page below gets a new address", "pages below get new addresses")
	}
}

// findingsShown is how many findings of one rule are told one by one.
const findingsShown = 25

func (v *editionView) findings(n app.NextEdition) {
	of := map[preflight.Rule]int{}
	for _, f := range n.Findings {
		if of[f.Rule]++; of[f.Rule] > findingsShown {
			continue
		}
		fv := findingView{Sentence: f.Sentence}
		switch f.Mend {
		case preflight.OpenEntry:
			fv.MendURL, fv.MendWords = urls.At(f.ID), "Show it in the outline"
		case preflight.OpenPage:
			fv.MendURL, fv.MendWords = urls.Page(f.ID), "Open the page"
		case preflight.OpenWay:
			if fv.MendURL = whereIs(f.ID, n.Trees); fv.MendURL != "" {
				fv.MendWords = "Open it"
			}
		case preflight.OpenDecide:
			fv.MendURL, fv.MendWords = "#decisions", "Decide below"
		}
		if f.Severity == sitemap.Error {
			v.Errors = append(v.Errors, fv)
		} else {
			v.Warnings = append(v.Warnings, fv)
		}
	}
	errs, warnings := preflight.Errors(n.Findings)
	v.ErrorN, v.WarningN = thousands(errs), thousands(warnings)
	more := func(shown []findingView, n int) []findingView {
		if n > len(shown) {
			shown = append(shown, findingView{Sentence: thousands(n-len(shown)) + " more of the same kinds."})
		}
		return shown
	}
	v.Errors, v.Warnings = more(v.Errors, errs), more(v.Warnings, warnings)
}

// addresses lists the pages that need a decision and the redirects that come.
func (v *editionView) addresses(n app.NextEdition) {
	shown := 0
	for _, row := range n.Draft.Plan {
		if i := n.Trees.Live.PageAt(row.From); i != sitemap.None && edition.NeedsDecision(edition.Live{Tree: n.Trees.Live}, i, n.Draft) {
			v.Decisions = append(v.Decisions, newDecision(n, i, row))
			continue
		}
		if row.Status == redirect.Kept {
			continue
		}
		if shown++; shown <= 60 {
			v.Redirects = append(v.Redirects, newRedirect(row, n.Draft.Tree))
		}
	}
	if shown > 60 {
		v.MoreRows = fmt.Sprintf("%s more; see Addresses › Moves.", thousands(shown-60))
	}
}

func newRedirect(r redirect.Row, t *sitemap.Tree) redirectView {
	to := redirect.WrittenTo(r.To, t)
	if r.Code == redirect.Gone {
		to = "gone"
	}
	return redirectView{redirect.WrittenFrom(r.From), to, strconv.Itoa(r.Code), string(r.Match), string(r.Status), r.Note}
}

func newDecision(n app.NextEdition, i int, row redirect.Row) decisionView {
	e := n.Trees.Live.Ref(i)
	d := decisionView{ID: e.ID, Title: e.Title, From: row.From}
	if to := row.To.Entry; to != "" {
		d.Suggest, d.SuggestID = titleIn(to, n.Draft.Tree), to
	}
	if dec, ok := n.Decisions[e.ID]; ok {
		d.Decided, d.Temporary = true, dec.Code == 302
		switch {
		case dec.Code == redirect.Gone || dec.To.IsZero():
			d.Choice, d.Chosen = "gone", "gone: the address says so"
		case dec.To.URL != "":
			d.Choice, d.Chosen = dec.To.URL, dec.To.URL
		default:
			d.Choice, d.Chosen = dec.To.Entry, titleIn(dec.To.Entry, n.Trees.Next)+" "+redirect.WrittenTo(dec.To, n.Trees.Next)
		}
	}
	return d
}

func (v *editionView) mayGo(n app.NextEdition, who port.Person) {
	errs, _ := preflight.Errors(n.Findings)
	switch {
	case !n.Site.Rights.May(who.Role, workflow.Publish):
		v.WhyNot = "Editors plan and write; an approver or a site manager publishes."
	case !n.Site.Rights.MayPublish(who.Role, n.Own):
		v.WhyNot = "Part of this is your own work, so somebody else has to publish it."
	case errs > 0:
		v.WhyNot = count(errs, "error stops this edition. Mend it, or leave the change out.", "errors stop this edition. Mend them, or leave the changes out.")
	case len(n.Chosen) == 0:
		v.WhyNot = "Choose at least one change."
	default:
		v.MayGo = true
	}
}

func (s *Studio) decide(r *request) error {
	to := r.PostForm("to")
	if c := r.PostForm("choice"); c == "gone" || c == "" && to == "" {
		to = c
	} else if c == "suggest" {
		to = r.PostForm("suggest")
	} else if id := r.PostForm("to-id"); id != "" {
		to = id
	}
	err := s.app.Decide(r.ctx(), r.who, r.PostForm("id"), to, r.PostForm("temporary") != "", "")
	if invalid := (*app.Invalid)(nil); errors.As(err, &invalid) {
		return s.editionPage(r, http.StatusUnprocessableEntity, app.Select{}, "", invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Edition+"#decisions")
	return nil
}

// publish makes the edition of the changes that were ticked, or only looks at
// that choice again.
func (s *Studio) publish(r *request) error {
	if err := r.Request.ParseForm(); err != nil {
		return &app.Invalid{Field: "", Message: "The form cannot be read. Load the page again."}
	}
	in := r.PostFormArray("in")
	var out []change.Key
	for _, k := range r.PostFormArray("listed") {
		if !slices.Contains(in, k) {
			out = append(out, parseKeys([]string{k})...)
		}
	}
	sel := app.Select{Chosen: true, LeaveOut: out, OnlyListed: r.PostForm("has-rest") != "" && r.PostForm("rest") == "", Listed: parseKeys(r.PostFormArray("listed"))}
	for _, id := range r.PostFormArray("branch") {
		if slices.Contains(out, change.Key{ID: id, Aspect: change.Added}) {
			sel.Branches = append(sel.Branches, id)
		}
	}
	if r.PostForm("do") == "look" {
		return s.editionPage(r, http.StatusOK, sel, r.PostForm("why"), "")
	}
	seen, _ := strconv.ParseInt(r.PostForm("version"), 10, 64)
	e, err := s.app.Publish(r.ctx(), r.who, app.PublishAsk{Key: r.PostForm("key"), Seen: seen, Why: r.PostForm("why"), Changes: sel})
	var invalid *app.Invalid
	var notReady *app.NotReady
	if errors.As(err, &invalid) || errors.As(err, &notReady) || errors.Is(err, app.ErrMoved) {
		status, words := s.word(err)
		return s.editionPage(r, status, sel, r.PostForm("why"), words)
	}
	if err != nil {
		return err
	}
	s.published(r.ctx())
	r.Redirect(http.StatusSeeOther, urls.PastEdition(e.Number)+"&new=1")
	return nil
}
