package addresses

import (
	"testing"

	"candlepath/internal/app/addresses"
	"candlepath/internal/web/studio/part"
	"candlepath/internal/web/studio/screentest"
	"candlepath/internal/web/studio/shell"
)

func TestScreensExecute(t *testing.T) {
	screentest.Execute(t, shell.ScreensOf(New(nil).Routes()), map[string]any{
		"moves": movesView{ToDecide: "x", Groups: []moveGroupView{{Undecided: "x", Open: true, More: "x", URL: "x", Visits: "x", Branches: []moveBranch{{At: "x", Visits: "x", Rows: []moveRow{{Bad: true}, {URL: "x", Keeps: "x"}}}}}}, Said: "x", Problem: "x", Fixed: []fixedRow{{}}},
		"redirects": redirectsView{
			Any: true, Rows: []redirectRow{{Planned: true, Was: "x", Lost: true, CoversURL: "x", Bars: []hitBar{{}}}, {Editing: true}, {}}, Inline: true, Form: newForm(addresses.RedirectList{}, nil, "", nil), Problem: "x", Said: "x",
			Released: releasesView{May: true, Problem: "x", Now: []releasedView{{Below: true}}, Since: []releasedView{{}}},
		},
		"redirect-list": listView{Judged: true, Ready: "x", More: "x", Problem: "x", Rows: []lineView{{Refused: true}, {Changes: true}, {}}, Counts: []part.CountView{{}}},
		"decide":        decideView{Any: true, All: "x", Said: "x", Problem: "x", Rows: []removalRow{{Open: true}, {Now: "x", Note: "x", Above: "x", Meant: []olderGuess{{}}}}},
		"covers":        coversView{Rows: []coversRow{{Own: true}, {Bad: true}}},
		"picture":       pictureView{Problem: "x", Hosts: []part.Option{{Chosen: true}}, Left: []pictureNode{{URL: "x"}, {}}, Right: []pictureNode{{}}, Bands: []pictureBand{{Gone: true}}},
		"rules":         rulesView{Problem: "x", Compact: true, Hosts: []part.Option{{}}, Kinds: []part.Option{{Chosen: true}}},
		"older-import":  olderImportView{Working: true},
		"older": olderView{
			Any: true, Said: "x", Problem: "x", Clear: "x", Sites: []part.Option{{}, {Chosen: true}}, Cover: []coverView{{Parts: []coverPart{{}}}},
			Rows:     []olderRow{{Here: true, Title: "x", Guesses: []olderGuess{{}}}, {Leads: "x"}, {}},
			Selected: &olderDetail{olderRow: olderRow{Title: "x", Guesses: []olderGuess{{}}}, Prev: "x", Next: "x", Rules: []olderRule{{Prefix: true, Differs: []string{"x"}}, {}}},
		},
		"unanswered": unansweredView{Folded: []string{"x"}, Patterns: []string{"x"}, Problem: "x", MoreThanListed: true, Rows: []unansweredRow{{Page: "/x", Guesses: []guessView{{}}}, {Answered: "x"}, {}}},
		"test":       testView{Problem: "x", Alone: true, Rows: []testedView{{History: []string{"x"}, Live: answerView{Bad: true, Steps: []stepView{{}, {Row: "x", Ends: true}}}, Next: answerView{To: "/x"}}}},
	})
}
