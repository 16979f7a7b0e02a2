package account

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
)

func TestJobsSayWhatToDo(t *testing.T) {
	require.Equal(t, "Everything is done.", newJobs([]plan.KnownJob{{State: plan.JobDone}}).Says)
	v := newJobs([]plan.KnownJob{
		{Number: 7, Job: plan.Job{Kind: plan.JobReadFile}, State: plan.JobFailed, Attempt: 5, Error: "no room", File: "plan.csv"},
		{Job: plan.Job{Kind: plan.JobImportTexts}, State: plan.JobRunning, Done: 20, Total: 1200, File: "old.zip"},
		{Job: plan.Job{Kind: plan.JobReadFile}, State: plan.JobDone, Error: "of the first try", Done: 3, Total: 3},
	})
	require.Equal(t, "1 failed. 1 running. ", v.Says)
	require.True(t, v.Busy)
	require.Equal(t, "/studio/jobs/7", v.Rows[0].Retry)
	require.Equal(t, "5 tries", v.Rows[0].Attempts)
	require.Equal(t, "20 of 1,200", v.Rows[1].Progress)
	require.Empty(t, v.Rows[1].Retry)
	require.Empty(t, v.Rows[2].Error)
	require.Empty(t, v.Rows[2].Progress)
}

// Every kind of job has a name that is not its key.
func TestTheTableOfJobsIsComplete(t *testing.T) {
	require.Len(t, plan.JobKinds(), 10)
	for _, row := range plan.JobKinds() {
		require.NotEqual(t, string(row.Kind), row.Kind.Name())
	}
}
