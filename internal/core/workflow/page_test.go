package workflow_test

import (
	"testing"

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
)

// Every combination of facts has a state, and every state a wick that agrees
// with whether readers see the page.
func TestPageStates(t *testing.T) {
	seen := map[workflow.PageState]bool{}
	for bits := range 32 {
		is := func(n int) bool { return bits&(1<<n) != 0 }
		f := workflow.PageFacts{Live: is(0), Draft: is(1), Planned: is(2), Withdrawn: is(3), Carried: is(4)}
		s := f.State()
		seen[s] = true
		switch s.Icon() {
		case workflow.Barred:
			require.True(t, f.Withdrawn, "%+v", f)
		case workflow.Unlit:
			require.False(t, f.Live || f.Withdrawn, "%+v", f)
		case workflow.HalfLit:
			require.True(t, f.Live && (f.Draft || f.Planned), "%+v", f)
		case workflow.Lit:
			require.Equal(t, workflow.PageFacts{Live: true, Carried: f.Carried}, f)
		default:
			require.Fail(t, "no wick", "%q", s)
		}
	}
	require.Len(t, seen, len(workflow.PageStates()))
}
