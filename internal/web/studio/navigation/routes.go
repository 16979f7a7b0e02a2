// Package navigation holds the screens of one stop of the studio: menus, trails, reach and findability. Handlers decode,
// call one use case, build the view and render; they decide nothing about the job.
package navigation

import (
	"net/http"

	"candlepath/internal/app/reading"
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// Screens are the screens of this stop.
type Screens struct {
	*shell.Shell

	showPreview func(http.ResponseWriter, reading.Previewed) error
}

// New makes them.
func New(s *shell.Shell, preview func(http.ResponseWriter, reading.Previewed) error) *Screens {
	return &Screens{Shell: s, showPreview: preview}
}

// Routes is the route table of this stop.
func (s *Screens) Routes() []shell.Route {
	return []shell.Route{
		{Method: "GET", Path: urls.Menus, Screen: "menus", View: shell.ViewMenus, Act: workflow.Plan, Handle: s.menus},
		{Method: "POST", Path: urls.MenuAct, Act: workflow.Plan, Handle: s.menuAct},
		{Method: "GET", Path: urls.MenuFind, Act: workflow.Plan, Handle: s.findForMenu},
		{Method: "GET", Path: urls.Preview, Act: workflow.Plan, Handle: s.preview},
		{Method: "GET", Path: urls.Boards, Screen: "boards", View: shell.ViewBoards, Act: workflow.Plan, Handle: s.boards},
		{Method: "GET", Path: urls.Trails, Screen: "trails", View: shell.ViewTrails, Act: workflow.Plan, Handle: s.trails},
		{Method: "GET", Path: urls.Trails + "/:id", Screen: "trail", View: shell.ViewTrails, Act: workflow.Plan, Handle: s.trail},
		{Method: "POST", Path: urls.Trails + "/:id", Screen: "trail", View: shell.ViewTrails, Act: workflow.Plan, Handle: s.saveTrail},
		{Method: "POST", Path: urls.Reach + "/item", Screen: "reach", View: shell.ViewReach, Act: workflow.Plan, Handle: s.planItem},
		{Method: "GET", Path: urls.Reach, Screen: "reach", View: shell.ViewReach, Act: workflow.Plan, Handle: s.reach},
		{Method: "POST", Path: urls.Reach + "/tile", View: shell.ViewReach, Act: workflow.Plan, Handle: s.planTile},
		{Method: "POST", Path: urls.Reach + "/visits", Screen: "reach", View: shell.ViewReach, Act: workflow.Plan, Handle: s.bringVisits},
		{Method: "GET", Path: urls.Findability, Screen: "findability", View: shell.ViewFindability, Act: workflow.Plan, Handle: s.findability},
		{Method: "POST", Path: urls.Findability, Screen: "findability", View: shell.ViewFindability, Act: workflow.Govern, Handle: s.beginStudy},
		{Method: "GET", Path: urls.Findability + "/:id", Screen: "study", View: shell.ViewFindability, Act: workflow.Plan, Handle: s.study},
		{Method: "POST", Path: urls.Findability + "/:id/drop", Act: workflow.Govern, Handle: s.dropStudy},
	}
}
