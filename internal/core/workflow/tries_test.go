package workflow_test

import (
	"testing"
	"time"

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
)

func TestWaitingBeforeTheNextTry(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	pair := func(n int) workflow.Tries { return workflow.Tries{Pair: n, LastPair: noon} }
	for name, c := range map[string]struct {
		tries workflow.Tries
		known bool
		after time.Duration
		want  time.Duration
	}{
		"the first":                           {workflow.Tries{}, false, 0, 0},
		"the fifth":                           {pair(4), false, 0, 0},
		"the sixth":                           {pair(5), false, 0, time.Second},
		"the sixth, a second later":           {pair(5), false, time.Second, 0},
		"the ninth":                           {pair(8), false, 0, 8 * time.Second},
		"the ninth, half way":                 {pair(8), false, 3 * time.Second, 5 * time.Second},
		"the hundredth":                       {pair(99), false, 0, 10 * time.Minute},
		"a colleague, while others try hard":  {workflow.Tries{Login: 500, LastLogin: noon}, true, 0, 0},
		"the same, in another browser":        {workflow.Tries{Login: 500, LastLogin: noon}, false, 0, 10 * time.Second},
		"many names from one client":          {workflow.Tries{Host: 60, LastHost: noon}, false, 0, 30 * time.Second},
		"a known browser that is taken along": {workflow.Tries{Browser: 50, LastBrowser: noon}, true, 0, time.Minute},
	} {
		require.Equal(t, c.want, c.tries.Wait(noon.Add(c.after), c.known), name)
	}
}
