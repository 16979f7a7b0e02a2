package reader

import (
	"errors"
	"io"
	"mime"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/kept"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/border"
)

// File answers a picture or a file that stands in a text. Whoever may read a page that
// shows it may have it; so may who writes pages. For others it is not there. One that was
// replaced gives its address to the one that took its place. Only pictures
// are shown; everything else is saved, and nothing of it runs here.
func (s *Site) File(c *gin.Context) {
	w, r := c.Writer, c.Request
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	p, err := s.app.File(r.Context(), snap.Site.Edition, c.Param("id"), c.Param("name"))
	switch {
	case errors.Is(err, plan.ErrNotFound):
		s.Serve(c)
		return
	case err != nil:
		s.log.Error("read file", "id", border.ID(w), "file", c.Param("id"), "error", err)
		s.unavailable(w)
		return
	}
	e := s.live.Load()
	place := kept.Place{
		Shown:     p.Mark || snap.serves(p.On) || snap.Site.Rights().May(s.who(r).Role, workflow.Write),
		Hidden:    snap.hides(p.On, e.full) || snap.hides(p.Before, e.full),
		Successor: p.Now != nil && snap.serves(p.Now.On),
		Before:    len(p.On)+len(p.Before) > 0,
	}
	switch place.Code() {
	case http.StatusOK:
		if !place.Shown {
			p = *p.Now
		}
		s.sendFile(c, p, p.Mark || e.public.serves(p.On))
	case http.StatusGone:
		s.gone(w, r, snap, r.URL.Path, "")
	default:
		s.Serve(c)
	}
}

// serves tells whether readers get one of the pages.
func (v *view) serves(pages []string) bool {
	return slices.ContainsFunc(pages, func(id string) bool {
		i := v.Tree.Find(id)
		return i != sitemap.None && v.Tree.Served(i) != ""
	})
}

// hides tells whether all of the pages that readers get are there for other readers only. A page that is
// withdrawn is there for nobody.
func (v *view) hides(pages []string, full reading.LiveSite) bool {
	there := slices.DeleteFunc(slices.Clone(pages), func(id string) bool {
		i := full.Tree.Find(id)
		return i == sitemap.None || full.Tree.Served(i) == ""
	})
	return len(there) > 0 && !v.serves(there)
}

func (s *Site) sendFile(c *gin.Context, f reading.ShownFile, public bool) {
	w, r := c.Writer, c.Request
	h, tag := w.Header(), `"`+plan.ObjectKey(f.ID, f.Size)+`"`
	h.Set("Cache-Control", "private, no-cache")
	if public {
		h.Set("Cache-Control", "public, no-cache")
	}
	h.Set("Etag", tag)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	if _, save := r.URL.Query()["save"]; save || f.Width == 0 {
		h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.Called()}))
	}
	if matches(r.Header.Get("If-None-Match"), tag) {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	body, n, err := s.app.Open(r.Context(), f)
	if err != nil {
		s.log.Error("open file", "id", border.ID(w), "file", f.ID, "error", err)
		http.Error(w, "This file cannot be read at the moment.", http.StatusServiceUnavailable)
		return
	}
	defer body.Close()
	h.Set("Content-Type", f.Type)
	h.Set("Content-Length", strconv.FormatInt(n, 10))
	w.WriteHeader(http.StatusOK)
	if r.Method == http.MethodHead {
		return
	}
	if _, err := io.Copy(w, body); err != nil {
		s.log.Debug("file not sent", "id", border.ID(w), "error", err)
	}
}
