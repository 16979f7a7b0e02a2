package workflow_test

import (
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"candlepath/internal/core/workflow"
)

func TestAStateGoesOnForAWhile(t *testing.T) {
	now := time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)
	s := workflow.DraftState{ID: "a", Person: "ines", Begun: now, At: now.Add(100 * time.Second)}
	require.True(t, s.GoesOn("ines", now.Add(119*time.Second), false))
	require.False(t, s.GoesOn("ines", now.Add(2*time.Minute), false))
	require.False(t, s.GoesOn("marta", now.Add(101*time.Second), false), "another person begins another")
	require.False(t, s.GoesOn("ines", now.Add(101*time.Second), true), "so does what takes something away")
	s.At = now.Add(time.Second)
	require.False(t, s.GoesOn("ines", now.Add(31*time.Second), false), "and what comes after a pause")
	require.False(t, workflow.DraftState{}.GoesOn("", now, false))
}

// Of what was taken away all stays for a day, then what held most.
func TestWhatWasTakenAwayIsThinnedOutLater(t *testing.T) {
	now := time.Date(2026, 11, 26, 23, 0, 0, 0, time.UTC)
	at := func(id string, ago time.Duration, bytes int) workflow.DraftState {
		return workflow.DraftState{ID: id, At: now.Add(-ago), Lost: bytes > 0, Bytes: bytes}
	}
	require.ElementsMatch(t, []string{"e2", "f0", "f1"}, workflow.Thinned([]workflow.DraftState{
		at("d0", 5*time.Hour, 0), at("d1", 5*time.Hour+time.Minute, 10), at("d2", 5*time.Hour+2*time.Minute, 900),
		at("e0", 72*time.Hour, 0), at("e1", 73*time.Hour, 900), at("e2", 74*time.Hour, 10),
		at("f0", 9000*time.Hour, 0), at("f1", 9001*time.Hour, 900),
	}, now))
}

func TestStatesAreThinnedOut(t *testing.T) {
	now := time.Date(2026, 11, 26, 9, 7, 0, 0, time.UTC)
	at := func(id string, ago time.Duration) workflow.DraftState {
		return workflow.DraftState{ID: id, At: now.Add(-ago)}
	}
	day := 24 * time.Hour
	require.ElementsMatch(t, []string{"b2", "c2", "d2", "old"}, workflow.Thinned([]workflow.DraftState{
		at("a1", time.Minute), at("a2", 3*time.Minute), at("a3", 50*time.Minute),
		at("b1", 2*time.Hour+time.Minute), at("b2", 2*time.Hour+4*time.Minute), // one quarter of an hour
		at("c1", 3*day), at("c2", 3*day+time.Hour), at("c3", 4*day),
		at("d1", 61*day), at("d2", 62*day), at("d3", 80*day),
		at("old", 400*day),
	}, now))
	require.Empty(t, workflow.Thinned([]workflow.DraftState{at("only", 900*day)}, now), "the newest stays")
}

// However often it is done and whatever comes, what stays is never thinned out again at the
// same time, and is not many.
func TestThinningSettles(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now := time.Date(2026, 11, 26, 9, 7, 0, 0, time.UTC)
		var all []workflow.DraftState
		for i, m := range rapid.SliceOfN(rapid.IntRange(0, 60*24*400), 0, 300).Draw(t, "minutes") {
			all = append(all, workflow.DraftState{ID: strconv.Itoa(i), Person: rapid.SampledFrom([]string{"ines", "marta", "anselm"}).Draw(t, "person"), At: now.Add(-time.Duration(m) * time.Minute), Lost: rapid.Bool().Draw(t, "lost"), Bytes: rapid.IntRange(1, 9).Draw(t, "bytes")})
		}
		gone := map[string]bool{}
		for _, id := range workflow.Thinned(all, now) {
			gone[id] = true
		}
		var kept []workflow.DraftState
		for _, s := range all {
			if !gone[s.ID] {
				kept = append(kept, s)
			}
		}
		wrote := func(list []workflow.DraftState) (out map[string]time.Time) {
			out = map[string]time.Time{}
			for _, s := range list {
				if s.At.After(out[s.Person]) {
					out[s.Person] = s.At
				}
			}
			return out
		}
		require.Equal(t, wrote(all), wrote(kept), "who wrote on it, and when last, stays known: they may not approve it")
		require.Empty(t, workflow.Thinned(kept, now))
		require.Equal(t, len(all) == 0, len(kept) == 0)
	})
}
