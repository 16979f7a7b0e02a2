package plan_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"candlepath/internal/app/plan"
)

func TestAPanicBesideOthersIsAnError(t *testing.T) {
	work := func(f func()) (err error) {
		defer plan.Recovered(&err)
		f()
		return nil
	}
	require.NoError(t, work(func() {}))
	require.ErrorContains(t, work(func() { panic("a block of no kind") }), "a block of no kind")
}
