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
	part.Pager
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
	return s.Show(r, http.StatusOK, "boards", newBoardsView(f, list, r.Query("only") == "wrong", r.Page()))
}

func newBoardsView(f shell.Frame, list navigation.BoardList, onlyWrong bool, page int) boardsView {
	v := boardsView{Frame: f, Any: len(list.Boards) > 0}
	shown, wrong := list.Boards, list.Wrong()
	if onlyWrong {
		shown = wrong
	}
	v.Pager = part.NewPager(page, len(shown), func(n int) string { return urls.BoardsPage(onlyWrong, n) })
	for _, b := range shown[v.First-1 : v.Last] {
		v.Rows = append(v.Rows, newBoardRow(b, list))
	}
	v.Filters = []part.CountView{
		{Words: "All", N: part.Thousands(len(list.Boards)), Here: !onlyWrong, URL: urls.Boards},
		{Words: "Something is wrong", N: part.Thousands(len(wrong)), Here: onlyWrong, URL: urls.BoardsPage(true, 1)},
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
