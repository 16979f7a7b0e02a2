package edition_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/edition"
)

func TestRestoreTexts(t *testing.T) {
	v := func(version string) edition.Shown { return edition.Shown{Version: version, Text: version} }
	then := map[string]edition.Shown{"same": v("1"), "edited": v("1"), "gone": v("1"), "edited and drafted": v("1"), "laid out": v("1"), "laid out twice": {Version: "2", Text: "1"}}
	now := map[string]edition.Shown{"same": v("1"), "edited": v("2"), "new": v("2"), "edited and drafted": v("3"), "laid out": {Version: "4", Text: "1"}, "laid out twice": {Version: "5", Text: "1"}}
	got := edition.RestoreTexts(then, now, map[string]bool{"edited and drafted": true, "same": true})
	require.Equal(t, edition.Texts{
		Close: []string{"edited", "edited and drafted", "laid out", "laid out twice", "new"},
		Open:  map[string]string{"edited": "1", "gone": "1", "edited and drafted": "1", "laid out": "1", "laid out twice": "2"},
		Draft: []string{"edited", "new"},
		Same:  []string{"laid out", "laid out twice"},
	}, got)
	require.Equal(t, []string{"edited", "edited and drafted", "gone", "new"}, got.Entries())
	require.Empty(t, edition.RestoreTexts(now, now, nil).Entries(), "going back to what is live changes nothing")
}
