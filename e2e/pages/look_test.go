package pages_test

import (
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"candlepath/internal/testkit"
)

func TestLook(t *testing.T) {
	b, err := os.ReadFile("/tmp/w/look.txt")
	if err != nil {
		t.Skip()
	}
	site := kit.Site(t, true)
	tab := browser.Open(t, site.URL)
	at := regexp.MustCompile(`@(/[^@]*)@`)
	for _, line := range strings.Split(string(b), "\n") {
		cmd, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		rest = at.ReplaceAllStringFunc(rest, func(m string) string { return testkit.EntryID(t, site, m[1:len(m)-1]) })
		switch cmd {
		case "as":
			tab.SignIn(rest)
		case "go":
			tab.Go(rest)
		case "wait":
			tab.Until(rest)
		case "js":
			t.Log(rest[:min(len(rest), 100)], "=>", tab.MustEval("async () => { "+rest+" }").String())
		case "sleep":
			n, _ := strconv.Atoi(rest)
			time.Sleep(time.Duration(n) * time.Millisecond)
		case "click":
			tab.MustElement(rest).MustClick()
		case "type":
			tab.MustElement(":focus").MustInput(rest)
		case "size":
			w, h, _ := strings.Cut(rest, "x")
			wi, _ := strconv.Atoi(w)
			hi, _ := strconv.Atoi(h)
			tab.MustSetViewport(wi, hi, 1, false)
		case "shot":
			tab.Shot("/tmp/w/" + rest + ".png")
		}
	}
	t.Log("problems", tab.Problems())
}
