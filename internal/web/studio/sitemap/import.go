package sitemap

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"path/filepath"

	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/core/sheet"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type importView struct {
	shell.Frame
	Action  string
	Limit   string
	Out     []exportView
	Example []string
	Error   string
}

func (s *Screens) importPage(r *shell.Request) error { return s.importForm(r, http.StatusOK, "") }

func (s *Screens) importForm(r *shell.Request, status int, problem string) error {
	f, _, err := s.FrameFor(r, "Import · Export")
	if err != nil {
		return err
	}
	v := importView{Frame: f, Action: urls.Import, Limit: fmt.Sprintf("%d MB", appsitemap.MaxUpload>>20), Error: problem, Example: sheet.Columns}
	for _, o := range []struct{ format, about string }{
		{"csv", "for scripts and any spreadsheet program; loses nothing"},
		{"xlsx", "a workbook with a frozen header; loses nothing"},
		{"json", "for programs; loses nothing"},
		{"opml", "an outline for outline programs; loses nothing"},
		{"xml", "sitemaps.org: the addresses of pages only"},
	} {
		v.Out = append(v.Out, exportView{o.format, o.about, urls.Export(o.format, "next"), urls.Export(o.format, "live")})
	}
	return s.Show(r, status, "import", v)
}

func (s *Screens) upload(r *shell.Request) error {
	head, err := r.FormFile("file")
	if errors.As(err, new(*http.MaxBytesError)) {
		return err
	}
	if err != nil {
		return s.importForm(r, http.StatusUnprocessableEntity, "Choose a file first.")
	}
	f, err := head.Open()
	if err != nil {
		return err
	}
	defer f.Close()
	data, err := io.ReadAll(f)
	if err != nil {
		return err
	}
	name := filepath.Base(head.Filename)
	if len(name) > 200 {
		name = name[len(name)-200:]
	}
	id, err := s.App.PutFile(r.Ctx(), r.Who, name, data)
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.File(id))
	return nil
}
