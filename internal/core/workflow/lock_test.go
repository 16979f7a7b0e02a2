package workflow_test

import (
	"testing"
	"time"

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
)

func TestLock(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	held := workflow.Lock{Person: "ines", Window: "a", Taken: noon, Seen: noon}
	for name, c := range map[string]struct {
		lock   workflow.Lock
		window string
		after  time.Duration
		force  bool
		got    bool
		since  time.Duration // when the lock is then said to have been taken, after noon
	}{
		"nobody has it":                  {workflow.Lock{}, "b", 0, false, true, 0},
		"the same window renews":         {held, "a", 50 * time.Second, false, true, 0},
		"another window reads":           {held, "b", 59 * time.Second, false, false, 0},
		"until there is no sign of life": {held, "b", workflow.LockFor, false, true, workflow.LockFor},
		"or it takes the page over":      {held, "b", time.Second, true, true, time.Second},
		"a window that came back late":   {held, "a", 2 * workflow.LockFor, false, true, 2 * workflow.LockFor},
	} {
		t.Run(name, func(t *testing.T) {
			now := noon.Add(c.after)
			l, got := c.lock.Take("ines", c.window, now, c.force)
			require.Equal(t, c.got, got)
			if !got {
				require.Equal(t, held, l)
				return
			}
			require.Equal(t, c.window, l.Window)
			require.Equal(t, noon.Add(c.since), l.Taken)
			require.Equal(t, now, l.Seen)
			require.True(t, l.Held(now))
		})
	}
}

func TestAReloadedWindowHasWhatItHad(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	held := workflow.Lock{Person: "ines", Window: "a", Taken: noon, Seen: noon}
	l, mine := held.TakeAfter("ines", "b", "a", noon.Add(time.Second), false)
	require.True(t, mine)
	require.Equal(t, workflow.Lock{Person: "ines", Window: "b", Taken: noon, Seen: noon.Add(time.Second)}, l)
	_, mine = held.TakeAfter("marta", "b", "a", noon.Add(time.Second), false)
	require.False(t, mine, "nobody else's")
	_, mine = held.TakeAfter("ines", "b", "c", noon.Add(time.Second), false)
	require.False(t, mine, "another window took it over meanwhile")
}

func TestOnlyTheHolderCanHaveSaved(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	l := workflow.Lock{Person: "ines", Window: "a", Taken: noon, Seen: noon}
	require.True(t, l.SavedHere("a", "ines", noon))
	require.True(t, l.SavedHere("a", "ines", noon.Add(time.Minute)))
	require.False(t, l.SavedHere("a", "ines", noon.Add(-time.Second)), "before this window had the page")
	require.False(t, l.SavedHere("b", "ines", noon), "another window of hers")
	require.False(t, l.SavedHere("a", "marta", noon))
}
