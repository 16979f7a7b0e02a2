package pages

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/content"
	"candlepath/internal/core/setting"
	"candlepath/internal/files"
	"candlepath/internal/markup"
	"candlepath/internal/web/border"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// filesView is the list of files.
type filesView struct {
	shell.Frame
	Q, Self, Upload, Problem, Said string
	Only                           bool // pictures
	Rows                           []fileRow
	Any                            bool
	part.Pager
}

type fileRow struct {
	ID, Name, Address, Told, By string
	Picture                     string
	Brought                     part.Moment
	On                          []crumbView
	Unused                      string // why nothing shows it, and whether it can be removed
	RemoveURL                   string // empty: it stays
	ReplaceURL, Key             string
	Replaced                    bool // another one took its place
}

// files lists the files of the site.
func (s *Screens) files(r *shell.Request) error { return s.showFiles(r, http.StatusOK, "") }

func (s *Screens) showFiles(r *shell.Request, status int, problem string) error {
	list, err := s.App.Files(r.Ctx(), r.Who, r.Query("q"), r.Query("only") == "picture", r.Page())
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Files")
	if err != nil {
		return err
	}
	v := filesView{Frame: f, Q: r.Query("q"), Self: urls.Files, Upload: urls.Files, Problem: problem, Only: r.Query("only") == "picture", Said: r.Query("said")}
	for _, line := range list.Files {
		row := fileRow{ID: line.ID, Name: line.Called(), Address: line.Address(), Told: measure(line.KeptFile), By: line.By, Brought: part.At(line.At), ReplaceURL: urls.Files + "/" + line.ID + "/replace", Key: part.NewKey(), Replaced: line.ReplacedBy != ""}
		if line.Width > 0 {
			row.Picture = line.Address()
			if len(line.Sizes) > 0 {
				row.Picture = plan.FileAt(line.ID, strconv.Itoa(line.Sizes[0])+"-"+line.Name)
			}
		}
		for _, id := range line.On {
			row.On = append(row.On, crumbView{list.Trees.Title(id), urls.Page(id)})
		}
		switch {
		case len(line.On) > 0:
		case line.Ever:
			row.Unused = "only earlier editions"
		default:
			row.Unused, row.RemoveURL = "nothing", urls.Files+"/"+line.ID+"/remove"
		}
		v.Rows = append(v.Rows, row)
	}
	v.Any = len(v.Rows) > 0 || v.Q != "" || v.Only || r.Page() > 1
	v.Pager = filesPager(r, v, list.More)
	return s.Show(r, status, "files", v)
}

func filesPager(r *shell.Request, v filesView, more bool) part.Pager {
	page := max(r.Page(), 1)
	at := func(n int) string {
		q := url.Values{"page": {strconv.Itoa(n)}}
		if v.Q != "" {
			q.Set("q", v.Q)
		}
		if v.Only {
			q.Set("only", "picture")
		}
		return urls.Files + "?" + q.Encode()
	}
	p := part.Pager{Range: fmt.Sprintf("Page %d", page)}
	if page > 1 {
		p.Prev = at(page - 1)
	}
	if more {
		p.Next = at(page + 1)
	}
	return p
}

// measure tells what a file is: its kind, size and measures.
func measure(f plan.KeptFile) string {
	if f.Width > 0 {
		return fmt.Sprintf("%s, %d × %d", markup.Size(f.Bytes), f.Width, f.Height)
	}
	return markup.Size(f.Bytes)
}

// findFiles answers the picker of the editor.
func (s *Screens) findFiles(r *shell.Request) error {
	list, err := s.App.Files(r.Ctx(), r.Who, r.Query("q"), r.Query("only") == "picture", 1)
	if err != nil {
		return err
	}
	type found struct {
		Address string `json:"address"`
		Name    string `json:"name"`
		Told    string `json:"told"`
		Width   int    `json:"width,omitempty"`
	}
	out := []found{}
	for _, f := range list.Files {
		out = append(out, found{f.Address(), f.Called(), measure(f.KeptFile), f.Width})
	}
	r.JSON(http.StatusOK, map[string]any{"found": out})
	return nil
}

// fileRows gives the rows of a file as a table.
func (s *Screens) fileRows(r *shell.Request) error {
	text, left, err := s.App.TableOf(r.Ctx(), r.Who, r.Query("at"), files.ReadRows)
	if err != nil {
		return err
	}
	told := ""
	if left > 0 {
		told = "The table shows the first " + part.Thousands(content.MostTableRows) + " rows; " + part.Count(left, "row is", "rows are") + " only in the file."
	}
	r.JSON(http.StatusOK, map[string]string{"text": text, "told": told})
	return nil
}

// upload keeps a file: for the editor, which asks for JSON, or for the list.
func (s *Screens) upload(r *shell.Request) error {
	var kept plan.KeptFile
	err := s.received(r, func(f content.PictureFile) (err error) {
		kept, err = s.App.AddFile(r.Ctx(), r.Who, f)
		return err
	})
	if r.WantsJSON() {
		if err != nil {
			return err
		}
		r.JSON(http.StatusOK, map[string]any{"address": kept.Address(), "name": kept.Name, "width": kept.Width, "height": kept.Height})
		return nil
	}
	if err != nil {
		return s.filesWith(r, err)
	}
	r.Redirect(http.StatusSeeOther, urls.Files+"?said="+url.QueryEscape(kept.Called()+" is kept. Pages can show it now."))
	return nil
}

// replaceFile puts another file in the place of one.
func (s *Screens) replaceFile(r *shell.Request) error {
	var res plan.PlanResult
	err := s.received(r, func(f content.PictureFile) (err error) {
		res, err = s.App.Replace(r.Ctx(), r.Who, r.PostForm("key"), r.Param("id"), f, files.ReadRows)
		return err
	})
	if err != nil {
		return s.filesWith(r, err)
	}
	r.Redirect(http.StatusSeeOther, urls.Files+"?said="+url.QueryEscape(part.UpperFirst(res.Label)+". Readers get the new one with the next edition."))
	return nil
}

// filesWith shows the list of files with what was refused.
func (s *Screens) filesWith(r *shell.Request, err error) error {
	invalid, away := (*plan.Invalid)(nil), (*plan.StorageError)(nil)
	switch {
	case errors.As(err, &invalid):
		return s.showFiles(r, http.StatusUnprocessableEntity, invalid.Error())
	case errors.As(err, &away):
		s.Log.Error("storage of files", "id", border.ID(r.Writer), "error", away.Err)
		return s.showFiles(r, http.StatusServiceUnavailable, away.Error())
	}
	return err
}

// received prepares the file of a form as the site keeps it, and hands it on. What arrives is
// kept on disk until its turn comes: one at a time is read, so that ten pictures take the
// memory of one.
func (s *Screens) received(r *shell.Request, use func(content.PictureFile) error) error {
	most := int64(r.Site.Settings.Number(setting.LargestFile)) << 20
	if err := r.Request.ParseMultipartForm(1 << 20); err != nil {
		if errors.As(err, new(*http.MaxBytesError)) {
			return tooLarge(most)
		}
		return plan.Refuse("file", "No file arrived. Choose one and try again.")
	}
	defer func() { _ = r.Request.MultipartForm.RemoveAll() }()
	in, head, err := r.Request.FormFile("file")
	if err != nil {
		return plan.Refuse("file", "No file arrived. Choose one and try again.")
	}
	defer in.Close()
	if head.Size > most {
		return tooLarge(most)
	}
	select {
	case s.preparing <- struct{}{}:
		defer func() { <-s.preparing }()
	case <-r.Ctx().Done():
		return r.Ctx().Err()
	}
	f, err := files.Prepare(head.Filename, in)
	if err != nil {
		return plan.Refuse("file", fmt.Sprintf("“%s” was not kept: %s", shortName(head.Filename), err))
	}
	return use(f)
}

func shortName(name string) string {
	if r := []rune(name); len(r) > 60 {
		return string(r[:57]) + "…"
	}
	return name
}

func tooLarge(most int64) error {
	return plan.Refuse("file", fmt.Sprintf("Files have at most %d MB here. A site manager can change that in the site settings.", most>>20))
}

// removeFile deletes a file that nothing shows.
func (s *Screens) removeFile(r *shell.Request) error {
	if err := s.App.RemoveFile(r.Ctx(), r.Who, r.Param("id")); err != nil {
		return s.filesWith(r, err)
	}
	r.Redirect(http.StatusSeeOther, urls.Files+"?said="+url.QueryEscape("The file is deleted."))
	return nil
}
