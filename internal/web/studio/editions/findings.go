package editions

import (
	"fmt"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/check"
	"candlepath/internal/core/preflight"
	"candlepath/internal/core/redirect"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

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

// findingsShown is how many findings of one rule are told one by one.
const findingsShown = 25

func (v *editionView) findings(n editions.NextEdition) {
	of := map[check.Rule]int{}
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
		fv := findingView{Sentence: f.Message}
		switch f.Mend {
		case check.OpenEntry:
			fv.MendURL, fv.MendWords = urls.At(f.ID), "Show in outline"
		case check.OpenPage:
			fv.MendURL, fv.MendWords = urls.Page(f.ID), "Open the page"
		case check.OpenWay:
			if fv.MendURL = part.WhereIs(f.ID, n.Trees); fv.MendURL != "" {
				fv.MendWords = "Open"
			}
		case check.OpenTest:
			if f.ID != "" {
				fv.MendURL, fv.MendWords = urls.TestOf(redirect.WrittenFrom(f.ID)), "Test address"
			}
		case check.OpenSend:
			fv.MendURL, fv.MendWords = urls.ReviewAt("drafts", f.ID, "", "", ""), "Send for review"
		case check.OpenFiles:
			fv.MendURL, fv.MendWords = urls.Files, "Show the files"
		case check.OpenDecide:
			fv.MendURL, fv.MendWords = "#decisions", "Decide below"
		}
		if f.Severity == check.Error {
			v.Errors = append(v.Errors, fv)
		} else {
			v.Warnings = append(v.Warnings, fv)
		}
	}
	if n.Proof.Asked > 0 {
		v.Proof, v.Proven, v.ProofURL = part.UpperFirst(n.Proof.Words()), n.Proof.Holds(), urls.ProofExport
	}
	errs, warnings := check.Count(n.Findings)
	v.ErrorN, v.WarningN = part.Thousands(errs), part.Thousands(warnings)
	more := func(shown []findingView, n int) []findingView {
		if n > len(shown) {
			shown = append(shown, findingView{Sentence: part.Thousands(n-len(shown)) + " more like these."})
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
		Sentence: fmt.Sprintf("%s to %q, which readers will no longer see. Redirect the links to another page, or remove them.", part.Count(len(l.Pages), "page links", "pages link"), trees.Title(l.To)),
		Links:    l,
	}
}
