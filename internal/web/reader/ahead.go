package reader

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	"candlepath/internal/core/sitemap"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

// SharedPreview shows what is planned to somebody who has a link with a secret.
func (s *Site) SharedPreview(c *gin.Context) {
	s.ahead(c, false, "")
}

// AheadRemark takes a remark of somebody who has such a link.
func (s *Site) AheadRemark(c *gin.Context) {
	r := c.Request
	r.Body = http.MaxBytesReader(c.Writer, r.Body, 64<<10)
	form := func(name string) string { return border.Text(r.PostFormValue(name)) }
	err := s.app.OutsideRemark(r.Context(), c.Param("secret"), form("page"), form("name"), form("words"))
	invalid := (*plan.Invalid)(nil)
	switch {
	case errors.As(err, &invalid):
		s.ahead(c, false, invalid.Message)
	case err != nil:
		s.aheadFails(c, err)
	default:
		s.ahead(c, true, "")
	}
}

func (s *Site) ahead(c *gin.Context, said bool, wrong string) {
	secret, at := c.Param("secret"), c.Param("at")
	if c.Request.Method == http.MethodPost {
		at = border.Text(c.Request.PostFormValue("at"))
	}
	if !secretForm.MatchString(secret) {
		s.aheadFails(c, plan.ErrNotFound)
		return
	}
	l, st, err := s.app.OpenLink(c.Request.Context(), secret)
	if err != nil {
		s.aheadFails(c, err)
		return
	}
	sh := reading.Show{State: st, As: l.As, Below: urls.AheadAt(secret), At: at, Until: l.Ends.UTC().Format("2 January 2006, 15:04 UTC"), Remark: urls.AheadAt(secret), Said: said, Wrong: wrong}
	if strings.HasPrefix(at, "/files/") {
		err = s.aheadFile(c, sh)
	} else {
		err = s.ShowPage(c.Writer, c.Request, sh)
	}
	if err != nil {
		s.aheadFails(c, err)
	}
}

// aheadFile answers a file that a page which the link shows holds.
func (s *Site) aheadFile(c *gin.Context, sh reading.Show) error {
	r := c.Request
	id, name, _ := strings.Cut(strings.TrimPrefix(sh.At, "/files/"), "/")
	snap, err := s.shown(r.Context(), sh.State, sh.As)
	if err != nil {
		return err
	}
	f, err := s.app.File(r.Context(), s.Edition(), id, name)
	if err != nil {
		return err
	}
	shows := f.Mark || snap.serves(f.On)
	if !shows {
		shows, err = s.app.LinkShows(r.Context(), sh.State, id, func(entry string) bool { return snap.Tree.Find(entry) != sitemap.None })
	}
	if err == nil && !shows {
		err = plan.ErrNotFound
	}
	if err == nil {
		s.sendFile(c, f, false)
	}
	return err
}

// aheadFails answers a link that leads nowhere like any address without a page.
func (s *Site) aheadFails(c *gin.Context, err error) {
	switch {
	case errors.Is(err, context.Canceled):
	case errors.Is(err, plan.ErrNotFound), errors.Is(err, plan.ErrForbidden):
		if snap := s.viewOf(c.Request); snap != nil {
			s.notFound(c.Writer, c.Request, snap)
			return
		}
		s.unavailable(c.Writer)
	default:
		s.log.Error("show what is planned", "id", border.ID(c.Writer), "error", err)
		s.unavailable(c.Writer)
	}
}
