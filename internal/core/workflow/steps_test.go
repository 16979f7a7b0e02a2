package workflow_test

import (
	"testing"

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The table of the model: from, step, who takes it, and where it leads or why not.
func TestSteps(t *testing.T) {
	editor, approver := workflow.Actor{Role: workflow.Editor}, workflow.Actor{Role: workflow.Approver}
	with := func(h workflow.Actor, f func(*workflow.Actor)) workflow.Actor {
		f(&h)
		return h
	}
	made := func(h *workflow.Actor) { h.Made = true }
	asks := func(a workflow.ApprovalPolicy) func(*workflow.Actor) { return func(h *workflow.Actor) { h.Policy = a } }
	sent := with(editor, func(h *workflow.Actor) { h.Sent = true })
	program := workflow.Actor{Program: true}
	met := map[workflow.Step]bool{}
	for _, c := range []struct {
		from workflow.State
		step workflow.Step
		by   workflow.Actor
		to   workflow.State
		why  workflow.Refusal
	}{
		{workflow.Draft, workflow.Send, editor, workflow.InReview, ""},
		{workflow.Draft, workflow.Send, workflow.Actor{Role: workflow.Reader}, workflow.Draft, workflow.MayNotPlan},
		{workflow.Ready, workflow.Send, editor, workflow.Ready, workflow.NotFromHere},
		{workflow.InReview, workflow.Recall, sent, workflow.Draft, ""},
		{workflow.InReview, workflow.Recall, approver, workflow.InReview, workflow.NotSender},
		{workflow.InReview, workflow.Approve, approver, workflow.Ready, ""},
		{workflow.InReview, workflow.Approve, editor, workflow.InReview, workflow.MayNotRule},
		{workflow.InReview, workflow.Approve, with(approver, made), workflow.Ready, ""},
		{workflow.InReview, workflow.Approve, with(with(approver, made), asks(workflow.FourEyes)), workflow.InReview, workflow.OwnHand},
		{workflow.InReview, workflow.Approve, with(approver, asks(workflow.FourEyes)), workflow.Ready, ""},
		{workflow.Draft, workflow.Approve, approver, workflow.Draft, workflow.NotFromHere},
		{workflow.Ready, workflow.Approve, approver, workflow.Ready, workflow.NotFromHere},
		{workflow.InReview, workflow.SendBack, approver, workflow.Draft, ""},
		{workflow.InReview, workflow.SendBack, sent, workflow.InReview, workflow.MayNotRule},
		{workflow.Scheduled, workflow.Edit, editor, workflow.Draft, ""},
		{workflow.Live, workflow.Edit, editor, workflow.Live, workflow.NotFromHere},
		{workflow.Ready, workflow.Schedule, approver, workflow.Scheduled, ""},
		{workflow.Draft, workflow.Schedule, approver, workflow.Draft, workflow.NotFromHere},
		{workflow.Draft, workflow.ScheduleDraft, approver, workflow.Scheduled, ""},
		{workflow.Draft, workflow.ScheduleDraft, editor, workflow.Draft, workflow.MayNotRule},
		{workflow.Draft, workflow.ScheduleDraft, with(approver, asks(workflow.Approval)), workflow.Draft, workflow.NeedsReview},
		{workflow.Ready, workflow.Schedule, with(approver, made), workflow.Ready, workflow.OwnDate},
		{workflow.Ready, workflow.Schedule, with(with(approver, made), func(h *workflow.Actor) { h.Others = true }), workflow.Scheduled, ""},
		{workflow.Draft, workflow.ScheduleDraft, with(approver, made), workflow.Draft, workflow.OwnDate},
		{workflow.Draft, workflow.ScheduleDraft, with(workflow.Actor{Role: workflow.Manager}, made), workflow.Scheduled, ""},
		{workflow.Scheduled, workflow.Unschedule, approver, workflow.Ready, ""},
		{workflow.Scheduled, workflow.GoOut, program, workflow.Live, ""},
		{workflow.Scheduled, workflow.GoOut, approver, workflow.Scheduled, workflow.OnlyProgram},
		{workflow.Scheduled, workflow.FallBack, program, workflow.Ready, ""},
		{workflow.Ready, workflow.Release, approver, workflow.Live, ""},
		{workflow.Ready, workflow.Release, editor, workflow.Ready, workflow.MayNotRule},
		{workflow.Draft, workflow.ReleaseNow, approver, workflow.Live, ""},
		{workflow.Draft, workflow.ReleaseNow, with(approver, asks(workflow.Approval)), workflow.Draft, workflow.NeedsReview},
		{workflow.InReview, workflow.ReleaseNow, with(approver, asks(workflow.FourEyes)), workflow.InReview, workflow.NeedsReview},
	} {
		to, why := workflow.Site{}.Take(c.from, c.step, c.by)
		require.Equal(t, []any{c.to, c.why}, []any{to, why}, "%s %s %+v", c.from, c.step, c.by)
		met[c.step] = met[c.step] || why == ""
	}
	for _, step := range workflow.Steps() {
		require.True(t, met[step], "no case takes %q", step)
	}
}

// Whatever four people do, nothing gets to live without approval where that is asked, nor with
// that of who made it where other eyes are asked. An edit takes the approval away.
func TestNoPathSkipsReview(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		asks := rapid.SampledFrom([]workflow.ApprovalPolicy{workflow.Approval, workflow.FourEyes}).Draw(t, "asks")
		site := workflow.Site{EditorsPublish: rapid.Bool().Draw(t, "editors publish"), OwnWork: rapid.Bool().Draw(t, "own work")}
		people := []workflow.Role{workflow.Editor, workflow.Editor, workflow.Approver, workflow.Manager}
		state, made, sender, approvedBy := workflow.Draft, map[int]bool{0: true}, -1, -1
		for range rapid.IntRange(1, 30).Draw(t, "steps") {
			who := rapid.IntRange(0, len(people)).Draw(t, "who")
			hand := workflow.Actor{Program: true, Policy: asks}
			if who < len(people) {
				hand = workflow.Actor{Role: people[who], Made: made[who], Sent: sender == who, Policy: asks}
			}
			step := rapid.SampledFrom(workflow.Steps()).Draw(t, "step")
			to, why := site.Take(state, step, hand)
			if why != "" {
				require.Equal(t, state, to)
				continue
			}
			switch step {
			case workflow.Edit:
				made[who], approvedBy = true, -1
			case workflow.Send:
				sender = who
			case workflow.Approve:
				approvedBy = who
			}
			if state = to; state == workflow.Live {
				require.GreaterOrEqual(t, approvedBy, 0)
				if asks == workflow.FourEyes {
					require.False(t, made[approvedBy])
				}
				return
			}
		}
	})
}

// What was approved holds for the wording that was approved.
func TestStandings(t *testing.T) {
	s := workflow.ApprovalState{State: workflow.Ready, Stamp: "a"}
	require.Equal(t, workflow.Ready, s.Now("a"))
	require.Equal(t, workflow.Draft, s.Now("b"))
	require.True(t, s.Outdated("b"))
	require.False(t, s.Outdated("a"))
	require.Equal(t, workflow.Draft, workflow.ApprovalState{}.Now(""))
	require.False(t, workflow.ApprovalState{State: workflow.Draft, Stamp: "a", Word: "Say why"}.Outdated("b"), "what was sent back is to be edited")
}
