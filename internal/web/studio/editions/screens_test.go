package editions

import (
	"testing"

	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil, nil).Routes()), map[string]any{
		"edition": editionView{
			ChangedSince: []changedSinceView{{}}, Opened: []string{"x"}, Entries: []changedEntry{{ID: "e", Branch: "b", Changes: []changeView{{ID: "c"}}}},
			Errors: []findingView{{Links: &brokenLinks{To: "t", Pages: []linkView{{}}}}}, Decisions: []decisionView{{ID: "d"}}, Rest: "r", More: "m",
		},
		"edition edition-body": editionView{Later: "/"},
		"now":                  nowView{Problem: "x", Words: []string{"x"}, Along: []pulledView{{}}, Errors: []findingView{{MendURL: "x"}}, Warnings: []findingView{{}}, WhyNot: "x"},
		"mine": mineView{
			Nothing: true, Parts: []minePart{{Rows: []mineRow{{reviewRow: reviewRow{Message: "x", Late: true}, Edit: "x"}, {Old: true}}}}, Due: []mineDue{{}},
		},
		"review": reviewView{
			Zones: []string{"x"}, Everybody: []part.Option{{Chosen: true}}, Sending: true, More: "x",
			Filters: []part.CountView{{Here: true}}, Said: "x", Problem: "x", Judging: true, Rows: []reviewRow{{Here: true, Message: "x", Due: "x", Late: true}, {Ticked: true}},
			Open: &thingView{
				Views: []part.CountView{{Here: true}, {}}, ReadersURL: "x", OpenURL: "x", Words: []string{"x"}, New: true, Fields: []fieldView{{Runs: []runView{{}, {Gone: true}, {Come: true}}}},
				Blocks: []blockView{{Before: []string{"x"}, After: []string{"x"}, Remarks: []remarkView{{ID: 1, Quote: "x", Settled: true, Answers: []remarkView{{}}}}}}, Comes: []comesView{{Rows: []string{"x"}, More: 1}, {Fine: true}}, Shape: []runView{{}}, Remarks: []remarkView{{ID: 2}}, MayPass: true,
			},
			Rules: &rulesPart{May: true, Branches: []branchAsk{{}}, Choices: []part.Option{{}}},
		},
		"see": seeView{
			Zip: "x", More: "x",
			Error: "x", Made: "x", States: []part.Option{{Chosen: true}}, Readers: []part.Option{{}}, Widths: []seeWidth{{Here: true}, {}}, Planned: true,
			Pages: []seePage{{Here: true}, {}}, Links: []seeLink{{MayEnd: true}, {}},
		},
		"schedule": scheduleView{
			Guess: true, Problem: "x", Said: "x", May: true, MayFreeze: true, Page: "x", ByMonth: true, Zones: []string{"x"}, List: []scheduled{{Late: true, Leaves: true}, {}},
			Days: []scheduleDay{{Today: true, Past: true, Out: true, Frozen: "x", Minutes: []scheduleMinute{{Folded: true, Items: []scheduled{{Leaves: true}}}}}}, Freezes: []freezeView{{Holds: true}},
		},
		"large":            largeView{Waiting: true, Total: 3},
		"large large-body": largeView{Problem: "x"},
		"large layout":     largeView{File: "x"},
		"history":          historyView{PageURL: "x", Rows: []historyRow{{URL: "x", Words: []string{"x"}}, {}}},
		"past":             pastView{},
	})
}
