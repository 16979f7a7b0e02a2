package workflow_test

import (
	"testing"
	"time"
	_ "time/tzdata" // the zones of this machine may be none

	"candlepath/internal/core/workflow"

	"github.com/stretchr/testify/require"
)

func TestMinutes(t *testing.T) {
	now := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		text, zone, which, want string
		err                     error
	}{
		{"2026-11-30T09:00", "Europe/Berlin", "", "2026-11-30T08:00:00Z", nil},
		{"2026-07-01T09:00", "Europe/Berlin", "", "2026-07-01T07:00:00Z", nil},
		{"2026-03-29T02:30", "Europe/Berlin", "", "", workflow.ErrSkipped},
		{"2026-03-29T03:00", "Europe/Berlin", "", "2026-03-29T01:00:00Z", nil},
		{"2026-10-25T02:30", "Europe/Berlin", "first", "2026-10-25T00:30:00Z", nil},
		{"2026-10-25T02:30", "Europe/Berlin", "second", "2026-10-25T01:30:00Z", nil},
		{"2026-10-25T03:00", "Europe/Berlin", "", "2026-10-25T02:00:00Z", nil},
		{"2026-10-25T01:59", "Europe/Berlin", "", "2026-10-24T23:59:00Z", nil},
		{"2026-04-05T01:45", "Australia/Lord_Howe", "second", "2026-04-04T15:15:00Z", nil}, // half an hour
		{"2026-11-30T09:00", "UTC", "second", "2026-11-30T09:00:00Z", nil},
		{"2025-12-31T23:59", "UTC", "", "", workflow.ErrPast},
		{"2026-11-30 09:00", "UTC", "", "", workflow.ErrClock},
		{"2026-02-30T09:00", "UTC", "", "", workflow.ErrClock},
		{"2026-11-30T09:00", "Europe/Quillmere", "", "", workflow.ErrZone},
		{"2026-11-30T09:00", "", "", "", workflow.ErrZone},
		{"2026-11-30T09:00", "Local", "", "", workflow.ErrZone},
	} {
		got, err := workflow.Minute(c.text, c.zone, c.which, now)
		if c.err != nil {
			require.ErrorIs(t, err, c.err, c.text)
			continue
		}
		require.NoError(t, err, c.text)
		require.Equal(t, c.want, got.UTC().Format(time.RFC3339), c.text)
	}
	_, err := workflow.Minute("2026-10-25T02:30", "Europe/Berlin", "", now)
	twice := (*workflow.Doubled)(nil)
	require.ErrorAs(t, err, &twice)
	require.Equal(t, "this time occurs twice, because the clocks go back: at 00:30 and at 01:30 UTC", twice.Error())
}
