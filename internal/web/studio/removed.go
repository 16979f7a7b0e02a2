package studio

import (
	"net/http"
	"strings"

	"candlepath/internal/app"
	"candlepath/internal/app/port"
	"candlepath/internal/core/address"
	"candlepath/internal/web/urls"
)

type removedView struct {
	frame
	Q, Self, Total, More string
	Rows                 []removedRow
	Any                  bool
}

type removedRow struct {
	Title, Trail, Address, Taken string
	Left                         moment
	By, Why, Edition             string
	EditionURL, Back, Key, Below string
}

func (s *Studio) removed(r *request) error {
	f, _, err := s.frameFor(r, "Pages", "Removed pages", "Removed pages")
	if err != nil {
		return err
	}
	pages, people, err := s.app.Removed(r.ctx(), r.who)
	if err != nil {
		return err
	}
	v := removedView{frame: f, Q: strings.TrimSpace(r.Query("q")), Self: urls.Removed}
	v.fill(pages, people)
	return s.show(r, http.StatusOK, "removed", v)
}

func (v *removedView) fill(pages []app.RemovedPage, people map[string]port.Person) {
	v.Any = len(pages) > 0
	total, q := 0, strings.ToLower(v.Q)
	for _, p := range pages {
		if q != "" && !strings.Contains(strings.ToLower(p.Entry.Title+" "+p.Address), q) {
			continue
		}
		if total++; total > entriesShown {
			continue
		}
		row := removedRow{
			Title: p.Entry.Title, Trail: strings.Join(p.Path, " › "), Address: address.Written(p.Address), Left: at(p.At), By: people[p.PersonID].Name, Why: p.Why,
			Edition: "edition " + thousands(p.Edition), EditionURL: urls.PastEdition(p.Edition), Back: urls.BringBack(p.Entry.ID), Key: newKey(),
		}
		if p.Address != "" && !p.Free {
			row.Taken = "another entry has this address now; it gets a new one"
		}
		if p.Below > 0 {
			row.Below = count(p.Below, "entry below it", "entries below it")
		}
		v.Rows = append(v.Rows, row)
	}
	v.Total = count(total, "page", "pages")
	if total > entriesShown {
		v.More = thousands(total-entriesShown) + " more."
	}
}

func (s *Studio) bringBack(r *request) error {
	res, err := s.app.BringBack(r.ctx(), r.who, r.PostForm("key"), r.Param("id"), r.PostForm("all") != "")
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.At(res.ID))
	return nil
}
