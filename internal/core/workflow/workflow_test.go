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

// What hinders is told in one order: the right first, what can be mended last.
func TestHinders(t *testing.T) {
	whole, told := workflow.Outgoing{Changes: 2}, map[workflow.Hindrance]bool{}
	for _, c := range []struct {
		site workflow.Site
		role workflow.Role
		out  workflow.Outgoing
		want workflow.Hindrance
	}{
		{workflow.Site{}, workflow.Approver, whole, workflow.None},
		{workflow.Site{}, workflow.Editor, whole, workflow.NoRight},
		{workflow.Site{}, workflow.Reader, workflow.Outgoing{Errors: 1}, workflow.NoRight},
		{workflow.Site{EditorsPublish: true}, workflow.Editor, whole, workflow.None},
		{workflow.Site{}, workflow.Approver, workflow.Outgoing{Changes: 1, Own: true}, workflow.OwnChanges},
		{workflow.Site{OwnWork: true}, workflow.Approver, workflow.Outgoing{Changes: 1, Own: true}, workflow.None},
		{workflow.Site{}, workflow.Manager, workflow.Outgoing{Changes: 1, Own: true}, workflow.None},
		{workflow.Site{}, workflow.Approver, workflow.Outgoing{Changes: 1, Own: true, Errors: 3}, workflow.OwnChanges},
		{workflow.Site{}, workflow.Manager, workflow.Outgoing{Changes: 1, Errors: 3}, workflow.Errors},
		{workflow.Site{}, workflow.Manager, workflow.Outgoing{Errors: 3}, workflow.Errors},
		{workflow.Site{}, workflow.Manager, workflow.Outgoing{}, workflow.Empty},
		{workflow.Site{}, workflow.Manager, workflow.Outgoing{Changes: 1, Frozen: true}, workflow.Froze},
		{workflow.Site{}, workflow.Editor, workflow.Outgoing{Changes: 1, Frozen: true}, workflow.NoRight},
	} {
		require.Equal(t, c.want, c.site.Hinders(c.role, c.out), "%+v", c)
		told[c.want] = true
	}
	for _, h := range workflow.Hindrances() {
		require.True(t, told[h], "no case for %q", h)
	}
}
