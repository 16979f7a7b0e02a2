package reader

import (
	"errors"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
)

// Picture answers a picture that stands in a text. Its id is made of what it
// holds, so browsers may keep it for ever; they must take it for nothing else.
func (s *Site) Picture(c *gin.Context) {
	w, r := c.Writer, c.Request
	p, err := s.app.Picture(r.Context(), c.Param("id"))
	if err == nil && app.PictureAt(p.ID, p.Name) != r.URL.Path {
		err = app.ErrNotFound
	}
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.Serve(c)
		return
	case err != nil:
		s.log.Error("read picture", "id", c.Param("id"), "error", err)
		s.unavailable(w)
		return
	}
	h := w.Header()
	h.Set("Content-Type", p.Type)
	h.Set("Content-Length", strconv.Itoa(len(p.Data)))
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	h.Set("X-Content-Type-Options", "nosniff")
	w.WriteHeader(http.StatusOK)
	if _, err := w.Write(p.Data); err != nil {
		s.log.Debug("picture not sent", "error", err)
	}
}
