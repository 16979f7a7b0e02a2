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
	_, mine = held.Take("marta", "a", noon.Add(time.Second), false)
	require.False(t, mine, "who knows the id of a window does not hold its lock")
	asked := held.Ask("noor", "c", noon)
	require.Equal(t, asked, asked.Answer("marta", "a", true, noon), "nor answer for it")
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

// Whoever holds a lock is asked for it once at a time, answers, and loses nothing by being asked.
func TestAskingForALock(t *testing.T) {
	noon := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	at := func(seconds int) time.Time { return noon.Add(time.Duration(seconds) * time.Second) }
	held := workflow.Lock{Person: "ines", Window: "a", Taken: noon, Seen: noon}
	require.Equal(t, held, held.Ask("ines", "a", at(1)), "nobody asks themselves")
	require.Equal(t, workflow.Lock{}, workflow.Lock{}.Ask("noor", "b", at(1)), "what is free is taken, not asked for")
	asked := held.Ask("noor", "b", at(1))
	require.Equal(t, &workflow.LockAsked{Person: "noor", Window: "b", At: at(1)}, asked.Question("a", at(2)))
	require.Nil(t, asked.Question("b", at(2)), "only who has it is asked")
	require.True(t, asked.Asks("b", at(2)))
	require.Equal(t, asked, asked.Ask("kofi", "c", at(3)), "one question at a time")
	require.Nil(t, asked.Question("a", at(200)), "a question does not stand for ever")

	handed := asked.Answer("ines", "a", true, at(5))
	require.Equal(t, workflow.Lock{Person: "noor", Window: "b", Taken: at(5), Seen: at(5)}, handed)
	require.Equal(t, asked, asked.Answer("ines", "c", true, at(5)), "others do not answer")
	require.Equal(t, held, held.Answer("ines", "a", true, at(5)), "nobody asked")

	told := asked.Answer("ines", "a", false, at(5))
	require.True(t, told.Asked.Declined)
	require.Equal(t, "a", told.Window)
	require.False(t, told.Asks("b", at(6)))
	require.Equal(t, told, told.Ask("noor", "b", at(10)), "not at once again")
	require.True(t, told.Ask("noor", "b", at(40)).Asks("b", at(41)))
	renewed, mine := asked.Take("ines", "a", at(8), false)
	require.True(t, mine)
	require.NotNil(t, renewed.Question("a", at(8)), "a sign of life does not lose the question")
}
