package account

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"

	"candlepath/internal/app/plan"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/shell"
	"candlepath/internal/web/urls"
)

type jobsView struct {
	shell.Frame
	Self string
	Says string // how many failed, wait, run
	Busy bool   // some wait or run, so that it is looked at again
	Rows []jobView
}

type jobView struct {
	Name, Of        string
	State, Progress string
	Failed          bool
	Attempts, Error string
	When            part.Moment
	Retry           string // where to ask for another try
	ID              string // of the button that does, so that it keeps the focus
}

// jobs shows what goes on behind requests.
func (s *Screens) jobs(r *shell.Request) error {
	f, _, err := s.FrameFor(r, "Jobs")
	if err != nil {
		return err
	}
	known, err := s.App.Jobs(r.Ctx(), r.Who)
	if err != nil {
		return err
	}
	v := newJobs(known)
	v.Frame, v.Self = f, urls.Jobs
	return s.Show(r, http.StatusOK, "jobs", v)
}

func (s *Screens) retryJob(r *shell.Request) error {
	number, err := strconv.ParseInt(r.Param("id"), 10, 64)
	if err != nil {
		return plan.ErrNotFound
	}
	if err := s.App.RetryJob(r.Ctx(), r.Who, number); err != nil {
		return err
	}
	r.Redirect(http.StatusSeeOther, urls.Jobs)
	return nil
}

func newJobs(known []plan.KnownJob) jobsView {
	var v jobsView
	count := map[plan.JobState]int{}
	for _, j := range known {
		count[j.State]++
		v.Rows = append(v.Rows, newJob(j))
	}
	v.Busy = count[plan.JobWaiting]+count[plan.JobRunning] > 0
	states := []plan.JobState{plan.JobFailed, plan.JobRetrying, plan.JobRunning, plan.JobWaiting}
	if !slices.ContainsFunc(states, func(s plan.JobState) bool { return count[s] > 0 }) {
		v.Says = "Everything is done."
		return v
	}
	for _, state := range states {
		if n := count[state]; n > 0 {
			v.Says += fmt.Sprintf("%s %s. ", part.Thousands(n), state)
		}
	}
	return v
}

func newJob(j plan.KnownJob) jobView {
	v := jobView{Name: j.Job.Kind.Name(), Of: j.File, State: string(j.State), Failed: j.State == plan.JobFailed, Error: j.Error, When: part.At(j.At)}
	if j.Total > 0 && j.State != plan.JobDone {
		v.Progress = fmt.Sprintf("%s of %s", part.Thousands(j.Done), part.Thousands(j.Total))
	}
	if j.State == plan.JobFailed || j.State == plan.JobRetrying {
		v.Retry, v.ID = fmt.Sprintf("%s/%d", urls.Jobs, j.Number), fmt.Sprintf("retry-%d", j.Number)
		v.Attempts = part.Count(j.Attempt, "try", "tries")
	}
	if j.State == plan.JobDone {
		v.Error = "" // of a try before
	}
	return v
}
