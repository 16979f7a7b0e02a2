package edition_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/edition"
)

func TestRestoreTexts(t *testing.T) {
	then := map[string]string{"same": "1", "edited": "1", "gone": "1", "edited and drafted": "1"}
	now := map[string]string{"same": "1", "edited": "2", "new": "2", "edited and drafted": "3"}
	got := edition.RestoreTexts(then, now, map[string]bool{"edited and drafted": true, "same": true})
	require.Equal(t, edition.Texts{
		Close: []string{"edited", "edited and drafted", "new"},
		Open:  map[string]string{"edited": "1", "gone": "1", "edited and drafted": "1"},
		Draft: []string{"edited", "new"},
	}, got)
	require.Equal(t, []string{"edited", "edited and drafted", "gone", "new"}, got.Entries())
	require.Empty(t, edition.RestoreTexts(now, now, nil).Entries(), "going back to what is live changes nothing")
}
