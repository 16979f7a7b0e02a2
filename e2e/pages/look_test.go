package pages_test

import (
	"os"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"

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
		case "prof":
			_ = proto.ProfilerEnable{}.Call(tab)
			_ = proto.ProfilerStart{}.Call(tab)
			tab.MustEval("async () => { " + rest + " }")
			res, err := proto.ProfilerStop{}.Call(tab)
			if err != nil {
				t.Fatal(err)
			}
			self := map[string]int{}
			name := map[int]string{}
			parent := map[int]int{}
			for _, n := range res.Profile.Nodes {
				name[n.ID] = n.CallFrame.FunctionName + ":" + strconv.Itoa(n.CallFrame.LineNumber) + ":" + strconv.Itoa(n.CallFrame.ColumnNumber)
				for _, c := range n.Children {
					parent[c] = n.ID
				}
			}
			for i, id := range res.Profile.Samples {
				self[name[id]+" < "+name[parent[id]]+" < "+name[parent[parent[id]]]] += res.Profile.TimeDeltas[i]
			}
			var keys []string
			for k := range self {
				keys = append(keys, k)
			}
			sort.Slice(keys, func(i, j int) bool { return self[keys[i]] > self[keys[j]] })
			for _, k := range keys[:min(15, len(keys))] {
				t.Log(self[k]/1000, "ms", k)
			}
		case "shot":
			tab.Shot("/tmp/w/" + rest + ".png")
		}
	}
	t.Log("problems", tab.Problems())
}
