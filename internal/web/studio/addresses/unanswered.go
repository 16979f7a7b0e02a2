package addresses

import (
	"fmt"
	"net/http"

	"candlepath/internal/app/addresses"
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
	list, _, err := s.App.Unanswered(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Unanswered")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "unanswered", newUnansweredView(f, list))
}

func newUnansweredView(f shell.Frame, list []addresses.UnansweredLine) unansweredView {
	v := unansweredView{Frame: f, Plan: urls.RedirectAct, Any: len(list) > 0, Days: fmt.Sprint(addresses.UnansweredDays), MoreThanListed: len(list) == addresses.MostUnanswered}
	for _, l := range list {
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
			RedirectURL: urls.RedirectFrom(written), TestURL: urls.TestOf(written),
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
