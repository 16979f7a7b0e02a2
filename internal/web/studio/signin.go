package studio

import (
	"errors"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

type signInView struct {
	Site, To, Login, Error, Action string
}

func (s *Studio) signInForm(c *gin.Context) error {
	return s.signInPage(c, http.StatusOK, signInView{To: border.Text(c.Query("to"))})
}

func (s *Studio) signInPage(c *gin.Context, status int, v signInView) error {
	site, err := s.app.SiteNow(c.Request.Context())
	if err != nil {
		return err
	}
	if site.ID == "" {
		c.Redirect(http.StatusSeeOther, urls.Begin)
		return nil
	}
	v.Site, v.Action = site.Name, urls.SignIn
	return s.set.Write(c.Writer, status, "sign-in", "plain", v)
}

// browserCookie holds the token by which a browser is known at the sign-in.
const (
	browserCookie = "candlepath-browser"
	browserFor    = 400 * 24 * time.Hour
)

func (s *Studio) signIn(c *gin.Context) error {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 64<<10)
	ctx := c.Request.Context()
	v := signInView{To: border.Text(c.PostForm("to")), Login: border.Text(c.PostForm("name"))}
	ask := account.SignInAsk{Login: v.Login, Password: c.PostForm("password"), Host: border.Host(c.Request)}
	if cookie, err := c.Request.Cookie(browserCookie); err == nil && len(cookie.Value) < 100 {
		ask.Browser = border.Text(cookie.Value)
	}
	who, browser, err := s.app.SignIn(ctx, ask)
	if errors.Is(err, account.ErrSignIn) || errors.Is(err, account.ErrBusy) || errors.As(err, new(*account.TooSoon)) {
		status, words := s.word(err)
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
func (s *Studio) enter(c *gin.Context, who plan.Person, wanted string) error {
	ctx := c.Request.Context()
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, sessionPerson, who.ID)
	s.sessions.Put(ctx, sessionSince, time.Now().UnixMicro())
	to := urls.Outline
	if who.Role == workflow.Reader {
		to = "/" // readers have no work in the studio
	}
	if local, ok := urls.Local(wanted); ok {
		to = local
	}
	c.Redirect(http.StatusSeeOther, to)
	return nil
}

func (s *Studio) signOut(c *gin.Context) error {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		return err
	}
	s.forget()
	if err := s.app.SignedOut(c.Request.Context()); err != nil {
		return err
	}
	c.Redirect(http.StatusSeeOther, urls.SignIn)
	return nil
}

// passwordView is where somebody gives themselves a password by a link.
type passwordView struct{ Site, Name, Login, Action, Error string }

func (s *Studio) passwordForm(c *gin.Context) error { return s.passwordPage(c, http.StatusOK, "") }

func (s *Studio) passwordPage(c *gin.Context, status int, problem string) error {
	token := border.Text(c.Param("token"))
	who, err := s.app.LinkedPerson(c.Request.Context(), token)
	if errors.Is(err, plan.ErrNotFound) {
		return errLinkEnded
	}
	if err != nil {
		return err
	}
	site, err := s.app.SiteNow(c.Request.Context())
	if err != nil {
		return err
	}
	return s.set.Write(c.Writer, status, "password", "plain", passwordView{site.Name, who.Name, who.Login, urls.Password + "/" + token, problem})
}

var errLinkEnded = errors.New("this link was used already, or its time is over; ask a site manager for a new one")

func (s *Studio) setPassword(c *gin.Context) error {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 64<<10)
	password := c.PostForm("password")
	if password != c.PostForm("again") {
		return s.passwordPage(c, http.StatusUnprocessableEntity, "The two are not the same. Type the password again.")
	}
	who, err := s.app.SetPassword(c.Request.Context(), border.Text(c.Param("token")), password)
	invalid := (*plan.Invalid)(nil)
	switch {
	case errors.As(err, &invalid):
		return s.passwordPage(c, http.StatusUnprocessableEntity, invalid.Message)
	case errors.Is(err, plan.ErrNotFound):
		return errLinkEnded
	case err != nil:
		return err
	}
	s.forget()
	return s.enter(c, who, "")
}
