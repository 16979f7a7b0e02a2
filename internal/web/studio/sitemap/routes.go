// Package sitemap holds the screens of one stop of the studio: the outline, the map, and what is checked, compared, imported and exported. Handlers decode,
// call one use case, build the view and render; they decide nothing about the job.
package sitemap

import (
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// Screens are the screens of this stop.
type Screens struct{ *shell.Shell }

// New makes them.
func New(s *shell.Shell) *Screens { return &Screens{s} }

// Routes is the route table of this stop.
func (s *Screens) Routes() []shell.Route {
	return []shell.Route{
		{Method: "GET", Path: urls.Outline, Screen: "outline", View: shell.ViewOutline, Act: workflow.Plan, Handle: s.outline},
		{Method: "GET", Path: urls.Rows, Act: workflow.Plan, Handle: s.rows},
		{Method: "POST", Path: urls.Act, Act: workflow.Plan, Handle: s.act},
		{Method: "GET", Path: urls.Since, Act: workflow.Plan, Handle: s.since},
		{Method: "POST", Path: urls.Views, Act: workflow.Plan, Handle: s.saveView},
		{Method: "POST", Path: urls.Views + "/drop", Act: workflow.Plan, Handle: s.dropView},
		{Method: "POST", Path: urls.Undo, Act: workflow.Plan, Handle: s.undo},
		{Method: "POST", Path: urls.Redo, Act: workflow.Plan, Handle: s.redo},
		{Method: "GET", Path: urls.BesideOf, Screen: "outline", View: shell.ViewOutline, Act: workflow.Plan, Handle: s.beside},
		{Method: "GET", Path: urls.Merge, Screen: "merge", View: shell.ViewOutline, Act: workflow.Plan, Handle: s.merge},
		{Method: "POST", Path: urls.Merge, Screen: "merge", View: shell.ViewOutline, Act: workflow.Plan, Handle: s.doMerge},
		{Method: "GET", Path: urls.Similar, Screen: "similar", View: shell.ViewChecks, Act: workflow.Plan, Handle: s.similar},
		{Method: "POST", Path: urls.Similar, Act: workflow.Plan, Handle: s.different},
		{Method: "GET", Path: urls.Map, Screen: "map", View: shell.ViewMap, Act: workflow.Plan, Handle: s.drawnMap},
		{Method: "GET", Path: urls.Drawing, Act: workflow.Plan, Handle: s.drawing, Large: true},
		{Method: "GET", Path: urls.Picture, Act: workflow.Plan, Handle: s.picture, Large: true},
		{Method: "GET", Path: urls.Compare, Screen: "compare", View: shell.ViewCompare, Act: workflow.Plan, Handle: s.compare},
		{Method: "GET", Path: urls.Checks, Screen: "checks", View: shell.ViewChecks, Act: workflow.Plan, Handle: s.checks},
		{Method: "POST", Path: urls.Checks, Screen: "checks", View: shell.ViewChecks, Act: workflow.Plan, Handle: s.mend},
		{Method: "GET", Path: urls.Import, Screen: "import", View: shell.ViewImport, Act: workflow.Plan, Handle: s.importPage},
		{Method: "POST", Path: urls.Import, View: shell.ViewImport, Act: workflow.Plan, Handle: s.upload, Large: true},
		{Method: "GET", Path: urls.Import + "/:id", Screen: "import-file", View: shell.ViewImport, Act: workflow.Plan, Handle: s.importFile},
		{Method: "POST", Path: urls.Import + "/:id/accept", Act: workflow.Plan, Handle: s.acceptFile, Large: true},
		{Method: "GET", Path: urls.ExportAt, Act: workflow.Plan, Handle: s.export, Large: true},
		{Method: "GET", Path: urls.Find, Act: workflow.Plan, Handle: s.find},
	}
}
