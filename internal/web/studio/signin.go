package studio

import (
	"errors"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/urls"
)

type signInView struct {
	Site, To, Login, Error, Action string
}

func (s *Studio) signInForm(c *gin.Context) error {
	return s.signInPage(c, http.StatusOK, signInView{To: c.Query("to")})
}

func (s *Studio) signInPage(c *gin.Context, status int, v signInView) error {
	site, err := s.app.SiteNow(c.Request.Context())
	if err != nil {
		return err
	}
	v.Site, v.Action = site.Name, urls.SignIn
	return s.set.Write(c.Writer, status, "sign-in", "plain", v)
}

func (s *Studio) signIn(c *gin.Context) error {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 64<<10)
	ctx := c.Request.Context()
	v := signInView{To: c.PostForm("to"), Login: c.PostForm("name")}
	who, err := s.app.SignIn(ctx, v.Login, c.PostForm("password"), hostOf(c.Request))
	if errors.Is(err, app.ErrSignIn) || errors.Is(err, app.ErrTooMany) {
		status, words := s.word(err)
		v.Error = words
		return s.signInPage(c, status, v)
	}
	if err != nil {
		return err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, sessionPerson, who.ID)
	to := urls.Outline
	if who.Role == workflow.Reader {
		to = "/" // readers have no work in the studio
	}
	if strings.HasPrefix(v.To, "/") && !strings.Contains(v.To, "//") && !strings.Contains(v.To, "\\") {
		to = v.To
	}
	c.Redirect(http.StatusSeeOther, to)
	return nil
}

func (s *Studio) signOut(c *gin.Context) error {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		return err
	}
	c.Redirect(http.StatusSeeOther, urls.SignIn)
	return nil
}
