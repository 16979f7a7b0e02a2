package reader

import (
	"errors"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/plan"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/core/workflow"
)

// Picture answers a picture that stands in a text. Whoever may read a page that
// shows it may have it; so may who writes pages. For others it is not there.
func (s *Site) Picture(c *gin.Context) {
	w, r := c.Writer, c.Request
	snap := s.viewOf(r)
	if snap == nil {
		s.unavailable(w)
		return
	}
	p, err := s.app.Picture(r.Context(), c.Param("id"), c.Param("name"))
	switch {
	case errors.Is(err, plan.ErrNotFound):
		s.Serve(c)
		return
	case err != nil:
		s.log.Error("read picture", "id", c.Param("id"), "error", err)
		s.unavailable(w)
		return
	}
	shown := func(v *view) bool {
		return p.Mark || slices.ContainsFunc(p.On, func(id string) bool {
			i := v.Tree.Find(id)
			return i != sitemap.None && v.Tree.Served(i) != ""
		})
	}
	public := s.live.Load().public
	switch {
	case shown(snap):
	case snap.Site.Rights().May(s.who(r).Role, workflow.Write):
	case p.Ever && len(p.On) == 0:
		s.gone(w, r, snap, r.URL.Path)
		return
	default:
		s.Serve(c)
		return
	}
	h := w.Header()
	h.Set("Cache-Control", "private, no-cache")
	if shown(public) {
		h.Set("Cache-Control", "public, no-cache")
	}
	h.Set("Etag", `"`+p.ID+`"`)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	if matches(r.Header.Get("If-None-Match"), `"`+p.ID+`"`) {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	h.Set("Content-Type", p.Type)
	h.Set("Content-Length", strconv.Itoa(len(p.Data)))
	w.WriteHeader(http.StatusOK)
	if r.Method == http.MethodHead {
		return
	}
	if _, err := w.Write(p.Data); err != nil {
		s.log.Debug("picture not sent", "error", err)
	}
}
