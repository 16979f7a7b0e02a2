// Package shell is what surrounds every studio screen: the frame with path and
// shelf, sessions and rights, and the one place where errors become statuses.
package shell

import (
	"context"
	"log/slog"
	"net/http"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"candlepath/internal/app"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/render"
	"candlepath/internal/web/urls"
)

// Shell is what the screens of every stop begin with.
type Shell struct {
	App      *app.App
	Set      *render.Set
	Sessions *scs.SessionManager
	Log      *slog.Logger
	// Published is told after an edition went out.
	Published func(context.Context)
	// Forget makes the reader site ask anew who reads with which session.
	Forget func()
	// Live tells windows what others do.
	Live *Live
	// Demo adds a page that shows the parts of all screens.
	Demo bool
}

// Route is one line of a route table: method, path, the screen it shows and in
// which view, the right it wants, and who handles it.
type Route struct {
	Method, Path, Screen string
	View                 string // in whose frame the screen stands
	Act                  workflow.Act
	Handle               func(*Request) error

	Large bool // brings a file, or takes one away
}

// Routes is what every screen asks of the frame, and the page of parts.
func (s *Shell) Routes() []Route {
	return []Route{
		{Method: "GET", Path: urls.Shelf, Screen: "outline", Act: workflow.Plan, Handle: s.shelf},
		{Method: "GET", Path: urls.Live, Act: workflow.Plan, Handle: s.live},
		{Method: "POST", Path: urls.LiveAt, Act: workflow.Plan, Handle: s.liveAt},
		{Method: "GET", Path: urls.Parts, Screen: "parts", View: ViewParts, Act: workflow.Plan, Handle: s.parts},
	}
}

// ScreensOf names the screens that routes show.
func ScreensOf(routes []Route) []string {
	var names []string
	for _, r := range routes {
		if r.Screen != "" {
			names = append(names, r.Screen)
		}
	}
	return names
}

// Register adds routes to the engine.
func (s *Shell) Register(e *gin.Engine, routes []Route) {
	for _, r := range routes {
		if r.Method == http.MethodGet {
			Get(e, r.Path, s.signedIn(r))
			continue
		}
		e.Handle(r.Method, r.Path, s.signedIn(r))
	}
}

// Get answers whoever only asks for the head, too.
func Get(e *gin.Engine, path string, h gin.HandlerFunc) {
	e.GET(path, h)
	e.HEAD(path, h)
}

// show renders a screen: the full page, or only the screen for htmx.
func (s *Shell) Show(r *Request, status int, screen string, view any) error {
	block := "layout"
	if render.Fragment(r.Request) {
		block = "screen"
	}
	return s.Set.Write(r.Writer, status, screen, block, view)
}
