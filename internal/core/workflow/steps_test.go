package workflow_test

import (
	"testing"

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The table of the model: from, step, who takes it, and where it leads or why not.
func TestSteps(t *testing.T) {
	editor, approver := workflow.Hand{Role: workflow.Editor}, workflow.Hand{Role: workflow.Approver}
	with := func(h workflow.Hand, f func(*workflow.Hand)) workflow.Hand {
		f(&h)
		return h
	}
	made := func(h *workflow.Hand) { h.Made = true }
	asks := func(a workflow.Asks) func(*workflow.Hand) { return func(h *workflow.Hand) { h.Asks = a } }
	sent := with(editor, func(h *workflow.Hand) { h.Sent = true })
	program := workflow.Hand{Program: true}
	met := map[workflow.Step]bool{}
	for _, c := range []struct {
		from workflow.State
		step workflow.Step
		by   workflow.Hand
		to   workflow.State
		why  workflow.Refusal
	}{
		{workflow.Draft, workflow.Send, editor, workflow.WithReviewer, ""},
		{workflow.Draft, workflow.Send, workflow.Hand{Role: workflow.Reader}, workflow.Draft, workflow.MayNotPlan},
		{workflow.Ready, workflow.Send, editor, workflow.Ready, workflow.NotFromHere},
		{workflow.WithReviewer, workflow.TakeBack, sent, workflow.Draft, ""},
		{workflow.WithReviewer, workflow.TakeBack, approver, workflow.WithReviewer, workflow.NotSender},
		{workflow.WithReviewer, workflow.Approve, approver, workflow.Ready, ""},
		{workflow.WithReviewer, workflow.Approve, editor, workflow.WithReviewer, workflow.MayNotRule},
		{workflow.WithReviewer, workflow.Approve, with(approver, made), workflow.Ready, ""},
		{workflow.WithReviewer, workflow.Approve, with(with(approver, made), asks(workflow.AsksFourEyes)), workflow.WithReviewer, workflow.OwnHand},
		{workflow.WithReviewer, workflow.Approve, with(approver, asks(workflow.AsksFourEyes)), workflow.Ready, ""},
		{workflow.Draft, workflow.Approve, approver, workflow.Draft, workflow.NotFromHere},
		{workflow.Ready, workflow.Approve, approver, workflow.Ready, workflow.NotFromHere},
		{workflow.WithReviewer, workflow.SendBack, approver, workflow.Draft, ""},
		{workflow.WithReviewer, workflow.SendBack, sent, workflow.WithReviewer, workflow.MayNotRule},
		{workflow.Timed, workflow.Edit, editor, workflow.Draft, ""},
		{workflow.Live, workflow.Edit, editor, workflow.Live, workflow.NotFromHere},
		{workflow.Ready, workflow.Time, approver, workflow.Timed, ""},
		{workflow.Draft, workflow.Time, approver, workflow.Draft, workflow.NotFromHere},
		{workflow.Draft, workflow.TimeDraft, approver, workflow.Timed, ""},
		{workflow.Draft, workflow.TimeDraft, editor, workflow.Draft, workflow.MayNotRule},
		{workflow.Draft, workflow.TimeDraft, with(approver, asks(workflow.AsksApproval)), workflow.Draft, workflow.NeedsReview},
		{workflow.Ready, workflow.Time, with(approver, made), workflow.Ready, workflow.OwnDate},
		{workflow.Ready, workflow.Time, with(with(approver, made), func(h *workflow.Hand) { h.Others = true }), workflow.Timed, ""},
		{workflow.Draft, workflow.TimeDraft, with(approver, made), workflow.Draft, workflow.OwnDate},
		{workflow.Draft, workflow.TimeDraft, with(workflow.Hand{Role: workflow.Manager}, made), workflow.Timed, ""},
		{workflow.Timed, workflow.Lift, approver, workflow.Ready, ""},
		{workflow.Timed, workflow.GoOut, program, workflow.Live, ""},
		{workflow.Timed, workflow.GoOut, approver, workflow.Timed, workflow.OnlyProgram},
		{workflow.Timed, workflow.FallBack, program, workflow.Ready, ""},
		{workflow.Ready, workflow.Release, approver, workflow.Live, ""},
		{workflow.Ready, workflow.Release, editor, workflow.Ready, workflow.MayNotRule},
		{workflow.Draft, workflow.ReleaseNow, approver, workflow.Live, ""},
		{workflow.Draft, workflow.ReleaseNow, with(approver, asks(workflow.AsksApproval)), workflow.Draft, workflow.NeedsReview},
		{workflow.WithReviewer, workflow.ReleaseNow, with(approver, asks(workflow.AsksFourEyes)), workflow.WithReviewer, workflow.NeedsReview},
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
		asks := rapid.SampledFrom([]workflow.Asks{workflow.AsksApproval, workflow.AsksFourEyes}).Draw(t, "asks")
		site := workflow.Site{EditorsPublish: rapid.Bool().Draw(t, "editors publish"), OwnWork: rapid.Bool().Draw(t, "own work")}
		people := []workflow.Role{workflow.Editor, workflow.Editor, workflow.Approver, workflow.Manager}
		state, made, sender, approvedBy := workflow.Draft, map[int]bool{0: true}, -1, -1
		for range rapid.IntRange(1, 30).Draw(t, "steps") {
			who := rapid.IntRange(0, len(people)).Draw(t, "who")
			hand := workflow.Hand{Program: true, Asks: asks}
			if who < len(people) {
				hand = workflow.Hand{Role: people[who], Made: made[who], Sent: sender == who, Asks: asks}
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
				if asks == workflow.AsksFourEyes {
					require.False(t, made[approvedBy])
				}
				return
			}
		}
	})
}

// What was approved holds for the wording that was approved.
func TestStandings(t *testing.T) {
	s := workflow.Standing{State: workflow.Ready, Stamp: "a"}
	require.Equal(t, workflow.Ready, s.Now("a"))
	require.Equal(t, workflow.Draft, s.Now("b"))
	require.True(t, s.Outdated("b"))
	require.False(t, s.Outdated("a"))
	require.Equal(t, workflow.Draft, workflow.Standing{}.Now(""))
	require.False(t, workflow.Standing{State: workflow.Draft, Stamp: "a", Word: "Say why"}.Outdated("b"), "what was sent back is to be edited")
}
