package workflow_test

import (
	"testing"

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
)

// The table of the model: act, then reader, editor, approver, site manager.
func TestRights(t *testing.T) {
	for act, want := range map[workflow.Act]string{
		workflow.Read: "yyyy", workflow.Plan: "nyyy", workflow.Write: "nyyy",
		workflow.Publish: "nnyy", workflow.Shape: "nnyy", workflow.Govern: "nnny",
	} {
		for i, role := range workflow.Roles() {
			require.Equal(t, want[i] == 'y', workflow.Site{}.May(role, act), "%s %s", role, act)
		}
		require.False(t, workflow.Site{EditorsPublish: true, OwnWork: true}.May("stranger", act))
	}
	require.Len(t, workflow.Acts(), 6, "every act has a row above")
	require.True(t, workflow.Site{EditorsPublish: true}.May(workflow.Editor, workflow.Publish))
}

func TestOwnWork(t *testing.T) {
	require.False(t, workflow.Site{}.MayPublish(workflow.Approver, true))
	require.True(t, workflow.Site{}.MayPublish(workflow.Approver, false))
	require.True(t, workflow.Site{OwnWork: true}.MayPublish(workflow.Approver, true))
	require.True(t, workflow.Site{}.MayPublish(workflow.Manager, true))
	require.False(t, workflow.Site{}.MayPublish(workflow.Editor, false))
}

// No path leads to live except by a step that wants the right to publish, and
// every state can be left.
func TestNoPathSkipsTheRightToPublish(t *testing.T) {
	for _, from := range workflow.States() {
		left := false
		for _, to := range workflow.States() {
			act, ok := workflow.Step(from, to)
			left = left || ok
			if ok && (to == workflow.Live || to == workflow.Ready && from != workflow.Timed) {
				require.Equal(t, workflow.Publish, act, "%s → %s", from, to)
			}
		}
		require.True(t, left, from)
	}
}
