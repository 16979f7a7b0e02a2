package e2e_test

import (
	"os"
	"testing"

	"candlepath/internal/testkit"
)

var (
	kit     testkit.Kit
	browser testkit.Browser
)

func TestMain(m *testing.M) {
	code := testkit.Main(m, &kit)
	browser.Close()
	os.Exit(code)
}
