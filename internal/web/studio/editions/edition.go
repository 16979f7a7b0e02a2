package editions

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/check"
	"candlepath/internal/core/edition"
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
	SendURL, SeeURL      string
	FindURL              string
	Entries              []changedEntry
	Filters              []part.CountView
	By                   []part.Option
	Show, ByWhich        string
	SelfURL              string
	Opened               []string // branches that are open
	Shown                int
	More                 string // a button for more
	Hidden               string // how many more fit the filter
	ChosenN              string
	TotalN               string
	ChangedSince         []changedSinceView
	Dependencies         []pulledView
	Errors               []findingView
	Warnings             []findingView
	ErrorN, WarningN     string
	Proof                string // what asking for every address that ever answered came to
	Proven               bool
	ProofURL             string
	Decisions            []decisionView
	Redirects            []part.RedirectView
	MoreRows             string
	MayGo                bool
	WhyNot               string
	Why, Note            string
	Error                string
	Nothing              bool
	Later                string // where the rest of the screen comes from, once it is worked out
	Rest                 string // what is not listed
	RestIn, Swapped      bool
}

// longWork is how many changes take so long to work out that the screen comes first and
// what it shows follows.
const longWork = 20_000

func (s *Screens) edition(r *shell.Request) error {
	if render.Fragment(r.Request) || r.Query("wait") != "" {
		return s.editionPage(r, http.StatusOK, nil, "")
	}
	o, err := s.App.Overview(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	if o.Next == nil && len(o.Trees.Changes()) > longWork {
		return s.Show(r, http.StatusOK, "edition", editionView{
			Frame: r.Frame(o, "Next edition"), Number: o.Site.Edition + 1, Later: urls.EditionWaiting, SeeURL: urls.SeeAt(editions.ShowNext, "", "", ""),
			SendURL: urls.ReviewAt("mine", "", "", "", ""),
		})
	}
	return s.editionPage(r, http.StatusOK, nil, "")
}

// editionPage shows the next edition as somebody chose it, after keeping what
// their form says, if they sent one.
func (s *Screens) editionPage(r *shell.Request, status int, form *editions.ChoiceForm, problem string) error {
	n, err := s.App.LookOwn(r.Ctx(), r.Who, form)
	if err != nil {
		return err
	}
	all, err := s.App.Overview(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	people, err := s.App.Everyone(r.Ctx())
	if err != nil {
		return err
	}
	v := editionView{
		Frame: r.Frame(all, "Next edition"), Number: n.Site.Edition + 1, Looked: n.Reviewed().Text(),
		Key: part.NewKey(), Publish: urls.Publish, ChoiceURL: urls.Choice, Decide: urls.Decide, MendURL: urls.MendLinks, SendURL: urls.ReviewAt("mine", "", "", "", ""), SeeURL: urls.SeeAt(editions.ShowChosen, "", "", ""), FindURL: urls.Find, Why: n.Why, Note: n.Note, Error: problem,
		OutlineURL: urls.Outline, PagesURL: urls.Pages, Swapped: render.Fragment(r.Request), Opened: openBranches(r), Shown: part.EntriesShown,
	}
	if shown, err := strconv.Atoi(r.PostForm("shown")); err == nil {
		if r.PostForm("more") != "" {
			shown += part.EntriesShown
		}
		v.Shown = min(max(shown, part.EntriesShown), mostShown)
	}
	v.Show, v.ByWhich, v.SelfURL = part.OrElse(r.Query("show"), r.PostForm("show")), part.OrElse(r.Query("by"), r.PostForm("by")), urls.Edition
	v.Frame.Swapped, v.Shelf.Swapped = v.Swapped, v.Swapped
	v.changes(n, r.Who, people)
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
		v.MoreRows = fmt.Sprintf("%s more under Addresses › Moves.", part.Thousands(shown-60))
	}
}

func (v *editionView) mayGo(n editions.NextEdition, who plan.Person) {
	switch n.Hinders(who) {
	case workflow.NoRight:
		v.WhyNot = "Only approvers and site managers can publish."
	case workflow.Froze:
		v.WhyNot = "Publishing is frozen until " + n.Frozen.Ends.UTC().Format("2 January 2006, 15:04 UTC") + ": " + n.Frozen.Why + "."
	case workflow.OwnChanges:
		v.WhyNot = "This includes your own work, so someone else must publish it."
	case workflow.Errors:
		errs, _ := check.Count(n.Findings)
		v.WhyNot = part.Count(errs, "error stops this edition. Fix it, or deselect the change.", "errors stop this edition. Fix them, or deselect the changes.")
	case workflow.Empty:
		v.WhyNot = "Select at least one change."
	default:
		v.MayGo = true
	}
}
