package studio

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

type removedView struct {
	frame
	Q, Self, Total, More, Problem string
	By                            []option
	Over                          countView
	Rows                          []removedRow
	Any, OnlyOver                 bool
	Governs                       bool // may delete for good and set the time
	KeepDays                      int
	KeepURL, DeleteURL            string
}

type removedRow struct {
	ID, Title, Trail, Address, Back string
	Left                            moment
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
	t := told{count(len(titles), one, many), titles[:min(len(titles), toldTitles)]}
	if n := len(titles) - toldTitles; n > 0 {
		t.Titles = append(slices.Clone(t.Titles), "and "+thousands(n)+" more")
	}
	return t
}

func (s *Studio) removed(r *request) error { return s.removedPage(r, http.StatusOK, "") }

func (s *Studio) removedPage(r *request, status int, problem string) error {
	f, _, err := s.frameFor(r, "Pages", "Removed pages", "Removed pages")
	if err != nil {
		return err
	}
	ask := pages.RemovedAsk{Words: strings.TrimSpace(r.Query("q")), By: r.Query("by"), Over: r.Query("over") != "", Limit: entriesShown}
	list, err := s.app.Removed(r.ctx(), r.who, ask)
	if err != nil {
		return err
	}
	v := removedView{
		frame: f, Q: ask.Words, OnlyOver: ask.Over, Self: urls.Removed, Problem: problem, KeepDays: list.KeepDays, KeepURL: urls.Removed + "/keep", DeleteURL: urls.Removed + "/delete",
		Governs: r.site.Rights.May(r.who.Role, workflow.Govern),
	}
	v.fill(list, ask)
	return s.show(r, status, "removed", v)
}

func (v *removedView) fill(list pages.RemovedList, ask pages.RemovedAsk) {
	v.Any, v.Total = list.All > 0, count(list.Total, "page", "pages")
	v.Over = countView{Words: verb(list.Over, "page", "pages"), N: thousands(list.Over)}
	v.By = []option{{"", "anybody", ask.By == ""}}
	for id, n := range list.By {
		v.By = append(v.By, option{id, fmt.Sprintf("%s (%d)", list.People[id].Name, n), id == ask.By})
	}
	slices.SortFunc(v.By[1:], func(a, b option) int { return strings.Compare(a.Label, b.Label) })
	for _, p := range list.Pages {
		row := removedRow{
			ID: p.Entry.ID, Title: p.Entry.Title, Trail: strings.Join(p.Path, " › "), Address: address.Written(p.Address), Left: at(p.At), By: list.People[p.PersonID].Name, Why: p.Why,
			Edition: "edition " + thousands(p.Edition), EditionURL: urls.PastEdition(p.Edition), BackURL: urls.BringBack(p.Entry.ID), Key: newKey(),
			Below: newTold(p.Below, "entry below it", "entries below it"), Linked: newTold(p.Linked, "page linked to it", "pages linked to it"),
			Until: p.Until.Format("2 Jan 2006"), Over: p.Over,
		}
		if p.Address != "" && p.Back != p.Address {
			row.Back = address.Written(p.Back)
		}
		v.Rows = append(v.Rows, row)
	}
	if n := list.Total - len(list.Pages); n > 0 {
		v.More = thousands(n) + " more."
	}
}

// keepRemoved sets for how long removed pages are kept.
func (s *Studio) keepRemoved(r *request) error {
	days, _ := strconv.Atoi(strings.TrimSpace(r.PostForm("days")))
	return s.answerRemoved(r, s.app.KeepRemoved(r.ctx(), r.who, days))
}

// deleteRemoved deletes removed pages for good: one, or all whose time is over.
func (s *Studio) deleteRemoved(r *request) error {
	var ids []string
	if id := r.PostForm("id"); id != "" {
		ids = []string{id}
	}
	_, err := s.app.DeleteRemoved(r.ctx(), r.who, ids...)
	return s.answerRemoved(r, err)
}

func (s *Studio) answerRemoved(r *request, err error) error {
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.removedPage(r, http.StatusUnprocessableEntity, invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Removed)
	return nil
}

func (s *Studio) bringBack(r *request) error {
	res, err := s.app.BringBack(r.ctx(), r.who, r.PostForm("key"), r.Param("id"), r.PostForm("all") != "")
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.At(res.ID))
	return nil
}
