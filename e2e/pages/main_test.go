// Package pages_test tries pages, menus and the reader site in a real browser.
package pages_test

import (
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

func TestMain(m *testing.M) { testkit.Run(m, &kit, &browser) }
