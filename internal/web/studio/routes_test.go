package studio

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/web/urls"
)

// Every screen has a route, and every route that shows one names a screen
// there is. Loading the set fails on a template defined twice.
func TestRoutesAndScreensAgree(t *testing.T) {
	s, err := New(Config{})
	require.NoError(t, err)
	screens := map[string]bool{"sign-in": true, "problem": true, "begin": true, "password": true} // shown outside the table
	for _, r := range s.Routes() {
		require.NotEmpty(t, r.Act, r.Path)
		if r.Screen != "" {
			screens[r.Screen] = true
			require.True(t, r.View != "" || r.Path == urls.Shelf || r.Path == urls.BesideOf, "%s shows a screen in no view", r.Path)
		}
	}
	named := map[string]bool{}
	for _, n := range s.Screens() {
		named[n] = true
	}
	require.Equal(t, named, screens)
}
