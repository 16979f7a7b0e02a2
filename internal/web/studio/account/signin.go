package account

import (
	"errors"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/border"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type signInView struct {
	Site, To, Login, Error, Action string
}

func (s *Screens) signInForm(c *gin.Context) error {
	return s.signInPage(c, http.StatusOK, signInView{To: border.Text(c.Query("to"))})
}

func (s *Screens) signInPage(c *gin.Context, status int, v signInView) error {
	site, err := s.App.SiteNow(c.Request.Context())
	if err != nil {
		return err
	}
	if site.ID == "" {
		c.Redirect(http.StatusSeeOther, urls.Begin)
		return nil
	}
	v.Site, v.Action = site.Name(), urls.SignIn
	return s.Set.Write(c.Writer, status, "sign-in", "plain", v)
}

// browserCookie holds the token by which a browser is known at the sign-in.
const (
	browserCookie = "candlepath-browser"
	browserFor    = 400 * 24 * time.Hour
)

func (s *Screens) signIn(c *gin.Context) error {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 64<<10)
	ctx := c.Request.Context()
	v := signInView{To: border.Text(c.PostForm("to")), Login: border.Text(c.PostForm("name"))}
	ask := account.SignInAsk{Login: v.Login, Password: c.PostForm("password"), Host: border.Host(c.Request)}
	if cookie, err := c.Request.Cookie(browserCookie); err == nil && len(cookie.Value) < 100 {
		ask.Browser = border.Text(cookie.Value)
	}
	who, browser, err := s.App.SignIn(ctx, ask)
	if errors.Is(err, account.ErrSignIn) || errors.Is(err, account.ErrBusy) || errors.As(err, new(*account.TooSoon)) {
		status, words := s.Word(err)
		v.Error = words
		return s.signInPage(c, status, v)
	}
	if err != nil {
		return err
	}
	http.SetCookie(c.Writer, &http.Cookie{
		Name: browserCookie, Value: browser, Path: urls.SignIn, MaxAge: int(browserFor.Seconds()), HttpOnly: true,
		SameSite: http.SameSiteLaxMode, Secure: urls.Scheme(c.Request) == "https",
	})
	return s.enter(c, who, v.To)
}

// enter begins the session of somebody, and sends them to where they wanted.
func (s *Screens) enter(c *gin.Context, who plan.Person, wanted string) error {
	ctx := c.Request.Context()
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.Sessions.Put(ctx, shell.SessionPerson, who.ID)
	s.Sessions.Put(ctx, shell.SessionSince, time.Now().UnixMicro())
	to := urls.Outline
	switch who.Role {
	case workflow.Reader:
		to = "/" // readers have no work in the studio
	case workflow.Editor:
		to = urls.Mine
	}
	if local, ok := urls.Local(wanted); ok {
		to = local
	}
	c.Redirect(http.StatusSeeOther, to)
	return nil
}

func (s *Screens) signOut(c *gin.Context) error {
	if err := s.Sessions.Destroy(c.Request.Context()); err != nil {
		return err
	}
	s.Forget()
	if err := s.App.SignedOut(c.Request.Context()); err != nil {
		return err
	}
	c.Redirect(http.StatusSeeOther, urls.SignIn)
	return nil
}

// passwordView is where somebody gives themselves a password by a link.
type passwordView struct{ Site, Name, Login, Action, Error string }

func (s *Screens) passwordForm(c *gin.Context) error { return s.passwordPage(c, http.StatusOK, "") }

func (s *Screens) passwordPage(c *gin.Context, status int, problem string) error {
	token := border.Text(c.Param("token"))
	who, err := s.App.LinkedPerson(c.Request.Context(), token)
	if errors.Is(err, plan.ErrNotFound) {
		return shell.ErrLinkEnded
	}
	if err != nil {
		return err
	}
	site, err := s.App.SiteNow(c.Request.Context())
	if err != nil {
		return err
	}
	return s.Set.Write(c.Writer, status, "password", "plain", passwordView{site.Name(), who.Name, who.Login, urls.Password + "/" + token, problem})
}

func (s *Screens) setPassword(c *gin.Context) error {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 64<<10)
	password := c.PostForm("password")
	if password != c.PostForm("again") {
		return s.passwordPage(c, http.StatusUnprocessableEntity, "The passwords do not match. Enter them again.")
	}
	who, err := s.App.SetPassword(c.Request.Context(), border.Text(c.Param("token")), password)
	invalid := (*plan.Invalid)(nil)
	switch {
	case errors.As(err, &invalid):
		return s.passwordPage(c, http.StatusUnprocessableEntity, invalid.Message)
	case errors.Is(err, plan.ErrNotFound):
		return shell.ErrLinkEnded
	case err != nil:
		return err
	}
	s.Forget()
	return s.enter(c, who, "")
}
