package addresses

import (
	"errors"
	"fmt"
	"net/http"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/unanswered"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// unansweredView is the list of addresses that were asked for in vain.
type unansweredView struct {
	shell.Frame
	Rows           []unansweredRow
	Folded         []string // what is counted together, in words
	Plan, Days     string
	Ignore         string
	Patterns       []string
	Problem        string
	Pattern        string // that was refused
	Any            bool
	MoreThanListed bool
}

type unansweredRow struct {
	Address, N, Days, Last, Page, PageURL string
	Answered                              string // what it answers with the next edition; empty: nothing
	Guesses                               []guessView
	RedirectURL, NewURL, TestURL          string
}

// guessView is a page that was probably meant, and the form that leads there.
type guessView struct{ Title, Address, To, Key string }

// unanswered lists addresses that were asked for in vain.
func (s *Screens) unanswered(r *shell.Request) error {
	return s.unansweredPage(r, http.StatusOK, "", "")
}

// ignore leaves addresses like a pattern out, or no longer.
func (s *Screens) ignore(r *shell.Request) error {
	pattern := r.PostForm("pattern")
	err := s.App.Ignore(r.Ctx(), r.Who, pattern, r.PostForm("off") == "")
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.unansweredPage(r, http.StatusUnprocessableEntity, invalid.Message, pattern)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Unanswered)
	return nil
}

func (s *Screens) unansweredPage(r *shell.Request, status int, problem, pattern string) error {
	list, err := s.App.Unanswered(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Unanswered")
	if err != nil {
		return err
	}
	v := newUnansweredView(f, list)
	v.Problem, v.Pattern = problem, pattern
	return s.Show(r, status, "unanswered", v)
}

func newUnansweredView(f shell.Frame, list addresses.UnansweredList) unansweredView {
	v := unansweredView{
		Frame: f, Plan: urls.RedirectAct, Ignore: urls.UnansweredIgnore, Patterns: list.Patterns, Any: len(list.Lines) > 0, Days: fmt.Sprint(addresses.UnansweredDays),
		MoreThanListed: len(list.Lines) == addresses.MostUnanswered,
	}
	if list.Ignored > 0 {
		v.Folded = append(v.Folded, part.Count(list.Ignored, "request", "requests")+" for addresses that you ignore")
	}
	for _, l := range list.Lines {
		switch l.Address {
		case unanswered.Scanners:
			v.Folded = append(v.Folded, part.Count(l.N, "try of a program that looks", "tries of programs that look")+" for holes")
			continue
		case unanswered.Others:
			v.Folded = append(v.Folded, part.Count(l.N, "request", "requests")+" for addresses beyond those that are kept")
			continue
		}
		written := address.Written(l.Address)
		row := unansweredRow{
			Address: written, N: part.Thousands(l.N), Days: part.Count(l.Days, "day", "days"), Last: l.Last.Format("2 January 2006"),
			RedirectURL: urls.RedirectFrom(written), TestURL: urls.TestOf(written), NewURL: urls.NewPageAt(l.Above, l.Title),
		}
		if l.Page != "" {
			row.Page, row.PageURL = address.Written(l.Page), address.Written(l.Page)
		}
		if l.Next.Code != http.StatusNotFound {
			row.Answered = newAnswer(l.Next, nil, nil).Words
		} else {
			for _, g := range l.Meant {
				row.Guesses = append(row.Guesses, guessView{g.Title, g.Address, g.ID, part.NewKey()})
			}
		}
		v.Rows = append(v.Rows, row)
	}
	return v
}
