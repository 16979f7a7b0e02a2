package editions

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"

	"candlepath/internal/app/editions"
	"candlepath/internal/app/plan"
	"candlepath/internal/markup"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// exportEdition has an edition written out as files, as whoever is named may read it.
func (s *Screens) exportEdition(r *shell.Request) error {
	id, err := s.App.BeginExport(r.Ctx(), r.Who, r.Param("number"), r.PostForm("as"))
	if invalid := (*plan.Invalid)(nil); errors.As(err, &invalid) {
		return s.seePage(r, http.StatusUnprocessableEntity, "", invalid.Message)
	}
	if err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.EditionExport(id))
	return nil
}

// editionExport shows how far an export is. It can be left.
func (s *Screens) editionExport(r *shell.Request) error {
	x, err := s.App.EditionExport(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	f, _, err := s.FrameFor(r, "Export")
	if err != nil {
		return err
	}
	v := newExport(x)
	v.Frame = f
	return s.showLarge(r, v)
}

func newExport(x editions.EditionExport) largeView {
	v := largeView{
		Self: urls.EditionExport(x.ID), Stop: urls.Stop(urls.EditionExport(x.ID)), Next: urls.PastEdition(x.Edition), NextWords: fmt.Sprintf("See edition %d", x.Edition),
		Done: x.Done, Total: x.Total, Problem: x.Problem, Waiting: x.State == editions.LargeWaiting,
	}
	switch x.State {
	case editions.LargeWaiting:
		v.Heading, v.Far = fmt.Sprintf("Exporting edition %d", x.Edition), part.Thousands(x.Done)+" of "+part.Thousands(x.Total)+" pages exported"
		v.Words = "You can leave this page; you get a notice in your inbox when it is done."
	case editions.LargeOut:
		v.Heading, v.Words = fmt.Sprintf("Edition %d is ready to download", x.Edition), part.Count(x.Total, "page", "pages")+" with files, redirect rules and proof. Available until"
		v.Until = part.At(x.Ends())
		v.File, v.FileWords = urls.ExportedFile(x.ID), exportName(x)+", "+markup.Size(int(x.Bytes))
	case editions.LargeStopped:
		v.Heading = fmt.Sprintf("Edition %d was not exported", x.Edition)
	}
	return v
}

func exportName(x editions.EditionExport) string { return fmt.Sprintf("edition-%d.zip", x.Edition) }

// stopExport stops an export.
func (s *Screens) stopExport(r *shell.Request) error {
	if err := s.App.StopExport(r.Ctx(), r.Who, r.Param("id")); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.EditionExport(r.Param("id")))
	return nil
}

// exportedFile gives what an export wrote.
func (s *Screens) exportedFile(r *shell.Request) error {
	x, body, err := s.App.OpenExport(r.Ctx(), r.Who, r.Param("id"))
	if err != nil {
		return err
	}
	defer body.Close()
	r.Header("Content-Type", "application/zip")
	r.Header("Content-Length", strconv.FormatInt(x.Bytes, 10))
	r.Header("Content-Disposition", fmt.Sprintf(`attachment; filename=%q`, exportName(x)))
	_, err = io.Copy(r.Writer, body)
	return err
}
