package preflight

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/change"
	"candlepath/internal/core/check"
)

func TestWhatWaitsAtTheStops(t *testing.T) {
	var changes []change.Change
	for _, a := range change.Aspects() {
		changes = append(changes, change.Change{Key: change.Key{ID: "p", Aspect: a}})
	}
	found := []check.Finding{
		{Rule: UndecidedPage, Severity: check.Error}, {Rule: UndecidedPage, Severity: check.Warning}, {Rule: EmptyPage, Severity: check.Warning}, {Rule: LinkToNothing, Severity: check.Error},
	}
	w := WaitingIn(changes, found)
	require.Equal(t, Waiting{Sitemap: len(changes) - 7, Navigation: 2, Pages: 2, Addresses: 4, Editions: 2}, w, "what only inherits an address is no change of its own")
	require.Zero(t, WaitingIn(nil, nil))
}
