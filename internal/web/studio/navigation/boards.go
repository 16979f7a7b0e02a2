package navigation

import (
	"errors"
	"net/http"
	"strings"

	"candlepath/internal/app/navigation"
	"candlepath/internal/core/address"
	"candlepath/internal/core/content"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// boardsView is the list of tile boards.
type boardsView struct {
	shell.Frame
	Rows    []boardRow
	Filters []part.CountView
	Any     bool
}

type boardRow struct {
	Page, URL, Address, From, Shows string
	Faults                          []string
}

// boards lists all tile boards, those with something wrong if asked for.
func (s *Screens) boards(r *shell.Request) error {
	list, err := s.App.Boards(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Tile boards")
	if err != nil {
		return err
	}
	return s.Show(r, http.StatusOK, "boards", newBoardsView(f, list, r.Query("only") == "wrong"))
}

func newBoardsView(f shell.Frame, list navigation.BoardList, onlyWrong bool) boardsView {
	v := boardsView{Frame: f, Any: len(list.Boards) > 0}
	wrong := 0
	for _, b := range list.Boards {
		if len(b.Faults) > 0 {
			wrong++
		} else if onlyWrong {
			continue
		}
		v.Rows = append(v.Rows, newBoardRow(b, list))
	}
	v.Filters = []part.CountView{
		{Words: "All", N: part.Thousands(len(list.Boards)), Here: !onlyWrong, URL: urls.Boards},
		{Words: "Something is wrong", N: part.Thousands(wrong), Here: onlyWrong, URL: urls.Boards + "?only=wrong"},
	}
	return v
}

func newBoardRow(b navigation.PageBoard, list navigation.BoardList) boardRow {
	row := boardRow{
		Page: list.Trees.Title(b.Entry), URL: urls.Page(b.Entry), Address: address.Written(b.Address), From: part.UpperFirst(b.Block.Get("from")),
		Shows: part.Thousands(b.Shows),
	}
	switch b.Block.Get("from") {
	case content.FromTopic:
		row.From += ": " + b.Block.Get("topic")
	case content.FromBelow:
		if id, ok := (content.FoundLink{To: b.Block.Get("of")}).Entry(); ok {
			row.From = "Pages below " + list.Trees.Title(id)
		}
	}
	for _, fault := range b.Faults {
		row.Faults = append(row.Faults, part.Sentence(errors.New(strings.TrimSpace(fault))))
	}
	return row
}
