package account

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"candlepath/internal/app/account"
	"candlepath/internal/app/plan"
	"candlepath/internal/web/border"
	"candlepath/internal/web/urls"
)

// beginView is the first page of a program that has no site yet.
type beginView struct {
	Action, Error, Field             string
	Code, Site, Host, Manager, Login string
}

func (s *Screens) beginForm(c *gin.Context) error {
	return s.beginPage(c, http.StatusOK, beginView{Host: border.Text(c.Request.Host)})
}

func (s *Screens) beginPage(c *gin.Context, status int, v beginView) error {
	site, err := s.App.SiteNow(c.Request.Context())
	if err != nil {
		return err
	}
	if site.ID != "" {
		c.Redirect(http.StatusSeeOther, urls.SignIn)
		return nil
	}
	v.Action = urls.Begin
	return s.Set.Write(c.Writer, status, "begin", "plain", v)
}

// begin makes the first site, for whoever knows the code that the program printed.
func (s *Screens) begin(c *gin.Context) error {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 64<<10)
	form := func(name string) string { return border.Text(c.PostForm(name)) }
	v := beginView{Code: form("code"), Site: form("site"), Host: form("host"), Manager: form("name"), Login: form("login")}
	who, err := s.App.SetUpByCode(c.Request.Context(), account.SetupAsk{
		Name: v.Site, Host: v.Host, Manager: plan.Person{Name: v.Manager, Login: v.Login}, Password: c.PostForm("password"),
	}, s.setupCode, v.Code, border.Host(c.Request))
	invalid := (*plan.Invalid)(nil)
	switch {
	case errors.As(err, &invalid):
		v.Error, v.Field = invalid.Message, invalid.Field
		return s.beginPage(c, http.StatusUnprocessableEntity, v)
	case errors.As(err, new(*account.TooSoon)), errors.Is(err, account.ErrBusy):
		status, words := s.Word(err)
		v.Error = words
		return s.beginPage(c, status, v)
	case errors.Is(err, plan.ErrDone):
		c.Redirect(http.StatusSeeOther, urls.SignIn)
		return nil
	case err != nil:
		return err
	}
	s.Published(c.Request.Context())
	return s.enter(c, who, "")
}
