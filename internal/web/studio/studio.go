// Package studio is where editors, approvers and site managers work: it joins the
// screens of the stops, one folder each.
//
// A screen is found from its address: the routes.go of its stop names the method,
// the address, the template, the view of the frame, the right that it needs, and
// the handler. A handler decodes, calls one use case, builds the view and renders.
// shell holds what surrounds every screen, from the session to the shelf; part
// holds pieces of views that several screens show.
package studio

import (
	"context"
	"log/slog"
	"net/http"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
	"candlepath/internal/app/reading"
	"candlepath/internal/platform/background"
	"candlepath/internal/web/render"
	"candlepath/internal/web/studio/account"
	"candlepath/internal/web/studio/addresses"
	"candlepath/internal/web/studio/editions"
	"candlepath/internal/web/studio/navigation"
	"candlepath/internal/web/studio/pages"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/studio/sitemap"
	"candlepath/internal/web/urls"
)

// Studio serves everything below /studio.
type Studio struct {
	shell   *shell.Shell
	account *account.Screens
	routes  []shell.Route
}

// Config is what a Studio needs.
type Config struct {
	App       *app.App
	Sessions  *scs.SessionManager
	Log       *slog.Logger
	Work      *background.Group // beside requests
	Published func(context.Context)
	// Forget makes the reader site ask anew who reads with which session.
	Forget func()
	// SetupCode is what the first person of an empty site has to know.
	SetupCode string
	// Demo adds a page that shows the parts of all screens.
	Demo bool
	// Preview writes a page as a reader gets it.
	Preview func(http.ResponseWriter, reading.Previewed) error
	// Show writes a page of a state of the site.
	Show func(http.ResponseWriter, *http.Request, reading.Show) error
}

// New makes a Studio.
func New(c Config) (*Studio, error) {
	set, err := render.Studio()
	if err != nil {
		return nil, err
	}
	sh := &shell.Shell{App: c.App, Set: set, Sessions: c.Sessions, Log: c.Log, Published: c.Published, Forget: c.Forget, Live: shell.NewLive(c.App, c.Work), Demo: c.Demo}
	s := &Studio{shell: sh, account: account.New(sh, c.SetupCode)}
	for _, stop := range []interface{ Routes() []shell.Route }{
		sh, sitemap.New(sh), navigation.New(sh, c.Preview), pages.New(sh), addresses.New(sh), editions.New(sh, c.Show), s.account,
	} {
		s.routes = append(s.routes, stop.Routes()...)
	}
	return s, nil
}

// Live tells the windows of the studio what others do.
func (s *Studio) Live() *shell.Live { return s.shell.Live }

// Routes is the route table of the studio.
func (s *Studio) Routes() []shell.Route { return s.routes }

// Screens names the screens that there are.
func (s *Studio) Screens() []string { return s.shell.Set.Names() }

// Register adds the routes to the engine.
func (s *Studio) Register(e *gin.Engine) {
	for _, begin := range []string{urls.Studio, urls.Studio + "/"} {
		shell.Get(e, begin, func(c *gin.Context) { c.Redirect(http.StatusSeeOther, urls.Outline) })
	}
	s.account.RegisterOpen(e)
	s.shell.Register(e, s.routes)
}
