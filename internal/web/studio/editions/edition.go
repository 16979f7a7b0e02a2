package editions

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/edition"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type editionView struct {
	shell.Frame
	OutlineURL, PagesURL string
	Number               int
	Key, Looked          string
	Publish, ChoiceURL   string
	Decide, MendURL      string
	FindURL              string
	Entries              []changedEntry
	Opened               []string // branches that are open
	Shown                int
	More                 string // a button for more
	ChosenN              string
	TotalN               string
	Beneath              []beneathView
	Pulled               []pulledView
	Errors               []findingView
	Warnings             []findingView
	ErrorN, WarningN     string
	Decisions            []decisionView
	Redirects            []part.RedirectView
	MoreRows             string
	MayGo                bool
	WhyNot               string
	Why                  string
	Error                string
	Nothing              bool
	Rest                 string // what is not listed
	RestIn, Swapped      bool
}

type changedEntry struct {
	ID, Title, Where, URL string
	Changes               []changeView
	Readdressed           string
	New                   bool
	Depth                 int
	Branch                string // what is new below it and goes with it
	Open                  bool   // that is listed
}

type changeView struct {
	ID, Name, Mark, Words, By string
	Chosen, Pulled            bool

	of change.Change
}

// beneathView is what happened to the plan since somebody chose.
type beneathView struct{ Title, Words string }

type pulledView struct{ Title, Mark, Why string }

type findingView struct {
	Sentence, MendURL, MendWords string
	Links                        *brokenLinks
}

// brokenLinks are all links to a page that goes, mended at once.
type brokenLinks struct {
	To    string // the entry
	Pages []linkView
}

type linkView struct{ Title, URL string }

type decisionView struct {
	ID, Title, From    string
	Choice, Chosen     string
	Decided, Temporary bool
	Suggest            string
	SuggestID          string
}

// keyName and parseKeys carry changes through a form.
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

func (s *Screens) edition(r *shell.Request) error {
	return s.editionPage(r, http.StatusOK, nil, "")
}

// editionPage shows the next edition as somebody chose it, after keeping what
// their form says, if they sent one.
func (s *Screens) editionPage(r *shell.Request, status int, form *editions.ChoiceForm, problem string) error {
	n, err := s.App.LookOwn(r.Ctx(), r.Who, form)
	if err != nil {
		return err
	}
	all, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v := editionView{
		Frame: shell.NewFrame(r.Who, all, "Edition", "Next edition", "Next edition"), Number: n.Site.Edition + 1, Looked: n.Looked().Text(),
		Key: part.NewKey(), Publish: urls.Publish, ChoiceURL: urls.Choice, Decide: urls.Decide, MendURL: urls.MendLinks, FindURL: urls.Find, Why: n.Why, Error: problem,
		OutlineURL: urls.Outline, PagesURL: urls.Pages, Swapped: render.Fragment(r.Request), Opened: openBranches(r), Shown: part.EntriesShown,
	}
	if shown, err := strconv.Atoi(r.PostForm("shown")); err == nil {
		if r.PostForm("more") != "" {
			shown += part.EntriesShown
		}
		v.Shown = min(max(shown, part.EntriesShown), mostShown)
	}
	v.Frame.Swapped, v.Shelf.Swapped = v.Swapped, v.Swapped
	v.changes(n, people)
	v.findings(n)
	v.addresses(n)
	v.mayGo(n, r.Who)
	if v.Swapped {
		return s.Set.Write(r.Writer, status, "edition", "edition-body", v)
	}
	return s.Show(r, status, "edition", v)
}

// openBranches are the branches of new entries that are listed entry by entry.
func openBranches(r *shell.Request) []string {
	open := r.PostFormArray("open")
	if id := r.PostForm("unfold"); id != "" {
		open = append(open, id)
	}
	return slices.DeleteFunc(open, func(id string) bool { return id == r.PostForm("close") })
}

// mostShown is the most entries that are listed at all.
const mostShown = 6000

func (v *editionView) changes(n editions.NextEdition, people []plan.Person) {
	why := map[change.Key]string{}
	for _, p := range n.Pulled {
		why[p.Key] = p.Why
		v.Pulled = append(v.Pulled, pulledView{n.Trees.Title(p.ID), p.Aspect.Label(), p.Why})
	}
	for _, b := range n.Beneath {
		v.Beneath = append(v.Beneath, newBeneath(b, people))
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
			ID: "in-" + string(c.Aspect) + "-" + c.ID, Name: keyName(c.Key), Mark: c.Mark(), By: part.PersonName(people, n.Makers[c.Key].PersonID), Chosen: n.Chosen[c.Key], Pulled: why[c.Key] != "", of: c,
		})
	}
	if len(entries) > part.EntriesShown {
		entries = foldNew(entries, n, v.Opened)
	}
	if hidden := len(entries) - v.Shown; hidden > 0 {
		v.Rest = part.Count(hidden, "more entry changes", "more entries change") + " in the same ways"
		if v.More = "Show more"; v.Shown >= mostShown {
			v.More = ""
		}
		for _, e := range entries[v.Shown:] {
			v.RestIn = v.RestIn || e.Changes[0].Chosen
		}
		entries = entries[:v.Shown]
	}
	for i := range entries {
		entries[i].tell(n.Trees, readdressed[entries[i].ID])
	}
	v.Entries = entries
	v.ChosenN, v.TotalN, v.Nothing = part.Thousands(len(n.Chosen)), part.Thousands(total), total == 0
}

func newBeneath(b change.Beneath, people []plan.Person) beneathView {
	v := beneathView{Title: b.Title}
	by := ""
	if b.By != "" {
		by = " by " + part.PersonName(people, b.By)
	}
	ticked := ""
	if !b.In {
		ticked = "; it is not ticked"
	}
	switch b.What {
	case change.Came:
		v.Words = "was planned" + by + " (" + b.Aspect.Label() + ")" + ticked
	case change.Another:
		v.Words = "was changed again" + by + " (" + b.Aspect.Label() + ")" + ticked
	case change.Went:
		v.Words = "is not planned any more (" + b.Aspect.Label() + ")"
	}
	return v
}

// foldNew takes new entries below new ones into those, but for branches that are
// open, and puts what is not only new first: that is what somebody looks for in
// a long list.
func foldNew(entries []changedEntry, n editions.NextEdition, opened []string) []changedEntry {
	next := n.Trees.Next
	folded := change.Folded(next, n.All)
	below, inside := map[string]int{}, map[string][]changedEntry{}
	for _, e := range entries {
		if folded[e.ID] == "" {
			continue
		}
		parent := next.Parent(next.Find(e.ID))
		inside[next.Ref(parent).ID] = append(inside[next.Ref(parent).ID], e)
		for id := e.ID; folded[id] != ""; {
			id = next.Ref(next.Parent(next.Find(id))).ID
			below[id]++
		}
	}
	tops := slices.DeleteFunc(slices.Clone(entries), func(e changedEntry) bool { return folded[e.ID] != "" })
	slices.SortStableFunc(tops, func(a, b changedEntry) int {
		switch {
		case a.New == b.New:
			return 0
		case b.New:
			return -1
		}
		return 1
	})
	var out []changedEntry
	var list func(es []changedEntry, depth int)
	list = func(es []changedEntry, depth int) {
		for _, e := range es {
			e.Depth = depth
			if k := below[e.ID]; k > 0 {
				e.Branch = part.Count(k, "new entry below it goes or stays", "new entries below it go or stay") + " with it"
				e.Open = slices.Contains(opened, e.ID)
			}
			out = append(out, e)
			if e.Open {
				list(inside[e.ID], depth+1)
			}
		}
	}
	list(tops, 0)
	return out
}

// tell completes what is shown of an entry.
func (e *changedEntry) tell(trees plan.Trees, readdressed int) {
	e.Title, e.URL = trees.Title(e.ID), part.WhereIs(e.ID, trees)
	for _, t := range []*sitemap.Tree{trees.Live, trees.Next} {
		if i := t.Find(e.ID); i != sitemap.None {
			e.Where = t.Claim(i)
		}
	}
	for k := range e.Changes {
		e.Changes[k].Words = change.Words(e.Changes[k].of, trees.Live, trees.Next)
	}
	if readdressed > 0 {
		e.Readdressed = part.Count(readdressed, "page below gets a new address", "pages below get new addresses")
	}
}

// findingsShown is how many findings of one rule are told one by one.
const findingsShown = 25

func (v *editionView) findings(n editions.NextEdition) {
	of := map[preflight.Rule]int{}
	groups, told := linksToGone(n), map[string]bool{}
	grouped := 0
	for _, f := range n.Findings {
		if g := groups[f.To]; g != nil && f.Rule == preflight.LinkToNothing {
			if grouped++; told[f.To] {
				continue
			}
			told[f.To] = true
			v.Errors = append(v.Errors, newBrokenLinks(g, n.Trees))
			grouped--
			continue
		}
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
			if fv.MendURL = part.WhereIs(f.ID, n.Trees); fv.MendURL != "" {
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
	v.ErrorN, v.WarningN = part.Thousands(errs), part.Thousands(warnings)
	more := func(shown []findingView, n int) []findingView {
		if n > len(shown) {
			shown = append(shown, findingView{Sentence: part.Thousands(n-len(shown)) + " more of the same kinds."})
		}
		return shown
	}
	v.Errors, v.Warnings = more(v.Errors, errs-grouped), more(v.Warnings, warnings)
}

// linksToGone gathers the links to each entry that is not there for readers.
func linksToGone(n editions.NextEdition) map[string]*brokenLinks {
	out := map[string]*brokenLinks{}
	for _, f := range n.Findings {
		if f.Rule != preflight.LinkToNothing || f.To == "" || n.Trees.Next.Find(f.To) != sitemap.None && n.Trees.Live.Find(f.To) == sitemap.None {
			continue // one that is planned and left out: it is ticked instead
		}
		if out[f.To] == nil {
			out[f.To] = &brokenLinks{To: f.To}
		}
		out[f.To].Pages = append(out[f.To].Pages, linkView{n.Trees.Title(f.ID), urls.Page(f.ID)})
	}
	return out
}

func newBrokenLinks(l *brokenLinks, trees plan.Trees) findingView {
	return findingView{
		Sentence: fmt.Sprintf("%s to %q, which colleagues will not see any more. Point all of them to another page, or make them plain words.", part.Count(len(l.Pages), "page links", "pages link"), trees.Title(l.To)),
		Links:    l,
	}
}

// addresses lists the pages that need a decision and the redirects that come.
func (v *editionView) addresses(n editions.NextEdition) {
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
			v.Redirects = append(v.Redirects, part.NewRedirect(row, n.Draft.Tree))
		}
	}
	if shown > 60 {
		v.MoreRows = fmt.Sprintf("%s more; see Addresses › Moves.", part.Thousands(shown-60))
	}
}

func newDecision(n editions.NextEdition, i int, row redirect.Row) decisionView {
	e := n.Trees.Live.Ref(i)
	d := decisionView{ID: e.ID, Title: e.Title, From: row.From}
	if to := row.To.Entry; to != "" {
		d.Suggest, d.SuggestID = part.TitleIn(to, n.Draft.Tree), to
	}
	if dec, ok := n.Decisions[e.ID]; ok {
		d.Decided, d.Temporary = true, dec.Code == 302
		switch {
		case dec.Code == redirect.Gone || dec.To.IsZero():
			d.Choice, d.Chosen = "gone", "gone: the address says so"
		case dec.To.URL != "":
			d.Choice, d.Chosen = dec.To.URL, dec.To.URL
		default:
			d.Choice, d.Chosen = dec.To.Entry, part.TitleIn(dec.To.Entry, n.Trees.Next)+" "+redirect.WrittenTo(dec.To, n.Trees.Next)
		}
	}
	return d
}

func (v *editionView) mayGo(n editions.NextEdition, who plan.Person) {
	errs, _ := preflight.Errors(n.Findings)
	switch {
	case !n.Site.Rights.May(who.Role, workflow.Publish):
		v.WhyNot = "Editors plan and write; an approver or a site manager publishes."
	case !n.Site.Rights.MayPublish(who.Role, n.Own):
		v.WhyNot = "Part of this is your own work, so somebody else has to publish it."
	case errs > 0:
		v.WhyNot = part.Count(errs, "error stops this edition. Mend it, or leave the change out.", "errors stop this edition. Mend them, or leave the changes out.")
	case len(n.Chosen) == 0:
		v.WhyNot = "Choose at least one change."
	default:
		v.MayGo = true
	}
}
