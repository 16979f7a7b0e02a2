// Package account holds the screens of one stop of the studio: sign-in, people, jobs and settings. Handlers decode,
// call one use case, build the view and render; they decide nothing about the job.
package account

import (
	"github.com/gin-gonic/gin"

	"candlepath/internal/core/workflow"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

// Screens are the screens of this stop.
type Screens struct {
	*shell.Shell

	setupCode string // what the first person of an empty site has to know
}

// New makes them.
func New(s *shell.Shell, setupCode string) *Screens { return &Screens{Shell: s, setupCode: setupCode} }

// Routes is the route table of this stop.
func (s *Screens) Routes() []shell.Route {
	return []shell.Route{
		{Method: "GET", Path: urls.People, Screen: "people", View: shell.ViewPeople, Act: workflow.Govern, Handle: s.people},
		{Method: "POST", Path: urls.People, Screen: "people", View: shell.ViewPeople, Act: workflow.Govern, Handle: s.addPerson},
		{Method: "POST", Path: urls.People + "/:id", Screen: "people", View: shell.ViewPeople, Act: workflow.Govern, Handle: s.changePerson},
		{Method: "POST", Path: urls.People + "/:id/password", Screen: "people", View: shell.ViewPeople, Act: workflow.Govern, Handle: s.newPassword},
		{Method: "GET", Path: urls.Jobs, Screen: "jobs", View: shell.ViewJobs, Act: workflow.Govern, Handle: s.jobs},
		{Method: "POST", Path: urls.Jobs + "/:id", Act: workflow.Govern, Handle: s.retryJob},
		{Method: "GET", Path: urls.Inbox, Screen: "inbox", View: shell.ViewInbox, Act: workflow.Plan, Handle: s.inbox},
		{Method: "POST", Path: urls.Inbox + "/:id", Act: workflow.Plan, Handle: s.readNotice},
		{Method: "POST", Path: urls.Inbox, Act: workflow.Plan, Handle: s.readNotices},
		{Method: "GET", Path: urls.Settings, Screen: "settings", View: shell.ViewSettings, Act: workflow.Govern, Handle: s.settings},
		{Method: "POST", Path: urls.Settings, Screen: "settings", View: shell.ViewSettings, Act: workflow.Govern, Handle: s.saveSettings},
	}
}

// RegisterOpen adds the routes for those who are not signed in.
func (s *Screens) RegisterOpen(e *gin.Engine) {
	shell.Get(e, urls.Begin, s.Adapt(s.beginForm))
	e.POST(urls.Begin, s.Adapt(s.begin))
	shell.Get(e, urls.Password+"/:token", s.Adapt(s.passwordForm))
	e.POST(urls.Password+"/:token", s.Adapt(s.setPassword))
	shell.Get(e, urls.SignIn, s.Adapt(s.signInForm))
	e.POST(urls.SignIn, s.Adapt(s.signIn))
	e.POST(urls.SignOut, s.Adapt(s.signOut))
}
