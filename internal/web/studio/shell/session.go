package shell

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"candlepath/internal/app/plan"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/web/render"
	"candlepath/internal/web/urls"
)

// PersonOf gives the id of whoever signed in to the session of a context, and when
// they did.
func PersonOf(ctx context.Context, sessions *scs.SessionManager) (id string, since time.Time) {
	return sessions.GetString(ctx, SessionPerson), time.UnixMicro(sessions.GetInt64(ctx, SessionSince)).UTC()
}

// signedIn lets only people in who may do what the route is for.
func (s *Shell) signedIn(r Route) gin.HandlerFunc {
	return s.Adapt(func(c *gin.Context) error {
		id, since := PersonOf(c.Request.Context(), s.Sessions)
		if id == "" {
			return s.askToSignIn(c)
		}
		who, site, err := s.App.Person(c.Request.Context(), id, since)
		if errors.Is(err, plan.ErrNotFound) {
			return s.askToSignIn(c)
		}
		if err != nil {
			return err
		}
		if !site.Rights().May(who.Role, r.Act) {
			return plan.ErrForbidden
		}
		most := int64(usualBody)
		if r.Large {
			most = appsitemap.MaxUpload + 1<<20
		}
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
		asked := &Request{c, who, site, r}
		if r.Large {
			asked.slow()
		}
		return r.Handle(asked)
	})
}

func (s *Shell) askToSignIn(c *gin.Context) error {
	if wantsJSON(c.Request) || render.Fragment(c.Request) || c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		return errSignedOut
	}
	c.Redirect(http.StatusSeeOther, urls.SignIn+"?to="+c.Request.URL.EscapedPath())
	return nil
}

// What a session holds: who signed in, and when.
const (
	SessionPerson = "person"
	SessionSince  = "since"
)
