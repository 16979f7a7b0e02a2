// Package pages holds the screens of one stop of the studio: the inventory, the page editor and removed pages. Handlers decode,
// call one use case, build the view and render; they decide nothing about the job.
package pages

import (
	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// Screens are the screens of this stop.
type Screens struct {
	*shell.Shell
	preparing chan struct{} // one picture at a time, so that memory stays bounded
}

// New makes them.
func New(s *shell.Shell) *Screens { return &Screens{Shell: s, preparing: make(chan struct{}, 1)} }

// Routes is the route table of this stop.
func (s *Screens) Routes() []shell.Route {
	return []shell.Route{
		{Method: "GET", Path: urls.Pages, Screen: "inventory", View: shell.ViewInventory, Act: workflow.Write, Handle: s.inventory},
		{Method: "GET", Path: urls.NewPage, Screen: "new-page", View: shell.ViewInventory, Act: workflow.Plan, Handle: s.newPage},
		{Method: "POST", Path: urls.NewPage, Screen: "new-page", View: shell.ViewInventory, Act: workflow.Plan, Handle: s.addPage},
		{Method: "GET", Path: urls.Pages + "/:id", Screen: "page", View: shell.ViewPage, Act: workflow.Write, Handle: s.page},
		{Method: "POST", Path: urls.Pages + "/:id/save", Act: workflow.Write, Handle: s.savePage},
		{Method: "POST", Path: urls.Pages + "/:id/lock", Act: workflow.Write, Handle: s.lockPage},
		{Method: "POST", Path: urls.Pages + "/:id/close", Act: workflow.Write, Handle: s.closePage},
		{Method: "POST", Path: urls.Pages + "/:id/drop", Act: workflow.Write, Handle: s.dropDraft},
		{Method: "POST", Path: urls.Pages + "/:id/compare", Act: workflow.Write, Handle: s.comparePages},
		{Method: "POST", Path: urls.Pages + "/:id/changes", Act: workflow.Write, Handle: s.changesOf},
		{Method: "POST", Path: urls.Pages + "/:id/draw", Act: workflow.Write, Handle: s.drawBlocks},
		{Method: "GET", Path: urls.Pages + "/:id/states", Act: workflow.Write, Handle: s.states},
		{Method: "GET", Path: urls.Pages + "/:id/states/:state", Act: workflow.Write, Handle: s.state},
		{Method: "POST", Path: urls.Pages + "/:id/plain", Act: workflow.Write, Handle: s.plainText},
		{Method: "POST", Path: urls.Pages + "/:id/unplain", Act: workflow.Write, Handle: s.readPlain},
		{Method: "POST", Path: urls.Pages + "/:id/copy", Act: workflow.Write, Handle: s.copyBlock},
		{Method: "POST", Path: urls.Pages + "/:id/kept", Act: workflow.Write, Handle: s.dropKept},
		{Method: "GET", Path: urls.Pages + "/:id/look", Screen: "look", View: shell.ViewPage, Act: workflow.Write, Handle: s.lookPage},
		{Method: "GET", Path: urls.Pages + "/:id/source", Act: workflow.Write, Handle: s.pageSource},
		{Method: "GET", Path: urls.Pages + "/:id/split", Screen: "split", View: shell.ViewInventory, Act: workflow.Plan, Handle: s.split},
		{Method: "POST", Path: urls.Pages + "/:id/split", Screen: "split", View: shell.ViewInventory, Act: workflow.Plan, Handle: s.doSplit},
		{Method: "GET", Path: urls.Pages + "/:id/template", Screen: "retemplate", View: shell.ViewInventory, Act: workflow.Plan, Handle: s.retemplate},
		{Method: "POST", Path: urls.Pages + "/:id/template", Screen: "retemplate", View: shell.ViewInventory, Act: workflow.Plan, Handle: s.doRetemplate},
		{Method: "GET", Path: urls.Files, Screen: "files", View: shell.ViewFiles, Act: workflow.Write, Handle: s.files},
		{Method: "POST", Path: urls.Files, Act: workflow.Write, Handle: s.upload, Large: true},
		{Method: "GET", Path: urls.FileFind, Act: workflow.Write, Handle: s.findFiles},
		{Method: "GET", Path: urls.FileRows, Act: workflow.Write, Handle: s.fileRows},
		{Method: "POST", Path: urls.Files + "/:id/replace", View: shell.ViewFiles, Act: workflow.Plan, Handle: s.replaceFile, Large: true},
		{Method: "POST", Path: urls.Files + "/:id/remove", View: shell.ViewFiles, Act: workflow.Write, Handle: s.removeFile},
		{Method: "GET", Path: urls.Templates, Screen: "templates", View: shell.ViewTemplates, Act: workflow.Write, Handle: s.templates},
		{Method: "POST", Path: urls.Templates, View: shell.ViewTemplates, Act: workflow.Write, Handle: s.beginTemplate},
		{Method: "GET", Path: urls.Templates + "/:key", Screen: "template", View: shell.ViewTemplates, Act: workflow.Write, Handle: s.template},
		{Method: "POST", Path: urls.Templates + "/:key/save", Act: workflow.Write, Handle: s.saveTemplate},
		{Method: "POST", Path: urls.Templates + "/:key/lock", Act: workflow.Write, Handle: s.lockTemplate},
		{Method: "POST", Path: urls.Templates + "/:key/drop", Act: workflow.Write, Handle: s.dropTemplate},
		{Method: "GET", Path: urls.Templates + "/:key/check", Screen: "template-check", View: shell.ViewTemplates, Act: workflow.Write, Handle: s.checkTemplate},
		{Method: "POST", Path: urls.Templates + "/:key/plan", Screen: "template-check", View: shell.ViewTemplates, Act: workflow.Shape, Handle: s.planTemplate},
		{Method: "POST", Path: urls.Templates + "/:key/remove", View: shell.ViewTemplates, Act: workflow.Shape, Handle: s.removeTemplate},
		{Method: "GET", Path: urls.Templates + "/:key/versions", Screen: "versions", View: shell.ViewTemplates, Act: workflow.Write, Handle: s.templateVersions},
		{Method: "POST", Path: urls.Templates + "/:key/back", View: shell.ViewTemplates, Act: workflow.Shape, Handle: s.bringTemplateBack},
		{Method: "GET", Path: urls.Templates + "/:key/facts", Screen: "facts", View: shell.ViewTemplates, Act: workflow.Write, Handle: s.facts},
		{Method: "POST", Path: urls.Templates + "/:key/facts", Screen: "facts", View: shell.ViewTemplates, Act: workflow.Plan, Handle: s.setFact},
		{Method: "GET", Path: urls.Templates + "/:key/facts.csv", Act: workflow.Write, Handle: s.exportFacts},
		{Method: "GET", Path: urls.Removed, Screen: "removed", View: shell.ViewRemoved, Act: workflow.Plan, Handle: s.removed},
		{Method: "POST", Path: urls.Removed + "/delete", Screen: "removed", View: shell.ViewRemoved, Act: workflow.Govern, Handle: s.deleteRemoved},
		{Method: "POST", Path: urls.Removed + "/:id/back", View: shell.ViewRemoved, Act: workflow.Plan, Handle: s.bringBack},
	}
}
