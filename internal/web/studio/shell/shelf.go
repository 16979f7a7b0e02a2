package shell

import (
	"slices"
	"strings"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/urls"
)

// shelfView says what the next edition holds.
type shelfView struct {
	Number   int
	Words    string
	Empty    bool
	Again    string // where it comes from after each change
	Later    bool   // it is not known yet and comes after the screen
	Errors   int
	Warnings int
	Look     string
	Lines    []shelfLine
	More     string
	Asked    string // what waits for the person's review
	AskedURL string
	Swapped  bool
}

// shelfLine is one planned change; Left tells that it does not go out.
type shelfLine struct {
	Title, Mark, URL string
	Left             bool
}

const shelfLines = 60

// asked tells what waits for the review of a person.
func (v *shelfView) asked(n editions.NextEdition, who plan.Person) {
	waiting, overdue := n.AskedOf(who)
	if waiting == 0 {
		return
	}
	v.Asked, v.AskedURL = part.Thousands(waiting)+" for your review", urls.Review
	if overdue > 0 {
		v.Asked += ", " + part.Thousands(overdue) + " overdue"
	}
}

// newShelf words what is planned: "12 changes: 3 new, 1 moved, …".
func newShelf(n editions.NextEdition) shelfView {
	v := shelfView{Number: n.Site.Edition + 1, Look: urls.Edition}
	total, kinds := 0, map[string]int{}
	for _, c := range n.All {
		if c.Aspect == change.Readdressed {
			kinds["new address"]++
			continue
		}
		total++
		kinds[c.Sort()]++
		v.line(c, n, total)
	}
	if total > shelfLines {
		v.More = part.Thousands(total-shelfLines) + " more."
	}
	v.Errors, v.Warnings = check.Count(n.Findings)
	if v.Empty = total == 0; v.Empty {
		v.Words = "Nothing is planned. Your changes to the sitemap and to pages are collected here."
		return v
	}
	var parts []string
	for _, k := range change.Sorts() {
		if kinds[k] > 0 {
			words := k
			if kinds[k] > 1 && slices.Contains([]string{"menu", "trail", "template", "redirect"}, k) {
				words += "s"
			}
			parts = append(parts, part.Thousands(kinds[k])+" "+words)
		}
	}
	v.Words = part.Count(total, "change", "changes") + ": " + strings.Join(parts, ", ")
	if k := kinds["new address"]; k > 0 {
		v.Words += "; " + part.Count(k, "more page gets a new address", "more pages get a new address")
	}
	return v
}

// shelf renders the shelf and the stops anew after an act.
func (s *Shell) shelf(r *Request) error {
	o, err := s.App.Summary(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	f := newFrame(r.Who, o, r.Query("stop"), "", "")
	f.Swapped, f.Shelf.Swapped = true, true
	return s.Set.Write(r.Writer, 200, "outline", "shelf-update", f)
}

// ErrorWords and WarningWords say how many there are.
func (v shelfView) ErrorWords() string { return part.Count(v.Errors, "error", "errors") }

func (v shelfView) WarningWords() string { return part.Count(v.Warnings, "warning", "warnings") }

func (v *shelfView) line(c change.Change, n editions.NextEdition, total int) {
	if total > shelfLines {
		return
	}
	l := shelfLine{Title: n.Trees.Title(c.ID), Mark: c.Mark(), Left: !n.Chosen[c.Key]}
	l.URL = part.WhereIs(c.ID, n.Trees)
	v.Lines = append(v.Lines, l)
}
