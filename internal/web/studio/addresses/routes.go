// Package addresses holds the screens of one stop of the studio: moves and redirects. Handlers decode,
// call one use case, build the view and render; they decide nothing about the job.
package addresses

import (
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// Screens are the screens of this stop.
type Screens struct {
	*shell.Shell
}

// New makes them.
func New(s *shell.Shell) *Screens { return &Screens{Shell: s} }

// Routes is the route table of this stop.
func (s *Screens) Routes() []shell.Route {
	return []shell.Route{
		{Method: "GET", Path: urls.Moves, Screen: "moves", View: shell.ViewMoves, Act: workflow.Plan, Handle: s.moves},
		{Method: "GET", Path: urls.MovesExport, Act: workflow.Plan, Handle: s.exportMoves, Large: true},
		{Method: "POST", Path: urls.MovesKeep, Screen: "moves", View: shell.ViewMoves, Act: workflow.Plan, Handle: s.keepMoved},
		{Method: "POST", Path: urls.MovesUndo, Screen: "moves", View: shell.ViewMoves, Act: workflow.Plan, Handle: s.undoMove},
		{Method: "GET", Path: urls.WhereTo, Screen: "decide", View: shell.ViewMoves, Act: workflow.Plan, Handle: s.decide},
		{Method: "POST", Path: urls.WhereTo, Screen: "decide", View: shell.ViewMoves, Act: workflow.Plan, Handle: s.decideMany},
		{Method: "POST", Path: urls.WhereToUndo, Screen: "decide", View: shell.ViewMoves, Act: workflow.Plan, Handle: s.undoDecide},
		{Method: "GET", Path: urls.Redirects, Screen: "redirects", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.redirects},
		{Method: "POST", Path: urls.RedirectAct, Screen: "redirects", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.planRedirect},
		{Method: "POST", Path: urls.RedirectBulk, Screen: "redirects", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.bulk},
		{Method: "GET", Path: urls.Covers, Screen: "covers", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.covers},
		{Method: "GET", Path: urls.AddressesOf + "/:id", Screen: "covers", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.addressesOf},
		{Method: "POST", Path: urls.RedirectDrop, Act: workflow.Plan, Handle: s.dropRedirects},
		{Method: "POST", Path: urls.RedirectUndo, Act: workflow.Plan, Handle: s.undoRedirects},
		{Method: "GET", Path: urls.RedirectList, Screen: "redirect-list", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.redirectList},
		{Method: "POST", Path: urls.RedirectList, Screen: "redirect-list", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.judgeList, Large: true},
		{Method: "GET", Path: urls.Unanswered, Screen: "unanswered", View: shell.ViewUnanswered, Act: workflow.Plan, Handle: s.unanswered},
		{Method: "GET", Path: urls.Flows, Screen: "picture", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.picture},
		{Method: "GET", Path: urls.FlowsFile, Act: workflow.Plan, Handle: s.pictureSVG},
		{Method: "GET", Path: urls.Rules, Screen: "rules", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.rules},
		{Method: "GET", Path: urls.RulesFile, Screen: "rules", View: shell.ViewRedirects, Act: workflow.Plan, Handle: s.rulesFile, Large: true},
		{Method: "GET", Path: urls.Older, Screen: "older", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.older},
		{Method: "POST", Path: urls.OlderImport, Screen: "older", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.importOlder, Large: true},
		{Method: "GET", Path: urls.OlderImportAt, Screen: "older-import", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.olderImport},
		{Method: "POST", Path: urls.OlderDecide, Screen: "older", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.decideOlder},
		{Method: "POST", Path: urls.OlderAccept, Screen: "older", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.acceptOlder},
		{Method: "POST", Path: urls.OlderFolder, Screen: "older", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.decideFolder},
		{Method: "POST", Path: urls.OlderUndo, Screen: "older", View: shell.ViewOlder, Act: workflow.Plan, Handle: s.undoOlder},
		{Method: "POST", Path: urls.OlderDrop, Act: workflow.Plan, Handle: s.dropOlder},
		{Method: "POST", Path: urls.UnansweredIgnore, Screen: "unanswered", View: shell.ViewUnanswered, Act: workflow.Plan, Handle: s.ignore},
		{Method: "GET", Path: urls.TestAt, Screen: "test", View: shell.ViewTest, Act: workflow.Plan, Handle: s.test},
		{Method: "POST", Path: urls.TestAt, Screen: "test", View: shell.ViewTest, Act: workflow.Plan, Handle: s.test},
		{Method: "POST", Path: urls.Releases, Screen: "redirects", View: shell.ViewRedirects, Act: workflow.Govern, Handle: s.release},
		{Method: "POST", Path: urls.Releases + "/keep", Screen: "redirects", View: shell.ViewRedirects, Act: workflow.Govern, Handle: s.keepAddress},
	}
}
