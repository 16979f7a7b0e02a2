// Package editions holds the screens of one stop of the studio: the next edition and those before. Handlers decode,
// call one use case, build the view and render; they decide nothing about the job.
package editions

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
	show func(http.ResponseWriter, *http.Request, reading.Show) error
}

// New makes them. show writes a page of a state of the site.
func New(s *shell.Shell, show func(http.ResponseWriter, *http.Request, reading.Show) error) *Screens {
	return &Screens{Shell: s, show: show}
}

// Routes is the route table of this stop.
func (s *Screens) Routes() []shell.Route {
	return []shell.Route{
		{Method: "GET", Path: urls.Edition, Screen: "edition", View: shell.ViewNext, Act: workflow.Plan, Handle: s.edition},
		{Method: "POST", Path: urls.Choice, Screen: "edition", View: shell.ViewNext, Act: workflow.Plan, Handle: s.choose},
		{Method: "POST", Path: urls.Decide, Screen: "edition", View: shell.ViewNext, Act: workflow.Plan, Handle: s.decide},
		{Method: "POST", Path: urls.MendLinks, Screen: "edition", View: shell.ViewNext, Act: workflow.Plan, Handle: s.mendLinks},
		{Method: "POST", Path: urls.Publish, View: shell.ViewNext, Act: workflow.Plan, Handle: s.publish},
		{Method: "GET", Path: urls.Publish + "/:id", Screen: "large", View: shell.ViewNext, Act: workflow.Plan, Handle: s.largeEdition},
		{Method: "POST", Path: urls.Publish + "/:id/stop", View: shell.ViewNext, Act: workflow.Plan, Handle: s.stopLarge},
		{Method: "GET", Path: urls.ProofExport, Act: workflow.Plan, Handle: s.exportProof, Large: true},
		{Method: "GET", Path: urls.See, Screen: "see", View: shell.ViewNext, Act: workflow.Plan, Handle: s.see},
		{Method: "POST", Path: urls.ShareState, Screen: "see", View: shell.ViewNext, Act: workflow.Plan, Handle: s.shareState},
		{Method: "POST", Path: urls.EndLink, Screen: "see", View: shell.ViewNext, Act: workflow.Plan, Handle: s.endLink},
		{Method: "GET", Path: urls.Shown + "/:of/:as/*at", Act: workflow.Plan, Handle: s.shown},
		{Method: "GET", Path: urls.PublishOne, Screen: "now", View: shell.ViewNext, Act: workflow.Plan, Handle: s.now},
		{Method: "POST", Path: urls.PublishOne, Screen: "now", View: shell.ViewNext, Act: workflow.Plan, Handle: s.publishNow},
		{Method: "GET", Path: urls.Mine, Screen: "mine", View: shell.ViewMine, Act: workflow.Plan, Handle: s.mine},
		{Method: "GET", Path: urls.Review, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.review},
		{Method: "POST", Path: urls.ReviewSend, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.sendForReview},
		{Method: "POST", Path: urls.ReviewJudge, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.judge},
		{Method: "POST", Path: urls.ReviewTime, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.timeChanges},
		{Method: "POST", Path: urls.ReviewLift, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.liftChanges},
		{Method: "POST", Path: urls.ReviewPass, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.passOn},
		{Method: "POST", Path: urls.ReviewRemark, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.remark},
		{Method: "POST", Path: urls.ReviewSettle, Screen: "review", View: shell.ViewReview, Act: workflow.Plan, Handle: s.settle},
		{Method: "POST", Path: urls.ReviewRules, Screen: "review", View: shell.ViewReview, Act: workflow.Govern, Handle: s.branchAsks},
		{Method: "GET", Path: urls.History, Screen: "history", View: shell.ViewPast, Act: workflow.Plan, Handle: s.history},
		{Method: "GET", Path: urls.Schedule, Screen: "schedule", View: shell.ViewSchedule, Act: workflow.Plan, Handle: s.schedule},
		{Method: "POST", Path: urls.Retime, Screen: "schedule", View: shell.ViewSchedule, Act: workflow.Plan, Handle: s.retime},
		{Method: "POST", Path: urls.WithdrawAt, Screen: "schedule", View: shell.ViewSchedule, Act: workflow.Plan, Handle: s.withdrawAt},
		{Method: "POST", Path: urls.Freeze, Screen: "schedule", View: shell.ViewSchedule, Act: workflow.Govern, Handle: s.freeze},
		{Method: "POST", Path: urls.EndFreeze, Screen: "schedule", View: shell.ViewSchedule, Act: workflow.Govern, Handle: s.endFreeze},
		{Method: "GET", Path: urls.Past, Screen: "past", View: shell.ViewPast, Act: workflow.Plan, Handle: s.past},
		{Method: "POST", Path: urls.Past + "/:number/export", View: shell.ViewPast, Act: workflow.Plan, Handle: s.exportEdition},
		{Method: "GET", Path: urls.Exports + "/:id", Screen: "large", View: shell.ViewPast, Act: workflow.Plan, Handle: s.editionExport},
		{Method: "POST", Path: urls.Exports + "/:id/stop", View: shell.ViewPast, Act: workflow.Plan, Handle: s.stopExport},
		{Method: "GET", Path: urls.Exports + "/:id/file", Act: workflow.Plan, Handle: s.exportedFile, Large: true},
		{Method: "POST", Path: urls.Past + "/:number/take-back", Screen: "past", View: shell.ViewPast, Act: workflow.Plan, Handle: s.takeBack},
		{Method: "POST", Path: urls.Past + "/:number/rollback", View: shell.ViewPast, Act: workflow.Plan, Handle: s.rollback},
	}
}
