package addresses

import (
	"fmt"
	"net/http"

	"candlepath/internal/app/addresses"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/redirect"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// coversView is a list of addresses with what they answer with the next edition.
type coversView struct {
	shell.Frame
	Back, Heading, Says string
	Rows                []coversRow
	Dated               bool // rows tell when
}

type coversRow struct {
	Address, Words, To, When, TestURL string
	Own, Bad                          bool // the redirect that is asked about answers it; nothing does
}

// covers tells which addresses that ever answered are at or below a redirect.
func (s *Screens) covers(r *shell.Request) error {
	key, ok := redirect.ParseKey(r.Query("id"))
	if !ok {
		return plan.ErrNotFound
	}
	f, _, err := s.FrameFor(r, "What a redirect covers")
	if err != nil {
		return err
	}
	list, trees, err := s.App.Covers(r.Ctx(), r.Who, key)
	if err != nil {
		return err
	}
	v := coversView{Frame: f, Back: urls.Redirects, Heading: "What the redirect of " + key.Title() + " covers"}
	own, pages := 0, 0
	for _, c := range list {
		row := coversRow{Address: address.Written(c.Address), TestURL: urls.TestOf(address.Written(c.Address)), Own: c.Answer.Rule == key.From && c.Answer.By != redirect.ByExact}
		av := newAnswer(c.Answer, nil, trees.Next)
		row.Words, row.To, row.Bad = av.Words, av.To, av.Bad
		own += part.Btoi(row.Own)
		pages += part.Btoi(c.Answer.By == redirect.ByPage)
		v.Rows = append(v.Rows, row)
	}
	first := ""
	if len(list) == addresses.MostCovered {
		first = "The first "
	}
	v.Says = first + fmt.Sprintf("%s that ever answered %s here or below: this redirect answers %d of them; %s, which it does not hide; other redirects answer the rest.",
		part.Count(len(list), "address", "addresses"), part.Verb(len(list), "is", "are"), own, part.Count(pages, "is a page", "are pages"))
	return s.Show(r, http.StatusOK, "covers", v)
}

// addressesOf lists every address that a page ever had.
func (s *Screens) addressesOf(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Addresses of a page")
	if err != nil {
		return err
	}
	list, trees, err := s.App.AddressesOf(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	v := coversView{Dated: true, Frame: f, Back: urls.Redirects, Heading: "Every address that “" + trees.Title(r.Param("id")) + "” ever had", Says: part.Count(len(list), "address", "addresses") + ", the latest first."}
	for _, had := range list {
		av := newAnswer(had.Answer, nil, trees.Next)
		row := coversRow{Address: address.Written(had.Address), Words: av.Words, To: av.To, Bad: av.Bad, TestURL: urls.TestOf(address.Written(had.Address)), When: fmt.Sprintf("since edition %d", had.FromEdition)}
		if had.ToEdition > 0 {
			row.When = fmt.Sprintf("editions %d to %d", had.FromEdition, had.ToEdition-1)
		}
		v.Rows = append(v.Rows, row)
	}
	return s.Show(r, http.StatusOK, "covers", v)
}
