package pages

import (
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type splitView struct {
	shell.Frame
	Action, Key, Problem, Mark, Leave string
	ID, Heading, Address, Title       string
	Beside, IsHome                    bool
	Pieces                            []pieceView
}

// CanSplit tells whether something can go and something stay.
func (v splitView) CanSplit() bool { return len(v.Pieces) > 1 }

type pieceView struct {
	Index                 int
	Level                 int
	Heading, Begins, Kind string
	Chosen                bool
}

// split shows the pieces of a page, to choose those that go.
func (s *Screens) split(r *shell.Request) error {
	return s.splitPage(r, http.StatusOK, r.Param("id"), nil, "")
}

func (s *Screens) splitPage(r *shell.Request, status int, id string, asked *pages.SplitAsk, problem string) error {
	f, _, err := s.FrameFor(r, "Split a page")
	if err != nil {
		return err
	}
	look, err := s.App.LookAtSplit(r.Ctx(), r.Who, id)
	if err != nil {
		return err
	}
	v := splitView{Frame: f, Action: urls.OfPage(id, "split"), Key: part.NewKey(), Problem: problem, Mark: look.Mark, Leave: urls.Page(id), ID: id, Heading: look.Entry.Title, Address: address.Written(look.Address), IsHome: look.Entry.IsHome()}
	if asked != nil {
		v.Title, v.Beside = asked.Title, asked.Beside
	}
	for i, p := range look.Pieces {
		kind := ""
		if p.Type != content.Text {
			kind = strings.ToLower(p.Type.Name())
		}
		v.Pieces = append(v.Pieces, pieceView{Index: i, Level: min(max(p.Level-2, 0), 4), Heading: p.Heading, Begins: p.Begins, Kind: kind, Chosen: asked != nil && slices.Contains(asked.Pieces, i)})
	}
	return s.Show(r, status, "split", v)
}

// doSplit moves the pieces that were chosen to a new page.
func (s *Screens) doSplit(r *shell.Request) error {
	ask := pages.SplitAsk{Key: r.PostForm("key"), Entry: r.Param("id"), Mark: r.PostForm("mark"), Title: r.PostForm("title"), Beside: r.PostForm("place") == "beside"}
	for _, v := range r.PostFormArray("piece") {
		if i, err := strconv.Atoi(v); err == nil {
			ask.Pieces = append(ask.Pieces, i)
		}
	}
	res, err := s.App.Split(r.Ctx(), r.Who, ask)
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.splitPage(r, http.StatusUnprocessableEntity, ask.Entry, &ask, invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.At(res.ID))
	return nil
}
