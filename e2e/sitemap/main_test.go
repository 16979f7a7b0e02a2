// Package sitemap_test tries the outline, the map, checks and files in a real browser and over HTTP.
package sitemap_test

import (
	"testing"

	"candlepath/internal/testkit"
)

var (
	kit     testkit.Kit
	browser testkit.Browser
)

func TestMain(m *testing.M) { testkit.Run(m, &kit, &browser) }
