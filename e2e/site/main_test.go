// Package site_test tries the whole program: its screens, addresses, rights, faults and commands.
package site_test

import (
	"fmt"
	"os"
	"testing"

	"candlepath/internal/testkit"
)

var (
	kit     testkit.Kit
	browser testkit.Browser
)

func TestMain(m *testing.M) {
	if bare := os.Getenv(bareEnv); bare != "" {
		fmt.Fprintln(os.Stderr, serveBare(bare))
		os.Exit(1)
	}
	testkit.Run(m, &kit, &browser, func() {
		if path, err := binary(); err == nil {
			_ = os.Remove(path)
		}
	})
}
