package workflow_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/core/workflow"
)

func TestInventoryFilters(t *testing.T) {
	live := workflow.PageFacts{Live: true, Written: true, Owned: true}
	with := func(f func(*workflow.PageFacts)) workflow.PageFacts {
		facts := live
		f(&facts)
		return facts
	}
	for want, facts := range map[string]workflow.PageFacts{
		"":                                live,
		" edited":                         with(func(f *workflow.PageFacts) { f.Draft = true }),
		" unwritten":                      with(func(f *workflow.PageFacts) { f.Written = false }),
		" unpublished":                    with(func(f *workflow.PageFacts) { f.Live = false }),
		" withdrawn":                      with(func(f *workflow.PageFacts) { f.Withdrawn = true }),
		" no-owner":                       with(func(f *workflow.PageFacts) { f.Owned = false }),
		" unwritten unpublished no-owner": {},
	} {
		got := ""
		for _, filter := range workflow.InventoryFilters()[1:] {
			if filter.Fits(facts) {
				got += " " + filter.Key
			}
		}
		require.Equal(t, want, got)
		require.True(t, workflow.InventoryFilters()[0].Fits(facts), "the first picks all")
	}
}
