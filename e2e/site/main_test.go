// Package site_test tries the whole program: its screens, addresses, rights, faults and commands.
package site_test

import (
	"fmt"
	"os"
	"testing"
	"time"

	"candlepath/internal/testkit"
)

var (
	kit     testkit.Kit
	browser testkit.Browser
)

// How long tests wait for what has to come, and how often they look.
const (
	waitFor = 30 * time.Second
	tick    = 50 * time.Millisecond
)

func TestMain(m *testing.M) {
	if bare := os.Getenv(bareEnv); bare != "" {
		fmt.Fprintln(os.Stderr, serveBare(bare))
		os.Exit(1)
	}
	code := testkit.Main(m, &kit)
	browser.Close()
	if path, err := binary(); err == nil {
		_ = os.Remove(path)
	}
	os.Exit(code)
}
