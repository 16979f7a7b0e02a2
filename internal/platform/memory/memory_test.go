package memory

import (
	"math"
	"runtime/debug"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestLimit(t *testing.T) {
	was := debug.SetMemoryLimit(-1)
	defer debug.SetMemoryLimit(was)
	t.Setenv("GOMEMLIMIT", "")
	Limit(123 << 20)
	require.Equal(t, int64(123<<20), debug.SetMemoryLimit(-1))
	Limit(0)
	require.Equal(t, Available()/4*3, debug.SetMemoryLimit(-1))
	debug.SetMemoryLimit(math.MaxInt64)
	t.Setenv("GOMEMLIMIT", "1GiB")
	Limit(1)
	require.Equal(t, int64(math.MaxInt64), debug.SetMemoryLimit(-1), "the environment wins")
}

func TestWhatAMachineHas(t *testing.T) {
	require.Equal(t, int64(24<<30), fromMeminfo("MemFree: 1 kB\nMemTotal:       25165824 kB\n"))
	require.Zero(t, fromMeminfo("nonsense"))
	require.Equal(t, int64(512), number("512\n"))
	require.Zero(t, number("max\n"))
	require.Positive(t, Available())
}
