// Package memory keeps a process from taking all memory of its machine.
package memory

import (
	"os"
	"runtime/debug"
	"strconv"
	"strings"
)

// Limit sets the soft limit of memory of the process (GOMEMLIMIT), unless the
// environment says it: the bytes given or, for 0, three quarters of what the
// machine or its control group has.
func Limit(bytes int64) {
	if os.Getenv("GOMEMLIMIT") != "" {
		return
	}
	if bytes <= 0 {
		bytes = Available() / 4 * 3
	}
	if bytes > 0 {
		debug.SetMemoryLimit(bytes)
	}
}

// Available is how much memory a process here can have; 0 if that cannot be told.
func Available() int64 {
	least := int64(0)
	take := func(n int64) {
		if n > 0 && (least == 0 || n < least) {
			least = n
		}
	}
	take(fromMeminfo(read("/proc/meminfo")))
	take(number(read("/sys/fs/cgroup/memory.max")))
	take(number(read("/sys/fs/cgroup/memory/memory.limit_in_bytes")))
	return least
}

func read(path string) string {
	b, err := os.ReadFile(path)
	if err != nil {
		return ""
	}
	return string(b)
}

// number reads a limit of a control group; "max" is none.
func number(s string) int64 {
	n, err := strconv.ParseInt(strings.TrimSpace(s), 10, 64)
	if err != nil {
		return 0
	}
	return n
}

func fromMeminfo(s string) int64 {
	for line := range strings.Lines(s) {
		if rest, ok := strings.CutPrefix(line, "MemTotal:"); ok {
			kb, err := strconv.ParseInt(strings.TrimSuffix(strings.TrimSpace(rest), " kB"), 10, 64)
			if err == nil {
				return kb << 10
			}
		}
	}
	return 0
}
