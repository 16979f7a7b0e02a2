package pages

import (
	"net/http"
	"time"

	"candlepath/internal/core/content"
	"candlepath/internal/core/textdiff"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type saveForm struct {
	Window  string       `json:"window"`
	Base    int          `json:"base"`
	Content content.Page `json:"content"`
	Close   bool         `json:"close"` // the window closes
}

func (s *Screens) savePage(r *shell.Request) error {
	var f saveForm
	if err := r.Json(&f); err != nil {
		return err
	}
	got, err := s.App.SavePage(r.Ctx(), r.Who, r.Param("id"), f.Window, f.Content, f.Base)
	if err != nil {
		return err
	}
	if f.Close {
		if err := s.App.ClosePage(r.Ctx(), r.Who, r.Param("id"), f.Window); err != nil {
			return err
		}
	}
	if c := got.Clash; c != nil {
		r.JSON(http.StatusConflict, map[string]any{
			"kept": c.KeptID, "holder": c.Holder, "by": c.By, "at": c.At.UTC().Format(time.RFC3339), "theirs": c.Theirs, "version": c.Version,
		})
		return nil
	}
	r.JSON(http.StatusOK, map[string]any{"version": got.Version, "at": got.At.UTC().Format(time.RFC3339), "problems": newProblems(got.Problems)})
	return nil
}

// comparePages tells how two texts of a page differ: the runs of each.
func (s *Screens) comparePages(r *shell.Request) error {
	var f struct {
		Mine   content.Page `json:"mine"`
		Theirs content.Page `json:"theirs"`
	}
	if err := r.Json(&f); err != nil {
		return err
	}
	runs, err := s.App.CompareTexts(r.Ctx(), r.Who, r.Param("id"), f.Mine, f.Theirs)
	if err != nil {
		return err
	}
	mine, theirs := textdiff.Sides(runs)
	r.JSON(http.StatusOK, map[string][]textdiff.Run{"mine": mine, "theirs": theirs})
	return nil
}

// changesOf tells how the text in somebody's window differs from what is live.
func (s *Screens) changesOf(r *shell.Request) error {
	var f saveForm
	if err := r.Json(&f); err != nil {
		return err
	}
	changes, err := s.App.ChangesSinceLive(r.Ctx(), r.Who, r.Param("id"), f.Content)
	if err != nil {
		return err
	}
	r.JSON(http.StatusOK, map[string]any{"changes": append([]content.BlockChange{}, changes...)})
	return nil
}

func (s *Screens) dropKept(r *shell.Request) error {
	var f lockForm
	if err := r.Json(&f); err != nil {
		return err
	}
	r.Status(http.StatusNoContent)
	return s.App.DropKept(r.Ctx(), r.Who, f.ID)
}

func (s *Screens) dropDraft(r *shell.Request) error {
	if err := s.App.DropDraft(r.Ctx(), r.Who, r.Param("id"), r.PostForm("window")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Page(r.Param("id")))
	return nil
}
