package pages

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type removedView struct {
	shell.Frame
	Q, Self, Total, More, Problem string
	By                            []part.Option
	Over                          part.CountView
	TextOf                        string // of those whose time is over
	Rows                          []removedRow
	Any, OnlyOver                 bool
	Governs                       bool // may delete for good and set the time
	KeepDays                      int
	KeepURL, DeleteURL            string
}

type removedRow struct {
	ID, Title, Trail, Address, Back string
	Left                            part.Moment
	By, Why, Edition                string
	EditionURL, BackURL, Key        string
	Below, Linked                   told
	Until                           string
	Over                            bool
}

// told is how many there are, in words, and their titles.
type told struct {
	Words  string
	Titles []string
}

// Told is what stood below it and what linked to it, where there is any.
func (r removedRow) Told() []told {
	return slices.DeleteFunc([]told{r.Below, r.Linked}, func(t told) bool { return t.Words == "" })
}

const toldTitles = 40

func newTold(titles []string, one, many string) told {
	if len(titles) == 0 {
		return told{}
	}
	t := told{part.Count(len(titles), one, many), titles[:min(len(titles), toldTitles)]}
	if n := len(titles) - toldTitles; n > 0 {
		t.Titles = append(slices.Clone(t.Titles), "and "+part.Thousands(n)+" more")
	}
	return t
}

func (s *Screens) removed(r *shell.Request) error { return s.removedPage(r, http.StatusOK, "") }

func (s *Screens) removedPage(r *shell.Request, status int, problem string) error {
	f, _, err := s.FrameFor(r, "Removed pages")
	if err != nil {
		return err
	}
	ask := pages.RemovedAsk{Words: strings.TrimSpace(r.Query("q")), By: r.Query("by"), Over: r.Query("over") != "", Limit: part.EntriesShown}
	list, err := s.App.Removed(r.Ctx(), r.Who, ask)
	if err != nil {
		return err
	}
	v := removedView{
		Frame: f, Q: ask.Words, OnlyOver: ask.Over, Self: urls.Removed, Problem: problem, KeepDays: list.KeepDays, KeepURL: urls.Settings + "#s-keep-removed", DeleteURL: urls.Removed + "/delete",
		Governs: r.Site.Rights().May(r.Who.Role, workflow.Govern),
	}
	v.fill(list, ask)
	return s.Show(r, status, "removed", v)
}

func (v *removedView) fill(list pages.RemovedList, ask pages.RemovedAsk) {
	v.Any, v.Total = list.All > 0, part.Count(list.Total, "page", "pages")
	v.TextOf = part.Verb(list.Over, "its text", "their texts")
	v.Over = part.CountView{Words: part.Verb(list.Over, "page", "pages"), N: part.Thousands(list.Over)}
	v.By = []part.Option{{Value: "", Label: "anybody", Chosen: ask.By == ""}}
	for id, n := range list.By {
		v.By = append(v.By, part.Option{Value: id, Label: fmt.Sprintf("%s (%d)", list.People[id].Name, n), Chosen: id == ask.By})
	}
	slices.SortFunc(v.By[1:], func(a, b part.Option) int { return strings.Compare(a.Label, b.Label) })
	for _, p := range list.Pages {
		row := removedRow{
			ID: p.Entry.ID, Title: p.Entry.Title, Trail: strings.Join(p.Path, " › "), Address: address.Written(p.Address), Left: part.At(p.At), By: list.People[p.PersonID].Name, Why: p.Why,
			Edition: "edition " + part.Thousands(p.Edition), EditionURL: urls.PastEdition(p.Edition), BackURL: urls.BringBack(p.Entry.ID), Key: part.NewKey(),
			Below: newTold(p.Below, "entry below it", "entries below it"), Linked: newTold(p.Linked, "page linked to it", "pages linked to it"),
			Until: p.Until.Format("2 Jan 2006"), Over: p.Over,
		}
		if p.Address != "" && p.Back != p.Address {
			row.Back = address.Written(p.Back)
		}
		v.Rows = append(v.Rows, row)
	}
	if n := list.Total - len(list.Pages); n > 0 {
		v.More = part.Thousands(n) + " more."
	}
}

// deleteRemoved deletes removed pages for good: one, or all whose time is over.
func (s *Screens) deleteRemoved(r *shell.Request) error {
	var ids []string
	if id := r.PostForm("id"); id != "" {
		ids = []string{id}
	}
	_, err := s.App.DeleteRemoved(r.Ctx(), r.Who, ids...)
	return s.answerRemoved(r, err)
}

func (s *Screens) answerRemoved(r *shell.Request, err error) error {
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.removedPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Removed)
	return nil
}

func (s *Screens) bringBack(r *shell.Request) error {
	res, err := s.App.BringBack(r.Ctx(), r.Who, r.PostForm("key"), r.Param("id"), r.PostForm("all") != "")
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.At(res.ID))
	return nil
}
